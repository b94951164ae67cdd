<script setup lang="ts">
import { computed } from 'vue'
import { useLevel } from '~/stores/level'

const level = useLevel()
const changes = (count: number) => `${count} ${count === 1 ? 'change' : 'changes'}`
const text = computed(() => {
  const state = level.saving
  if (state.kind === 'saved') return state.revision === 0 ? 'Saved' : `Saved · change ${state.revision}`
  if (state.kind === 'saving') return `Saving ${changes(state.waiting)} …`
  return `The server is away · ${changes(state.waiting)} kept on this device`
})
</script>

<template>
  <span class="state" :class="level.saving.kind" role="status" data-test="save-state">{{ text }}</span>
</template>

<style scoped>
.state {
  font-size: 13px;
  opacity: 0.9;
}

.away {
  padding: 2px 10px;
  border-radius: 10px;
  background: rgb(var(--v-theme-action));
  color: rgb(var(--v-theme-on-action));
  opacity: 1;
}
</style>
