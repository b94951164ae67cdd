<script setup lang="ts">
/** An icon's path as it is; for lists, where a full icon component for each of many rows costs too much. */
defineProps<{ path: string; size?: number }>()
</script>

<template>
  <svg viewBox="0 0 24 24" :width="size ?? 16" :height="size ?? 16" aria-hidden="true">
    <path :d="path" fill="currentColor" />
  </svg>
</template>

<style scoped>
svg {
  display: block;
}
</style>
