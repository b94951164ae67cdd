<script setup lang="ts">
import { mdiAlignHorizontalLeft, mdiContentDuplicate, mdiCubeOutline, mdiPackageVariantClosed } from '@mdi/js'
import type { Bench } from '~/stores/settings'
import { useSettings } from '~/stores/settings'

const settings = useSettings()
const steps: { bench: Bench, name: string, icon: string }[] = [
  { bench: 'kit', name: 'Kit', icon: mdiPackageVariantClosed },
  { bench: 'blocks', name: 'Blocks', icon: mdiCubeOutline },
  { bench: 'line-up', name: 'Line up', icon: mdiAlignHorizontalLeft },
  { bench: 'repeat', name: 'Repeat', icon: mdiContentDuplicate },
]
const isOpen = (bench: Bench) => settings.kept.showBench && settings.kept.bench === bench

function press(bench: Bench): void {
  settings.kept.showBench = !isOpen(bench)
  settings.kept.bench = bench
}
</script>

<template>
  <nav class="steps" aria-label="Steps of the job">
    <button v-for="step in steps" :key="step.bench" type="button" :aria-pressed="isOpen(step.bench)" :class="{ current: isOpen(step.bench) }" @click="press(step.bench)">
      <v-icon :icon="step.icon" size="24" />
      <span>{{ step.name }}</span>
    </button>
  </nav>
</template>

<style scoped>
.steps {
  flex: none;
  width: 68px;
  background: rgb(var(--v-theme-rail));
  border-right: 1px solid var(--line);
}

button {
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 3px;
  width: 100%;
  padding: 9px 0 7px;
  font: 600 12px var(--narrow);
  border-left: 3px solid transparent;
}

.current {
  color: var(--petrol);
  background: rgb(var(--v-theme-surface));
  border-left-color: var(--picked);
}
</style>
