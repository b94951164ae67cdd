<script setup lang="ts">
import { mdiAlignHorizontalLeft, mdiContentDuplicate, mdiCheckDecagramOutline, mdiGrass, mdiCubeOutline, mdiArrowCollapseDown, mdiMovieOpenOutline, mdiPackageVariantClosed, mdiTapeMeasure } from '@mdi/js'
import type { Bench } from '~/stores/settings-schema'
import { useSettings } from '~/stores/settings'

const settings = useSettings()
const steps: { bench: Bench, name: string, icon: string }[] = [
  { bench: 'kit', name: 'Kit', icon: mdiPackageVariantClosed },
  { bench: 'blocks', name: 'Blocks', icon: mdiCubeOutline },
  { bench: 'line-up', name: 'Line up', icon: mdiAlignHorizontalLeft },
  { bench: 'repeat', name: 'Repeat', icon: mdiContentDuplicate },
  { bench: 'scatter', name: 'Scatter', icon: mdiGrass },
  { bench: 'measure', name: 'Measure', icon: mdiTapeMeasure },
  { bench: 'check', name: 'Check', icon: mdiCheckDecagramOutline },
  { bench: 'cameras', name: 'Cameras', icon: mdiMovieOpenOutline },
  { bench: 'settle', name: 'Settle', icon: mdiArrowCollapseDown },
]
const isOpen = (bench: Bench) => settings.kept.showBench && settings.kept.bench === bench

/** A press on the open step closes the bench. */
function press(bench: Bench): void {
  settings.kept.showBench = !isOpen(bench)
  settings.kept.bench = bench
}
</script>

<template>
  <nav class="steps" aria-label="Steps of the job">
    <v-btn v-for="step in steps" :key="step.bench" class="step" variant="text" stacked :aria-pressed="isOpen(step.bench)" :class="{ current: isOpen(step.bench) }" @click="press(step.bench)">
      <v-icon :icon="step.icon" size="24" />
      <span>{{ step.name }}</span>
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
