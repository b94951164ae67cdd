<script setup lang="ts">
/** A question over the page: what it is about, what is to be said or filled in, and the buttons that answer it. */
defineProps<{ title: string }>()
</script>

<template>
  <v-dialog :aria-label="title">
    <section class="sheet">
      <h2>{{ title }}</h2>
      <slot />
      <div class="buttons"><slot name="buttons" /></div>
    </section>
  </v-dialog>
</template>
