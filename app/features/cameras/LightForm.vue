<script setup lang="ts">
import { computed } from 'vue'
import { sunAt } from '~~/core/level/sun'
import { useLevel } from '~/editor/level'
import { useMarking } from './marking'
import { lightFields, PLACE_FIELDS } from './own-fields'
import OwnFields from './OwnFields.vue'
import OwnPresets from './OwnPresets.vue'
import type { Field } from '~~/core/units/field'
import type { SunPlace } from '~~/core/level/kinds/light'

/** How the picked light shines. */
const marking = useMarking()
const level = useLevel()
const one = computed(() => marking.light!)
const own = computed(() => one.value.own)
const set = (fields: object, what: string) => marking.change(fields, what)
const aimed = computed(
  () =>
    own.value.aim
    && (own.value.aim.on === null ? 'a point' : (level.view.get(own.value.aim.on)?.name ?? 'where something was')),
)
const FIRST_PLACE: SunPlace = { latitude: 52, longitude: 5, time: '2026-06-21T12:00', zone: 2, north: 0 }
const place = computed(() => own.value.place)
const stands = computed(() => place.value && sunAt(place.value))
const setPlace = (fields: Partial<SunPlace>) => marking.placeSun({ ...(place.value ?? FIRST_PLACE), ...fields })
const placeWith = (key: Field['path'][number], value: unknown) => ({ ...place.value!, [key]: value })
const checkPlace = (field: Field, value: unknown) =>
  marking.check(one.value.id, { place: placeWith(field.path[0]!, value) })
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
    <OwnPresets :id="one.id" :form="`light-${own.light}`" :own="own" :without="['aim', 'place']" />
    <OwnFields :id="one.id" :own="own" :fields="lightFields(own)" />
    <template v-if="own.light === 'sun'">
      <Tick
        :model-value="place !== null"
        label="Stands by place, date and hour"
        @update:model-value="marking.placeSun($event ? FIRST_PLACE : null)"
      />
      <template v-if="place">
        <FieldRows
          :fields="PLACE_FIELDS"
          :of="place"
          :check="checkPlace"
          @set="(field, value) => marking.placeSun(placeWith(field.path[0]!, value))"
        />
        <FormLine label="Hour">
          <v-slider :model-value="hour" :min="0" :max="23.75" :step="0.25" aria-label="Hour" @end="setHour" />
        </FormLine>
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
