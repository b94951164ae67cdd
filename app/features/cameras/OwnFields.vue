<script setup lang="ts" generic="O extends object">
import type { Field } from '~~/core/units/field'
import { useMarking } from './marking'
import type { OwnField } from './own-fields'

/** Rows of the form of the camera, light or marker that is picked. */
const props = defineProps<{ id: string; own: O; fields: readonly OwnField<O>[] }>()
const marking = useMarking()
/** The rows are given back as they were put in. */
const asGiven = (field: Field) => field as OwnField<O>
const fieldsOf = (field: Field, value: unknown): object =>
  asGiven(field).put?.(value as never, props.own) ?? { [field.path[0]!]: value }
const read = (field: Field) => asGiven(field).read?.(props.own)
const check = (field: Field, value: unknown) => marking.check(props.id, fieldsOf(field, value))

function set(field: Field, value: unknown): void {
  const { does } = asGiven(field)
  marking.change(fieldsOf(field, value), typeof does === 'string' ? does : does(value))
}
</script>

<template>
  <FieldRows :fields="fields" :of="own" :read="read" :check="check" @set="set" />
</template>
