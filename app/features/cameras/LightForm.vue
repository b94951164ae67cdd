<script setup lang="ts">
import { computed } from 'vue'
import { candelaOfPoint, colorOfKelvin, lumenOfArea, lumenOfPoint, solidAngle } from '~~/core/math/photometry'
import { sunAt } from '~~/core/level/sun'
import { useLevel } from '~/editor/level'
import { useMarking } from './marking'
import type { SunPlace } from '~~/core/level/kinds/light'

/** How the picked light shines. */
const marking = useMarking()
const level = useLevel()
const one = computed(() => marking.light!)
const own = computed(() => one.value.own)
const set = (fields: object, what: string) => marking.change(fields, what)
const check = (key: string) => (value: number) => marking.check(one.value.id, { [key]: value })
/** Lumen of what is no sun, and back. */
const perLumen = computed(() =>
  own.value.light === 'point'
    ? candelaOfPoint(1)
    : own.value.light === 'spot'
      ? 1 / solidAngle(own.value.innerCone, own.value.outerCone)
      : 1 / lumenOfArea(1, own.value.width * own.value.height),
)
const lumen = computed(() =>
  own.value.light === 'point' ? lumenOfPoint(own.value.intensity) : own.value.intensity / perLumen.value,
)
const UNIT = { sun: 'lx', point: 'cd', spot: 'cd', area: 'cd/m²' }
const whens = [
  { value: 'always', name: 'Always' },
  { value: 'day', name: 'By day' },
  { value: 'night', name: 'By night' },
] as const
const aimed = computed(
  () =>
    own.value.aim
    && (own.value.aim.on === null ? 'a point' : (level.view.get(own.value.aim.on)?.name ?? 'where something was')),
)
const FIRST_PLACE: SunPlace = { latitude: 52, longitude: 5, time: '2026-06-21T12:00', zone: 2, north: 0 }
const place = computed(() => own.value.place)
const stands = computed(() => place.value && sunAt(place.value))
const setPlace = (fields: Partial<SunPlace>) => marking.placeSun({ ...(place.value ?? FIRST_PLACE), ...fields })
const checkPlace = (key: keyof SunPlace) => (value: number) =>
  marking.check(one.value.id, { place: { ...place.value!, [key]: value } })
const checkTime = (text: string) => marking.check(one.value.id, { place: { ...place.value!, time: text } })
const hour = computed(() =>
  place.value ? Number(place.value.time.slice(11, 13)) + Number(place.value.time.slice(14, 16)) / 60 : 12,
)
function setHour(value: number): void {
  const minutes = Math.min(Math.max(Math.round(value * 60), 0), 1439)
  const text = (of: number) => String(of).padStart(2, '0')
  setPlace({ time: `${place.value!.time.slice(0, 11)}${text(Math.floor(minutes / 60))}:${text(minutes % 60)}` })
}
</script>

<template>
  <section class="form-part" :aria-label="one.name">
    <h3>{{ one.name }}</h3>
    <Tick
      :model-value="own.on"
      label="On"
      @update:model-value="set({ on: $event }, $event ? 'Switch on' : 'Switch off')"
    />
    <FormLine label="Shines">
      <Segments
        :model-value="own.when"
        :options="whens"
        label="When it shines"
        @update:model-value="set({ when: $event }, 'Set when to shine of')"
      />
    </FormLine>
    <FormLine label="Colour">
      <ColorBox
        :value="own.color"
        label="Colour of the light"
        @commit="set({ color: $event, temperature: null }, 'Colour')"
      />
    </FormLine>
    <NumberLine
      label="Temperature"
      empty="by colour"
      suffix="K"
      :decimals="0"
      :value="own.temperature"
      :check="check('temperature')"
      @commit="set({ temperature: $event, color: colorOfKelvin($event) }, 'Set the temperature of')"
    />
    <NumberLine
      label="Brightness"
      :suffix="UNIT[own.light]"
      :decimals="1"
      :value="own.intensity"
      :check="check('intensity')"
      @commit="set({ intensity: $event }, 'Set the brightness of')"
    />
    <NumberLine
      v-if="own.light !== 'sun'"
      label="In lumen"
      suffix="lm"
      :decimals="0"
      :value="lumen"
      :check="value => check('intensity')(value * perLumen)"
      @commit="set({ intensity: $event * perLumen }, 'Set the brightness of')"
    />
    <template v-if="own.light !== 'sun'">
      <NumberLine
        label="Reaches (0: no end)"
        named="Range"
        quantity="length"
        :value="own.range"
        :check="check('range')"
        @commit="set({ range: $event }, 'Set the range of')"
      />
    </template>
    <template v-if="own.light === 'spot'">
      <NumberLine
        label="Cone, to each side"
        named="Outer cone"
        quantity="angle"
        :decimals="1"
        :value="own.outerCone"
        :check="check('outerCone')"
        @commit="set({ outerCone: $event }, 'Set the cone of')"
      />
      <NumberLine
        label="Fades from"
        named="Inner cone"
        quantity="angle"
        :decimals="1"
        :value="own.innerCone"
        :check="check('innerCone')"
        @commit="set({ innerCone: $event }, 'Set the cone of')"
      />
    </template>
    <template v-if="own.light === 'area'">
      <NumberLine
        label="Width"
        named="Width of the light"
        quantity="length"
        :value="own.width"
        :check="check('width')"
        @commit="set({ width: $event }, 'Set the width of')"
      />
      <NumberLine
        label="Height"
        named="Height of the light"
        quantity="length"
        :value="own.height"
        :check="check('height')"
        @commit="set({ height: $event }, 'Set the height of')"
      />
    </template>
    <Tick
      v-if="own.light !== 'area'"
      :model-value="own.shadow"
      :label="own.light === 'sun' ? 'Casts shadows' : 'Casts shadows while it is near'"
      @update:model-value="set({ shadow: $event }, 'Set the shadows of')"
    />
    <template v-if="own.light === 'sun'">
      <Tick
        :model-value="place !== null"
        label="Stands by place, date and hour"
        @update:model-value="marking.placeSun($event ? FIRST_PLACE : null)"
      />
      <template v-if="place">
        <NumberLine
          label="Latitude, north"
          named="Latitude"
          quantity="angle"
          :value="place.latitude"
          :check="checkPlace('latitude')"
          @commit="setPlace({ latitude: $event })"
        />
        <NumberLine
          label="Longitude, east"
          named="Longitude"
          quantity="angle"
          :value="place.longitude"
          :check="checkPlace('longitude')"
          @commit="setPlace({ longitude: $event })"
        />
        <FormLine label="Date and time">
          <TextBox :value="place.time" label="Date and time" :check="checkTime" @commit="setPlace({ time: $event })" />
        </FormLine>
        <FormLine label="Hour">
          <v-slider :model-value="hour" :min="0" :max="23.75" :step="0.25" aria-label="Hour" @end="setHour" />
        </FormLine>
        <NumberLine
          label="Hours ahead of UTC"
          :value="place.zone"
          :check="checkPlace('zone')"
          @commit="setPlace({ zone: $event })"
        />
        <NumberLine
          label="North, from -Z clockwise"
          named="North"
          quantity="angle"
          :value="place.north"
          :check="checkPlace('north')"
          @commit="setPlace({ north: $event })"
        />
        <p class="quiet hint">
          It stands
          <span class="mono" data-test="sun-altitude">{{ stands!.altitude.toFixed(1) }}°</span>
          high, at
          <span class="mono">{{ stands!.azimuth.toFixed(1) }}°</span>
          from north{{ stands!.altitude < 0 ? ': below the horizon' : '' }}.
        </p>
      </template>
    </template>
    <div v-if="own.light !== 'point'" class="line">
      <span>Aims at {{ aimed ?? 'nothing' }}</span>
      <v-btn @click="marking.pickAim()">Aim at …</v-btn>
      <v-btn v-if="own.aim" @click="set({ aim: null }, 'Let go of the aim of')">Let go</v-btn>
    </div>
  </section>
</template>

<style scoped>
.v-slider {
  flex: 1;
}
</style>
