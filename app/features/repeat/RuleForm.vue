<script setup lang="ts">
import { computed } from 'vue'
import type { Rule } from '~~/core/arrange/rules'
import type { Entry } from '~~/core/units/entry'
import { applyEntry } from '~~/core/units/entry'
import { tidy } from '~~/core/units/quantity'
import type { NumberField, RuleField } from '~~/core/arrange/fields'
import { gapIn, withGap, wrongGap } from '~~/core/arrange/gaps'
import type { Vec3 } from '~~/core/math/vectors'
import type { Rise } from '~~/core/arrange/rise'
import { definitionOf, keysOf } from '~~/core/arrange/rules'
import { valueAt, withValue } from '~~/core/arrange/rule-values'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useTools } from '~/editor/tools'
import RiseFields from './RiseFields.vue'

const props = defineProps<{
  rule: Rule
  /** Of its sources, along X, Y and Z: for the gaps between copies. */
  size?: Vec3 | null
  /** Some numbers of the rule; without them all that its kind has. */
  some?: readonly RuleField[]
  /** What else is wrong with a rule, in words. */
  refuses?: (rule: Rule) => string | null
}>()
const emit = defineEmits<{ change: [rule: Rule, joins?: string] }>()
const settings = useSettings()
const level = useLevel()
const tools = useTools()
const fields = computed(() => props.some ?? definitionOf(props.rule).fields(props.rule))
const remarks = computed(() => (props.some ? [] : definitionOf(props.rule).remarks(props.rule, tools.printLength)))

/** How a number is shown: its quantity, unit, decimals and suffix. */
function shown({ quantity }: NumberField) {
  if (quantity === 'length')
    return {
      quantity: 'length' as const,
      unit: settings.kept.unit as string,
      decimals: settings.decimals,
      suffix: settings.suffix,
    }
  if (quantity === 'angle') return { quantity: 'angle' as const, unit: undefined, decimals: 2, suffix: '°' }
  if (quantity === 'share') return { quantity: 'factor' as const, unit: '%', decimals: 0, suffix: '%' }
  return {
    quantity: 'factor' as const,
    unit: undefined,
    decimals: quantity === 'count' ? 0 : 3,
    suffix: quantity === 'count' || quantity === 'number' ? '' : '×',
  }
}

type ChoiceField = Extract<RuleField, { type: 'choice' }>
const choiceAt = (field: ChoiceField) => (valueAt(props.rule, field.path) ?? field.otherwise) as string | number
const kept = (field: NumberField) => (valueAt(props.rule, field.path) ?? field.otherwise) as number | Vec3
const size = computed((): Vec3 => props.size ?? [0, 0, 0])
const numberAt = (field: NumberField) =>
  field.beyond ? gapIn(field, kept(field), size.value) : (kept(field) as number)
/** What the rule has for a number that is shown. */
const asKept = (field: NumberField, value: number) =>
  field.beyond ? withGap(field, kept(field), value, size.value) : value
const check = (field: NumberField) => (value: number) => {
  const wrong = field.beyond ? wrongGap(field, kept(field), value, size.value) : null
  if (wrong) return wrong
  const next = withValue(props.rule, field.path, asKept(field, value))
  return next.ok ? (props.refuses?.(next.rule) ?? null) : next.error
}

function set(field: RuleField, value: unknown, joins?: string, rule = props.rule): void {
  const next = withValue(rule, field.path, value)
  if (next.ok) emit('change', next.rule, joins)
  else level.tell('This number does not fit', [next.error])
}

const choose = (field: ChoiceField, value: string | number) =>
  set(field, value, undefined, { ...props.rule, ...field.also?.[value] })
function enter(field: NumberField, entry: Entry): void {
  const value = applyEntry(entry, numberAt(field))
  const wrong = check(field)(value)
  if (wrong) level.tell('This number does not fit', [wrong])
  else set(field, asKept(field, value))
}

function step(field: NumberField, steps: number): void {
  const { grid, turn } = settings.kept.steps
  const by =
    field.quantity === 'count'
      ? Math.sign(steps)
      : steps * (field.quantity === 'length' ? grid.size : field.quantity === 'angle' ? turn.size : 0.1)
  if (field.beyond && wrongGap(field, kept(field), tidy(numberAt(field) + by), size.value)) return
  const value = asKept(field, tidy(numberAt(field) + by))
  if (withValue(props.rule, field.path, value).ok) set(field, value, `step ${field.path.join()}`)
}

/** Numbers with anything between them, as in `9, 11, 13`. */
const setCounts = (field: RuleField, text: string) => set(field, (text.match(/[\d.]+/g) ?? []).map(Number))

const turn = (field: Extract<RuleField, { type: 'switch' }>, on: boolean) =>
  set(field, field.on ? (on ? field.on : undefined) : on)
</script>

<template>
  <div class="rule" @focusout="level.endJoining()">
    <template v-for="field in fields" :key="`${field.path.join()} ${field.label}`">
      <Tick
        v-if="field.type === 'switch'"
        :model-value="Boolean(valueAt(rule, field.path))"
        :label="field.label"
        @update:model-value="turn(field, $event)"
      />
      <RiseFields
        v-else-if="field.type === 'rise'"
        :rise="valueAt(rule, field.path) as Rise"
        :rows="valueAt(rule, field.rows) as number"
        :copies="keysOf(rule).count"
        @change="(rise, joins) => set(field, rise, joins)"
      />
      <FormLine v-else-if="field.type === 'counts'" :label="field.label">
        <TextBox
          class="mono"
          :label="field.label"
          :value="(valueAt(rule, field.path) as number[]).join(' ')"
          @commit="setCounts(field, $event)"
        />
      </FormLine>
      <FormLine v-else-if="field.type === 'number' || field.type === 'choice'" :label="field.label">
        <Choice
          v-if="field.type === 'choice'"
          :model-value="choiceAt(field)"
          :options="field.options"
          :label="field.label"
          @update:model-value="choose(field, $event)"
        />
        <QuantityField
          v-else
          v-bind="shown(field)"
          :label="field.named ?? field.label"
          :axis="field.axis"
          :value="numberAt(field)"
          :check="check(field)"
          operators="+*/"
          steps
          @commit="(_value, entry) => enter(field, entry)"
          @step="step(field, $event)"
        />
      </FormLine>
    </template>
    <p v-for="remark in remarks" :key="remark" class="quiet hint" role="status">{{ remark }}</p>
  </div>
</template>

<style scoped>
.rule {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
</style>
