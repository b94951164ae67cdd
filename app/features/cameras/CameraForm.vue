<script setup lang="ts">
import { computed } from 'vue'
import { fieldOf, focalOf, horizontalOf } from '~~/core/math/lens'
import { useCameras } from './cameras'
import { useLevel } from '~/editor/level'
import { useMarking } from './marking'

/** What the picked camera sees. */
const marking = useMarking()
const cameras = useCameras()
const level = useLevel()
const one = computed(() => marking.camera!)
const own = computed(() => one.value.own)
const focal = computed(() => focalOf(own.value.fieldOfView, own.value.aspect, own.value.filmWidth))
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
const check = (key: string) => (value: number) => marking.check(one.value.id, { [key]: value })
const checkFocal = (value: number) =>
  value > 0
    ? marking.check(one.value.id, { fieldOfView: fieldOf(value, own.value.aspect, own.value.filmWidth) })
    : 'A focal length is more than 0.'
const isThrough = computed(() => cameras.throughActive === one.value.id)

/** Another width of film keeps the angle; the focal length follows. */
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
    <NumberLine
      label="Field of view, upright"
      quantity="angle"
      :decimals="1"
      :value="own.fieldOfView"
      :check="check('fieldOfView')"
      @commit="set({ fieldOfView: $event }, 'Set the field of view of')"
    />
    <p class="quiet hint">
      Across
      <span class="mono" data-test="across">{{ across.toFixed(1) }}°</span>
    </p>
    <NumberLine
      label="Focal length"
      suffix="mm"
      :decimals="1"
      :value="focal"
      :check="checkFocal"
      @commit="set({ fieldOfView: fieldOf($event, own.aspect, own.filmWidth) }, 'Set the focal length of')"
    />
    <NumberLine
      label="Width of film"
      suffix="mm"
      :decimals="1"
      :value="own.filmWidth"
      :check="check('filmWidth')"
      @commit="set({ filmWidth: $event, fieldOfView: fieldOf(focal, own.aspect, $event) }, 'Set the film of')"
    />
    <Segments
      :model-value="aspect"
      :options="[...ASPECTS.map(([value, name]) => ({ value, name })), { value: 0, name: 'Free' }]"
      :columns="3"
      label="Proportions"
      @update:model-value="setAspect"
    />
    <NumberLine
      v-if="aspect === 0"
      label="Width over height"
      :decimals="3"
      :value="own.aspect"
      :check="check('aspect')"
      @commit="set({ aspect: $event }, 'Set the proportions of')"
    />
    <NumberLine
      label="Near"
      named="Near of the camera"
      quantity="length"
      :value="own.near"
      :check="check('near')"
      @commit="set({ near: $event }, 'Set the near distance of')"
    />
    <NumberLine
      label="Far"
      named="Far of the camera"
      quantity="length"
      :value="own.far"
      :check="check('far')"
      @commit="set({ far: $event }, 'Set the far distance of')"
    />
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
