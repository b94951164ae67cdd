<script setup lang="ts">
import { computed } from 'vue'
import type { Rule } from '~~/core/arrange/rules'
import type { FieldPath } from '~~/core/units/field'
import { valueAt } from '~~/core/units/field'
import type { RuleField, RuleNumber } from '~~/core/arrange/fields'
import { gapIn, withGap, wrongGap } from '~~/core/arrange/gaps'
import type { Vec3 } from '~~/core/math/vectors'
import type { Rise } from '~~/core/arrange/rise'
import { definitionOf, keysOf } from '~~/core/arrange/rules'
import { withValue } from '~~/core/arrange/rule-values'
import { useLevel } from '~/editor/level'
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
const level = useLevel()
const tools = useTools()
const fields = computed(() => props.some ?? definitionOf(props.rule).fields(props.rule))
const remarks = computed(() => (props.some ? [] : definitionOf(props.rule).remarks(props.rule, tools.printLength)))

const riseFields = computed(() => fields.value.filter(field => field.type === 'rise'))
const others = computed(() => fields.value.filter(field => field.type !== 'rise'))
type Row = Exclude<RuleField, { type: 'rise' }>

const size = computed((): Vec3 => props.size ?? [0, 0, 0])
const kept = (field: RuleNumber) => (valueAt(props.rule, field.path) ?? field.otherwise) as number | Vec3
const hasGap = (field: Row): field is RuleNumber => field.type === 'number' && field.beyond !== undefined
/** Of a number that says what is left free, that. */
const read = (field: Row) => (hasGap(field) ? gapIn(field, kept(field), size.value) : undefined)
/** What the rule has for a value that is shown. */
const asKept = (field: Row, value: unknown) =>
  hasGap(field) ? withGap(field, kept(field), value as number, size.value) : value

function check(field: Row, value: unknown): string | null {
  const wrong = hasGap(field) ? wrongGap(field, kept(field), value as number, size.value) : null
  if (wrong) return wrong
  const next = withValue(props.rule, field.path, asKept(field, value))
  return next.ok ? (props.refuses?.(next.rule) ?? null) : next.error
}

function set(field: Row, value: unknown, joins?: string): void {
  const also = field.type === 'choice' ? field.also?.[value as string] : undefined
  put({ ...props.rule, ...also }, field.path, asKept(field, value), joins)
}

function put(rule: Rule, path: FieldPath, value: unknown, joins?: string): void {
  const next = withValue(rule, path, value)
  if (next.ok) emit('change', next.rule, joins)
  else level.notify('This number does not fit', [next.error])
}
</script>

<template>
  <div class="rule" @focusout="level.endJoining()">
    <FieldRows :fields="others" :of="rule" :read="read" :check="check" @set="set" />
    <RiseFields
      v-for="field in riseFields"
      :key="field.label"
      :rise="valueAt(rule, field.path) as Rise"
      :rows="valueAt(rule, field.rows) as number"
      :copies="keysOf(rule).count"
      @change="(rise, joins) => put(rule, field.path, rise, joins)"
    />
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
