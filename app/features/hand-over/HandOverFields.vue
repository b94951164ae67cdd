<script setup lang="ts">
import { computed } from 'vue'
import type { Field } from '~~/core/units/field'
import type { HandOverField } from './hand-over-fields'
import { CUT, HAND_OVER_FIELDS } from './hand-over-fields'
import { useHandingOver } from './handing-over'

/** The choices of the format that is chosen. Only what is otherwise than at first is kept. */
const handing = useHandingOver()
const fields = computed(() => HAND_OVER_FIELDS[handing.format])
const ticks = computed(() => fields.value.filter(({ type }) => type === 'switch'))
const others = computed(() => fields.value.filter(field => field.type !== 'switch' && field !== CUT))

function read(field: Field): unknown {
  const { first } = field as HandOverField
  const kept = handing.options[field.path[0]!] ?? first
  if (field.type === 'switch') return kept === 'true'
  if (field.type === 'several') return kept?.split(',') ?? []
  return field.type === 'number' ? (kept === null ? null : Number(kept)) : kept
}

function set(field: Field, value: unknown): void {
  const key = String(field.path[0])
  const text = Array.isArray(value) && value.length === 0 ? null : String(value)
  handing.set(key, text === (handing.usual[key] ?? (field as HandOverField).first) ? null : text)
}
</script>

<template>
  <FieldRows :fields="others" :of="handing.options" :read="read" @set="set" />
  <div v-if="fields.includes(CUT)" class="metres">
    <FieldRows :fields="[CUT]" :of="handing.options" :read="read" @set="set" />
    <v-btn v-if="read(CUT) !== null" variant="text" @click="handing.set('cut', null)">not cut</v-btn>
  </div>
  <div class="ticks">
    <FieldRows :fields="ticks" :of="handing.options" :read="read" @set="set" />
  </div>
</template>

<style scoped>
.ticks {
  display: grid;
  grid-template-columns: 1fr 1fr;
}

.metres {
  display: grid;
  grid-template-columns: 1fr auto;
  align-items: center;
}
</style>
