<script setup lang="ts">
import { useModes } from '~/editor/modes'
import type { Bench } from '~/editor/settings-schema'
import { useSettings } from '~/editor/settings'
import { panelInstead, STEPS } from './features'

const settings = useSettings()
const modes = useModes()
const isOpen = (bench: Bench) => settings.panels.showBench && settings.kept.bench === bench && panelInstead() === null

/** A press on the open step closes the bench; one while something else is in it ends that. */
function press(bench: Bench): void {
  const isInstead = panelInstead() !== null
  settings.panels.showBench = isInstead || !isOpen(bench)
  if (isInstead) modes.endAll()
  settings.kept.bench = bench
}
</script>

<template>
  <nav class="steps" aria-label="Steps of the job">
    <v-btn
      v-for="{ bench, name, icon } in STEPS"
      :key="bench"
      class="step"
      variant="text"
      stacked
      :aria-pressed="isOpen(bench)"
      :class="{ current: isOpen(bench) }"
      @click="press(bench)"
    >
      <v-icon :icon="icon" size="24" />
      <span>{{ name }}</span>
    </v-btn>
  </nav>
</template>

<style scoped>
.steps {
  flex: none;
  width: 68px;
  background: rgb(var(--v-theme-rail));
  border-right: 1px solid var(--line);
}

.step.step {
  width: 100%;
  height: calc(54px * var(--scale));
  padding: 0;
  border-left: 3px solid transparent;
  border-radius: 0;
}

.step span {
  display: block;
  margin-top: 3px;
}

.current.current {
  color: var(--petrol);
  background: rgb(var(--v-theme-surface));
  border-left-color: var(--picked);
}
</style>
