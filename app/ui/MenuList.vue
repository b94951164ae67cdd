<script setup lang="ts">
/** What stands in a menu: things to do, one below the other. */
defineProps<{ label: string }>()
</script>

<template>
  <v-list role="menu" :aria-label="label"><slot /></v-list>
</template>
