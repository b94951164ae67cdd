<script setup lang="ts">
import { ref, watch } from 'vue'
import { useCameras } from './cameras'
import { useMarking } from './marking'
import { useSettings } from '~/editor/settings'
import type { MarkTask } from '~/editor/tools/tool-id'
import { MARK_NAMES } from './mark-tool'
import CameraForm from './CameraForm.vue'
import CutList from './CutList.vue'
import LightForm from './LightForm.vue'
import MarkerForm from './MarkerForm.vue'
import SkyForm from './SkyForm.vue'
import StillDialog from './StillDialog.vue'
import WalkForm from './WalkForm.vue'

const marking = useMarking()
const cameras = useCameras()
const settings = useSettings()
const tabs = [
  { value: 'cameras', name: 'Cameras' },
  { value: 'lights', name: 'Lights' },
  { value: 'markers', name: 'Markers' },
  { value: 'walk', name: 'Walk' },
] as const
type Tab = (typeof tabs)[number]['value']
const tab = ref<Tab>('cameras')
const TASKS: Record<Tab, readonly (MarkTask | 'walk')[]> = {
  cameras: ['camera'],
  lights: ['sun', 'point', 'spot', 'area'],
  markers: ['spawn', 'volume', 'note', 'walk'],
  walk: [],
}
const HINTS: Record<Exclude<Tab, 'walk'>, string> = {
  cameras: 'Put a camera on a surface: a click stands it at eye height, a drag goes on to what it looks at.',
  lights:
    'Put a light on a surface: a click hangs it above, a drag goes on to what it shines at. Shift puts it right there.',
  markers: 'Mark places: where people come in and walk, rooms that mean something, notes.',
}
const taskName = (task: MarkTask | 'walk') => (task === 'walk' ? 'Walking line' : MARK_NAMES[task].name)
const pictureOpen = ref(false)

// What is picked is what its tab is open for.
watch(
  () => marking.picked?.kind,
  kind => {
    if (kind === 'camera') tab.value = 'cameras'
    else if (kind === 'light') tab.value = 'lights'
    else if (kind === 'marker' && tab.value !== 'walk') tab.value = 'markers'
  },
  { immediate: true },
)
</script>

<template>
  <section class="bench-form" aria-labelledby="cameras-title">
    <PanelHead title-id="cameras-title" title="Cameras" />
    <Segments v-model="tab" :options="tabs" :columns="4" label="What to put down" />
    <template v-if="tab !== 'walk'">
      <p class="quiet hint">{{ HINTS[tab] }}</p>
      <div class="tasks" role="group" aria-label="Put down">
        <v-btn
          v-for="task in TASKS[tab]"
          :key="task"
          :active="marking.task === task"
          :aria-pressed="marking.task === task"
          @click="marking.start(task)"
        >
          {{ taskName(task) }}
        </v-btn>
        <v-btn v-if="tab === 'cameras'" @click="marking.cameraHere()">From this view</v-btn>
      </div>
    </template>
    <template v-if="tab === 'cameras'">
      <CameraForm v-if="marking.camera" />
      <h3>In the picture</h3>
      <Tick v-model="settings.kept.guides.thirds" label="Thirds" />
      <Tick v-model="settings.kept.guides.diagonals" label="Diagonals" />
      <Tick v-model="settings.kept.guides.height" label="Height of the eye" />
      <Tick v-model="cameras.showStrip" label="Picture strip" />
      <CutList />
      <v-btn :disabled="cameras.cameras.length === 0" @click="pictureOpen = true">Take pictures …</v-btn>
      <StillDialog v-model="pictureOpen" />
    </template>
    <template v-else-if="tab === 'lights'">
      <LightForm v-if="marking.light" />
      <SkyForm />
    </template>
    <MarkerForm v-else-if="tab === 'markers' && marking.marker" />
    <WalkForm v-else-if="tab === 'walk'" />
  </section>
</template>

<style scoped>
.tasks {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px;
}

.tasks .v-btn--active {
  background: var(--petrol);
  color: rgb(var(--v-theme-on-primary));
}
</style>
