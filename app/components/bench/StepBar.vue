<script setup lang="ts">
import { mdiPackageVariantClosed } from '@mdi/js'
import { useSettings } from '~/stores/settings'

const settings = useSettings()
const steps = [{ name: 'Kit', icon: mdiPackageVariantClosed }]
</script>

<template>
  <nav class="steps" aria-label="Steps of the job">
    <button
      v-for="step in steps" :key="step.name" type="button" :aria-pressed="settings.kept.showBench" :class="{ current: settings.kept.showBench }"
      @click="settings.kept.showBench = !settings.kept.showBench"
    >
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
