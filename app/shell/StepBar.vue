<script setup lang="ts">
import type { Bench } from '~/editor/settings-schema'
import { useSettings } from '~/editor/settings'
import { STEPS } from './features'

const settings = useSettings()
const isOpen = (bench: Bench) => settings.kept.showBench && settings.kept.bench === bench

/** A press on the open step closes the bench. */
function press(bench: Bench): void {
  settings.kept.showBench = !isOpen(bench)
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
  height: 54px;
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
