<script setup lang="ts">
import { computed } from 'vue'
import type { Rule } from '~~/core/arrange/rule'
import type { Entry } from '~~/core/units/entry'
import { applyEntry } from '~~/core/units/entry'
import { tidy } from '~~/core/units/quantity'
import type { RuleField } from '~/composables/use-rule-fields'
import { ruleFields, valueAt, withValue } from '~/composables/use-rule-fields'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'

const props = defineProps<{ rule: Rule }>()
const emit = defineEmits<{ change: [rule: Rule, joins?: string] }>()
const settings = useSettings()
const level = useLevel()
type NumberField = Extract<RuleField, { type: 'number' }>
const fields = computed(() => ruleFields(props.rule))

/** How a number is shown: its quantity, unit, decimals and suffix. */
function shown({ quantity }: NumberField) {
  if (quantity === 'length') return { quantity: 'length' as const, unit: settings.kept.unit as string, decimals: settings.decimals, suffix: settings.kept.unit as string }
  if (quantity === 'angle') return { quantity: 'angle' as const, unit: undefined, decimals: 2, suffix: '°' }
  if (quantity === 'share') return { quantity: 'factor' as const, unit: '%', decimals: 0, suffix: '%' }
  return { quantity: 'factor' as const, unit: undefined, decimals: quantity === 'count' ? 0 : 3, suffix: quantity === 'count' ? '' : '×' }
}

const numberAt = (field: NumberField) => valueAt(props.rule, field.path) as number
const check = (field: NumberField) => (value: number) => {
  const next = withValue(props.rule, field.path, value)
  return next.ok ? null : next.error
}

function set(field: RuleField, value: unknown, joins?: string): void {
  const next = withValue(props.rule, field.path, value)
  if (next.ok) emit('change', next.rule, joins)
  else level.tell('This number does not fit', [next.error])
}

const enter = (field: NumberField, entry: Entry) => set(field, applyEntry(entry, numberAt(field)))

function step(field: NumberField, steps: number): void {
  const { grid, turn } = settings.kept.steps
  const by = field.quantity === 'count' ? Math.sign(steps) : steps * (field.quantity === 'length' ? grid.size : field.quantity === 'angle' ? turn.size : 0.1)
  const value = tidy(numberAt(field) + by)
  if (withValue(props.rule, field.path, value).ok) set(field, value, `step ${field.path.join()}`)
}

/** Numbers with anything between them, as in `9, 11, 13`. */
function setCounts(field: RuleField, event: Event): void {
  const input = event.target as HTMLInputElement
  set(field, (input.value.match(/[\d.]+/g) ?? []).map(Number))
  input.value = (valueAt(props.rule, field.path) as number[]).join(' ')
}

const turn = (field: Extract<RuleField, { type: 'switch' }>, on: boolean) => set(field, field.on ? on ? field.on : undefined : on)

function choose(field: Extract<RuleField, { type: 'choice' }>, event: Event): void {
  set(field, field.options[(event.target as HTMLSelectElement).selectedIndex]!.value)
}
</script>

<template>
  <div class="rule" @focusout="level.endJoining()">
    <template v-for="field in fields" :key="field.path.join()">
      <label v-if="field.type === 'switch'" class="tick"><input type="checkbox" :checked="Boolean(valueAt(rule, field.path))" @change="turn(field, ($event.target as HTMLInputElement).checked)"> {{ field.label }}</label>
      <RiseFields v-else-if="field.type === 'rise' && (rule.rule === 'grid' || rule.rule === 'fan')" :rule="rule" @change="(rise, joins) => set(field, rise, joins)" />
      <label v-else-if="field.type === 'counts'" class="line"><span>{{ field.label }}</span>
        <input class="text-box mono" :aria-label="field.label" :value="(valueAt(rule, field.path) as number[]).join(' ')" @change="setCounts(field, $event)" @keydown.enter="($event.target as HTMLInputElement).blur()">
      </label>
      <label v-else-if="field.type === 'number' || field.type === 'choice'" class="line"><span>{{ field.label }}</span>
        <select v-if="field.type === 'choice'" class="text-box" :aria-label="field.label" :value="valueAt(rule, field.path)" @change="choose(field, $event)">
          <option v-for="option in field.options" :key="option.value" :value="option.value">{{ option.name }}</option>
        </select>
        <QuantityField
          v-else v-bind="shown(field)" :label="field.label" :axis="field.axis" :value="numberAt(field)" :check="check(field)" operators="+*/" steps
          @commit="(_value, entry) => enter(field, entry)" @step="step(field, $event)"
        />
      </label>
    </template>
  </div>
</template>

<style scoped>
.rule {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
</style>
