<script setup lang="ts">
import type { Field, NumberField } from '~~/core/units/field'
import { signOf, valueAt } from '~~/core/units/field'
import type { Entry } from '~~/core/units/entry'
import { applyEntry } from '~~/core/units/entry'
import { writtenFields } from '~~/core/units/written'
import { printQuantity, tidy } from '~~/core/units/quantity'
import { useLevel } from '~/editor/level'
import { computed } from 'vue'
import { useSettings } from '~/editor/settings'
import { useShownNumber } from './use-shown-number'

/**
 * The rows of a form, by their descriptions. What no description can say is put in by whoever has the form. Steps in
 * one row are undone together until it is left.
 */
const props = defineProps<{
  fields: readonly Field[]
  /** What has the values. */
  of: object
  /** What is shown of a value, where that is not the value itself. */
  read?: (field: Field) => unknown
  /** Says what is wrong with a value, or nothing. */
  check?: (field: Field, value: unknown) => string | null
  /** Said before the names of the rows, where forms of the same rows stand beside each other. */
  prefix?: string
}>()
/** `joins` is the same for steps that follow each other, which are undone together. */
const emit = defineEmits<{ set: [field: Field, value: unknown, joins?: string] }>()
const settings = useSettings()
const rows = computed(() => writtenFields(props.fields, settings.axes))
const level = useLevel()
const shownNumber = useShownNumber()

const value = (field: Field) =>
  (props.read?.(field)
    ?? valueAt(props.of, field.path)
    ?? ('otherwise' in field ? field.otherwise : undefined)) as never
const numberAt = (field: Field) => value(field) as number | null
const set = (field: Field, next: unknown, joins?: string) => emit('set', field, next, joins)
const nameOf = ({ named, label }: Field) => named ?? (props.prefix ? `${props.prefix} ${label.toLowerCase()}` : label)
const wrong = (field: Field) => (next: unknown) => beyond(field, next) ?? props.check?.(field, next) ?? null

/** What is wrong with a number that is too small or too large, in the unit it is typed in. */
function beyond(field: Field, next: unknown): string | null {
  if (field.type !== 'number') return null
  const { least = -Infinity, most = Infinity } = field
  const { quantity, unit, decimals, suffix } = shownNumber(field)
  const sign = signOf(field, settings.axes)
  const print = (bound: number) =>
    `${settings.marked(printQuantity(bound * sign, quantity, unit, decimals))} ${suffix}`.trim()
  const [below, above] = sign === 1 ? ['least', 'most'] : ['most', 'least']
  if (Number(next) < least) return `This must be at ${below} ${print(least)}.`
  return Number(next) > most ? `This must be at ${above} ${print(most)}.` : null
}

function enter(field: Field, entry: Entry): void {
  const next = applyEntry(entry, numberAt(field) ?? 0)
  const problem = wrong(field)(next)
  if (problem) level.notify('This number does not fit', [problem])
  else set(field, next)
}

/** By one of what is counted, a step of the grid or of turning, or a tenth. */
function step(field: Field, steps: number): void {
  const { quantity } = field as NumberField
  const { grid, turn } = settings.kept.steps
  const by = quantity === 'length' ? grid.size : quantity === 'angle' ? turn.size : 0.1
  const next = tidy((numberAt(field) ?? 0) + (quantity === 'count' ? Math.sign(steps) : steps * by))
  if (wrong(field)(next) === null) set(field, next, `step ${field.path.join()}`)
}

const turn = (field: Field, on: boolean) => set(field, 'on' in field && field.on ? (on ? field.on : undefined) : on)
const setSome = (options: readonly string[], field: Field, chosen: readonly string[]) =>
  set(
    field,
    options.filter(each => chosen.includes(each)),
  )
/** Numbers with anything between them, as in `9, 11, 13`. */
const setCounts = (field: Field, text: string) => set(field, (text.match(/[\d.]+/g) ?? []).map(Number))
</script>

<template>
  <template v-for="field in rows" :key="`${field.path.join()} ${field.label}`">
    <Tick
      v-if="field.type === 'switch'"
      :model-value="Boolean(value(field))"
      :label="field.label"
      @update:model-value="turn(field, $event)"
    />
    <FormLine v-else :label="field.label" @focusout="level.endJoining()">
      <QuantityField
        v-if="field.type === 'number'"
        v-bind="shownNumber(field)"
        :label="nameOf(field)"
        :axis="field.axis"
        :is-amount="field.isAmount"
        :value="value(field) ?? null"
        :empty="field.empty"
        :check="wrong(field)"
        operators="+*/"
        steps
        @commit="(_value, entry) => enter(field, entry)"
        @step="step(field, $event)"
      />
      <Segments
        v-else-if="field.type === 'choice' && field.isOpen"
        :model-value="value(field)"
        :options="field.options"
        :label="nameOf(field)"
        @update:model-value="set(field, $event)"
      />
      <Choice
        v-else-if="field.type === 'choice'"
        :model-value="value(field)"
        :options="field.options"
        :label="nameOf(field)"
        @update:model-value="set(field, $event)"
      />
      <v-select
        v-else-if="field.type === 'several'"
        class="choice"
        multiple
        :model-value="value(field)"
        :items="[...field.options]"
        :aria-label="nameOf(field)"
        :placeholder="field.empty"
        persistent-placeholder
        @update:model-value="setSome(field.options, field, $event)"
      />
      <ColorBox
        v-else-if="field.type === 'color'"
        :value="value(field)"
        :label="nameOf(field)"
        @commit="set(field, $event)"
      />
      <TextBox
        v-else-if="field.type === 'counts'"
        class="mono"
        :label="nameOf(field)"
        :value="(value(field) as number[]).join(' ')"
        @commit="setCounts(field, $event)"
      />
      <TextBox
        v-else
        :value="value(field)"
        :label="nameOf(field)"
        :placeholder="'empty' in field ? field.empty : undefined"
        :check="wrong(field)"
        @commit="set(field, $event)"
      />
    </FormLine>
  </template>
</template>
