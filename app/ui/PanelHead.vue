<script setup lang="ts">
/** The head of a panel: what it is called, what is to be done with all of it, and what it is. */
defineProps<{ title: string; titleId?: string }>()
</script>

<template>
  <div class="panel-head">
    <h2 :id="titleId">{{ title }}</h2>
    <slot />
    <AskMark />
  </div>
</template>

<style scoped>
.panel-head {
  display: flex;
  align-items: center;
  gap: 6px;
}

h2 {
  flex: 1;
  min-width: 0;
  overflow-wrap: anywhere;
}
</style>
