<script setup lang="ts">
import { mdiAlertCircle, mdiAlertOutline, mdiCheck, mdiInformationOutline } from '@mdi/js'
import { computed } from 'vue'
import { counted } from '~~/core/units/plural'
import { useChecking } from './checking'
import { useSteps } from '~/editor/steps'

/** How many findings the level check has, by how bad they are; a click opens its list. */
const checking = useChecking()
const steps = useSteps()
const shown = computed(() =>
  (
    [
      ['error', mdiAlertCircle],
      ['warning', mdiAlertOutline],
      ['note', mdiInformationOutline],
    ] as const
  )
    .map(([severity, icon]) => ({ severity, icon, name: severity, count: checking.counts[severity] }))
    .filter(({ count }) => count > 0),
)
const isLooking = computed(() => checking.progress !== null)
const label = computed(
  () =>
    `Level check: ${[...shown.value.map(({ count, name }) => counted(count, name)), ...(isLooking.value ? ['looking'] : [])].join(', ') || 'nothing is wrong'}`,
)
</script>

<template>
  <v-btn
    class="state"
    variant="text"
    :aria-label="label"
    :title="label"
    data-test="check-state"
    @click="steps.open('check')"
  >
    <span v-for="{ severity, icon, count } in shown" :key="severity" class="count">
      <v-icon :icon="icon" size="16" />
      <span class="mono">{{ count.toLocaleString('en') }}</span>
    </span>
    <v-progress-circular v-if="isLooking" class="count" indeterminate size="14" width="2" aria-hidden="true" />
    <v-icon v-else-if="shown.length === 0" :icon="mdiCheck" size="16" />
  </v-btn>
</template>

<style scoped>
.state.state {
  min-width: var(--target);
  height: max(30px, var(--target));
  padding: 0 6px;
  color: inherit;
}

.count {
  display: flex;
  align-items: center;
  gap: 3px;
  margin: 0 4px;
  font-size: var(--small);
}
</style>
