<script setup lang="ts">
import { computed } from 'vue'
import { UNREACHABLE } from '~/api/client'
import { useAuth } from '~/editor/auth'
import { useLevel } from '~/editor/level'
import { counted } from '~~/core/units/plural'

const auth = useAuth()
const level = useLevel()
const changes = (count: number) => `${counted(count, 'change')}`
const text = computed(() => {
  const state = level.saving
  if (state.kind === 'saved') return state.revision === 0 ? 'Saved' : `Saved · change ${state.revision}`
  if (state.kind === 'saving') return `Saving ${changes(state.waiting)} …`
  const why = state.reason === UNREACHABLE ? 'The server is away' : state.reason.replace(/\..*/, '')
  return `${why} · ${changes(state.waiting)} ${state.isKept ? 'kept on this device' : 'in this window only'}`
})
</script>

<template>
  <span v-if="auth.mayOnlyRead" class="state" role="status" data-test="save-state">Only looking</span>
  <span v-else class="state" :class="level.saving.kind" role="status" data-test="save-state">{{ text }}</span>
</template>

<style scoped>
.state {
  overflow: hidden;
  font-size: var(--body);
  text-overflow: ellipsis;
  white-space: nowrap;
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
