<script setup lang="ts">
import { computed } from 'vue'
import { horizontalOf } from '~~/core/math/lens'
import { useCameras } from './cameras'
import { useLevel } from '~/editor/level'
import { useMarking } from './marking'
import { ANGLE_FIELD, ASPECT_FIELD, DEPTH_FIELDS, LENS_FIELDS } from './own-fields'
import OwnFields from './OwnFields.vue'
import OwnPresets from './OwnPresets.vue'

/** What the picked camera sees. */
const marking = useMarking()
const cameras = useCameras()
const level = useLevel()
const one = computed(() => marking.camera!)
const own = computed(() => one.value.own)
const across = computed(() => horizontalOf(own.value.fieldOfView, own.value.aspect))
const ASPECTS = [
  [16 / 9, '16:9'],
  [2.39, '2.39:1'],
  [4 / 3, '4:3'],
  [1, '1:1'],
  [9 / 16, '9:16'],
] as const
const aspect = computed(() => ASPECTS.find(([value]) => Math.abs(value - own.value.aspect) < 1e-3)?.[0] ?? 0)
const aimed = computed(
  () =>
    own.value.aim
    && (own.value.aim.on === null ? 'a point' : (level.view.get(own.value.aim.on)?.name ?? 'where something was')),
)
const set = (fields: object, what: string) => marking.change(fields, what)
const isThrough = computed(() => cameras.throughActive === one.value.id)

/** Free proportions begin beside those that have a name. */
function setAspect(value: number): void {
  if (value > 0) set({ aspect: value }, 'Set the proportions of')
  else set({ aspect: Math.round(own.value.aspect * 1000 + 1) / 1000 }, 'Set the proportions of')
}
</script>

<template>
  <section class="form-part" :aria-label="one.name">
    <h3>{{ one.name }}</h3>
    <v-btn
      class="main"
      color="action"
      variant="flat"
      @click="isThrough ? cameras.lookFree() : cameras.lookThrough(one.id)"
    >
      {{ isThrough ? 'Leave the camera' : 'Look through it' }}
    </v-btn>
    <OwnPresets :id="one.id" form="camera" :own="own" :without="['aim', 'cut']" />
    <OwnFields :id="one.id" :own="own" :fields="[ANGLE_FIELD]" />
    <p class="quiet hint">
      Across
      <span class="mono" data-test="across">{{ across.toFixed(1) }}°</span>
    </p>
    <OwnFields :id="one.id" :own="own" :fields="LENS_FIELDS" />
    <Segments
      :model-value="aspect"
      :options="[...ASPECTS.map(([value, name]) => ({ value, name })), { value: 0, name: 'Free' }]"
      :columns="3"
      label="Proportions"
      @update:model-value="setAspect"
    />
    <OwnFields :id="one.id" :own="own" :fields="aspect === 0 ? [ASPECT_FIELD, ...DEPTH_FIELDS] : DEPTH_FIELDS" />
    <div class="line">
      <span>Aims at {{ aimed ?? 'nothing' }}</span>
    </div>
    <div class="line">
      <v-btn @click="marking.pickAim()">Aim at …</v-btn>
      <v-btn v-if="own.aim" @click="set({ aim: null }, 'Let go of the aim of')">Let go</v-btn>
      <v-btn :aria-pressed="own.cut !== null" @click="cameras.toggleCut(one.id)">
        {{ own.cut ? 'Out of the cut list' : 'Into the cut list' }}
      </v-btn>
    </div>
  </section>
</template>
