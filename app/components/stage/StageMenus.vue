<script setup lang="ts">
import { mdiBookmarkOutline, mdiClose, mdiEyeOutline, mdiVideoOutline, mdiViewGridOutline } from '@mdi/js'
import { computed, ref } from 'vue'
import { useStations } from '~/composables/use-stations'
import { useEdits } from '~/stores/edits'
import { useEditor } from '~/stores/editor'
import { useSettings } from '~/stores/settings'
import type { Look } from '~/stage/view'

const editor = useEditor()
const edits = useEdits()
const settings = useSettings()
const { stations, current, jump, step } = useStations()
const active = computed(() => editor.panes.find(pane => pane.active))
const looks: { look: Look, name: string }[] = [
  { look: 'lit', name: 'Lit' }, { look: 'even', name: 'Evenly lit' }, { look: 'wire', name: 'Wireframe' }, { look: 'clear', name: 'See-through' },
]
const layouts = [{ layout: 'one', name: 'One' }, { layout: 'two', name: 'Two' }, { layout: 'four', name: 'Four' }] as const
const shown = [
  { key: 'grid', name: 'Grid' }, { key: 'sky', name: 'Sky' }, { key: 'camera', name: 'Cameras' }, { key: 'light', name: 'Lights' }, { key: 'marker', name: 'Markers' }, { key: 'hover', name: 'Outline of what a click would pick' },
] as const
const stationName = ref('')
const checkClip = (value: number) => value >= 0 ? null : 'A distance cannot be negative; 0 lets it follow.'

function save(): void {
  const name = stationName.value.trim() || `Station ${stations.value.length + 1}`
  if (edits.saveStation(name)) stationName.value = ''
}
</script>

<template>
  <div class="menus">
    <v-menu :close-on-content-click="false">
      <template #activator="{ props }"><button v-bind="props" type="button" class="opener" aria-label="View" title="View"><v-icon :icon="mdiVideoOutline" size="18" /></button></template>
      <section class="sheet" aria-label="View">
        <h3>Panes</h3>
        <div class="segments"><button v-for="entry in layouts" :key="entry.layout" type="button" :aria-pressed="editor.layout === entry.layout" @click="editor.setLayout(entry.layout)">{{ entry.name }}</button></div>
        <h3>Look of this pane</h3>
        <div class="segments"><button v-for="entry in looks" :key="entry.look" type="button" :aria-pressed="active?.look === entry.look" @click="editor.changePane({ look: entry.look })">{{ entry.name }}</button></div>
        <template v-if="active">
          <label class="line"><span>Field of view</span>
            <input type="range" min="20" max="110" step="1" :value="active.fieldOfView" aria-label="Field of view" @input="editor.changePane({ fieldOfView: Number(($event.target as HTMLInputElement).value) })">
            <span class="mono" data-test="field-of-view">{{ Math.round(active.fieldOfView) }}°</span>
          </label>
          <div class="line"><span>Near, far (0: by itself)</span>
            <QuantityField label="Near" quantity="length" unit="m" :decimals="2" suffix="m" :value="active.clip.near" :check="checkClip" @commit="editor.changePane({ clip: { near: $event, far: active!.clip.far } })" />
            <QuantityField label="Far" quantity="length" unit="m" :decimals="0" suffix="m" :value="active.clip.far" :check="checkClip" @commit="editor.changePane({ clip: { near: active!.clip.near, far: $event } })" />
          </div>
        </template>
        <div class="line"><button type="button" class="link" @click="editor.lookAtSelection()">Look at picked (L)</button><button type="button" class="link" @click="editor.lookAtAll()">Everything (⇧L)</button></div>
      </section>
    </v-menu>
    <v-menu :close-on-content-click="false">
      <template #activator="{ props }"><button v-bind="props" type="button" class="opener" aria-label="Show" title="Show"><v-icon :icon="mdiEyeOutline" size="18" /></button></template>
      <section class="sheet" aria-label="Show">
        <label v-for="entry in shown" :key="entry.key" class="tick"><input v-model="settings.kept.show[entry.key]" type="checkbox"> {{ entry.name }}</label>
        <label class="line"><span>Size of marks</span><input v-model.number="settings.kept.markSize" type="range" min="12" max="48" aria-label="Size of marks"><span class="mono">{{ settings.kept.markSize }}</span></label>
        <label class="tick"><input v-model="settings.kept.marksPickable" type="checkbox"> Marks can be picked on the stage</label>
      </section>
    </v-menu>
    <v-menu :close-on-content-click="false">
      <template #activator="{ props }"><button v-bind="props" type="button" class="opener" aria-label="Stations" title="Stations"><v-icon :icon="mdiBookmarkOutline" size="18" /></button></template>
      <section class="sheet" aria-label="Stations">
        <p v-if="stations.length === 0" class="quiet">Save where you look from, to jump back to it.</p>
        <div v-for="station in stations" :key="station.id" class="line">
          <button type="button" class="link grow" :class="{ current: station.id === current }" @click="jump(station)">{{ station.name }}</button>
          <v-btn :icon="mdiClose" size="x-small" variant="text" :aria-label="`Remove ${station.name}`" @click="edits.removeStation(station.id)" />
        </div>
        <div class="line"><input v-model="stationName" class="text-box" placeholder="Name" aria-label="Name of the station" @keydown.enter="save"><button type="button" class="main-button" @click="save">Save this view</button></div>
        <div class="line"><button type="button" class="link" @click="step(-1)">Previous</button><button type="button" class="link" @click="step(1)">Next</button></div>
      </section>
    </v-menu>
    <button type="button" class="opener narrow" title="Four panes, or the one under the pointer: key 5" aria-label="Four panes and back" @click="editor.toggleFull()"><v-icon :icon="mdiViewGridOutline" size="17" /></button>
  </div>
</template>

<style scoped>
.menus {
  display: flex;
  gap: 6px;
}

.opener {
  display: flex;
  align-items: center;
  gap: 5px;
  height: 32px;
  padding: 0 7px;
  background: rgb(var(--v-theme-surface));
  border: 1px solid var(--line);
  border-radius: 8px;
  font-size: 13px;
}

.sheet {
  width: 316px;
}

.line input[type='range'] {
  flex: 1;
}

.line :deep(.field) {
  width: 78px;
}

.grow {
  flex: 1;
}

.current {
  font-weight: 600;
}
</style>
