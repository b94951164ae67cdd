<script setup lang="ts">
/** A question over the page: what it is about, what is to be said or filled in, and the buttons that answer it. */
defineProps<{
  title: string
  /** Of the handbook, that says more. */
  page: string
}>()
</script>

<template>
  <v-dialog :aria-label="title">
    <section class="sheet" :data-page="page">
      <PanelHead :title="title" />
      <slot />
      <div class="buttons"><slot name="buttons" /></div>
    </section>
  </v-dialog>
</template>
