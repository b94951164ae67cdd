<script setup lang="ts">
import { mdiBookmarkOutline, mdiClose, mdiEyeOutline, mdiVideoOutline, mdiViewGridOutline } from '@mdi/js'
import { computed, ref } from 'vue'
import { useStations } from './use-stations'
import { useEdits } from '~/editor/edits'
import { useStageSession } from '~/editor/stage-session'
import { useSettings } from '~/editor/settings'
import type { Look } from '~/stage/view'
import { useKeys } from '~/editor/keys/keys'

const keys = useKeys()

const session = useStageSession()
const edits = useEdits()
const settings = useSettings()
const { stations, current, jump, step } = useStations()
const active = computed(() => session.panes.find(pane => pane.active))
const looks: { value: Look; name: string }[] = [
  { value: 'lit', name: 'Lit' },
  { value: 'even', name: 'Evenly lit' },
  { value: 'light', name: 'Light only' },
  { value: 'wire', name: 'Wireframe' },
  { value: 'clear', name: 'See-through' },
]
const layouts = [
  { value: 'one', name: 'One' },
  { value: 'two', name: 'Two' },
  { value: 'four', name: 'Four' },
] as const
const shown = [
  { key: 'grid', name: 'Grid' },
  { key: 'sky', name: 'Sky' },
  { key: 'camera', name: 'Cameras' },
  { key: 'light', name: 'Lights' },
  { key: 'marker', name: 'Markers' },
  { key: 'people', name: 'Where others look from' },
  { key: 'hover', name: 'Outline of what a click would pick' },
] as const
const stationName = ref('')
const checkClip = (value: number) => (value >= 0 ? null : 'A distance cannot be negative; 0 lets it follow.')

function save(): void {
  const name = stationName.value.trim() || `Station ${stations.value.length + 1}`
  if (edits.saveStation(name)) stationName.value = ''
}
</script>

<template>
  <div class="menus">
    <v-menu :close-on-content-click="false">
      <template #activator="{ props }">
        <IconButton v-bind="props" class="opener" :icon="mdiVideoOutline" :size="18" label="View" />
      </template>
      <section class="sheet" aria-label="View">
        <h3>Panes</h3>
        <Segments
          :model-value="session.layout"
          :options="layouts"
          label="Panes"
          @update:model-value="session.setLayout"
        />
        <h3>Look of this pane</h3>
        <Segments
          :model-value="active?.look ?? null"
          :options="looks"
          :columns="3"
          label="Look of this pane"
          @update:model-value="session.changePane({ look: $event })"
        />
        <template v-if="active">
          <FormLine label="Field of view">
            <v-slider
              :model-value="active.fieldOfView"
              :min="20"
              :max="110"
              :step="1"
              aria-label="Field of view"
              @update:model-value="session.changePane({ fieldOfView: $event })"
            />
            <span class="mono" data-test="field-of-view">{{ Math.round(active.fieldOfView) }}°</span>
          </FormLine>
          <FormLine label="Near, far (0: by itself)">
            <QuantityField
              label="Near"
              quantity="length"
              unit="m"
              :decimals="2"
              suffix="m"
              :value="active.clip.near"
              :check="checkClip"
              @commit="session.changePane({ clip: { near: $event, far: active!.clip.far } })"
            />
            <QuantityField
              label="Far"
              quantity="length"
              unit="m"
              :decimals="0"
              suffix="m"
              :value="active.clip.far"
              :check="checkClip"
              @commit="session.changePane({ clip: { near: active!.clip.near, far: $event } })"
            />
          </FormLine>
        </template>
        <div class="line">
          <v-btn class="link" variant="plain" @click="session.lookAtSelection()">
            {{ keys.said('Look at picked ({Look at what is picked})') }}
          </v-btn>
          <v-btn class="link" variant="plain" @click="session.lookAtAll()">Everything (⇧L)</v-btn>
        </div>
      </section>
    </v-menu>
    <v-menu :close-on-content-click="false">
      <template #activator="{ props }">
        <IconButton v-bind="props" class="opener" :icon="mdiEyeOutline" :size="18" label="Show" />
      </template>
      <section class="sheet" aria-label="Show">
        <Tick v-for="entry in shown" :key="entry.key" v-model="settings.kept.show[entry.key]" :label="entry.name" />
        <FormLine label="Size of marks">
          <v-slider v-model="settings.kept.markSize" :min="12" :max="48" :step="1" aria-label="Size of marks" />
          <span class="mono">{{ settings.kept.markSize }}</span>
        </FormLine>
        <Tick v-model="settings.kept.marksPickable" label="Marks can be picked on the stage" />
      </section>
    </v-menu>
    <v-menu :close-on-content-click="false">
      <template #activator="{ props }">
        <IconButton v-bind="props" class="opener" :icon="mdiBookmarkOutline" :size="18" label="Stations" />
      </template>
      <section class="sheet" aria-label="Stations">
        <p v-if="stations.length === 0" class="quiet">Save where you look from, to jump back to it.</p>
        <div v-for="station in stations" :key="station.id" class="line">
          <v-btn class="link grow" variant="plain" :class="{ current: station.id === current }" @click="jump(station)">
            {{ station.name }}
          </v-btn>
          <IconButton :icon="mdiClose" :label="`Remove ${station.name}`" @click="edits.removeStation(station.id)" />
        </div>
        <div class="line">
          <v-text-field
            v-model="stationName"
            placeholder="Name"
            aria-label="Name of the station"
            @keydown.enter="save"
          />
          <v-btn class="main" color="action" variant="flat" @click="save">Save this view</v-btn>
        </div>
        <div class="line">
          <v-btn class="link" variant="plain" @click="step(-1)">Previous</v-btn>
          <v-btn class="link" variant="plain" @click="step(1)">Next</v-btn>
        </div>
      </section>
    </v-menu>
    <IconButton
      class="opener"
      :icon="mdiViewGridOutline"
      label="Four panes and back"
      does="Four panes, or the one under the pointer"
      @click="session.toggleFull()"
    />
  </div>
</template>

<style scoped>
.menus {
  display: flex;
  gap: 4px;
}

.opener.opener {
  width: 31px !important;
  height: 31px !important;
  background: rgb(var(--v-theme-surface));
  border: 1px solid var(--line);
}

.sheet {
  width: 326px;
}

.line :deep(.field) {
  width: 78px;
}

.v-slider {
  flex: 1;
}

.grow {
  flex: 1;
  justify-content: start;
}

.current.current {
  font-weight: 600;
}
</style>
