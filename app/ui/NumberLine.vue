<script setup lang="ts">
import type { FieldQuantity } from '~~/core/units/field'
import { useShownNumber } from './use-shown-number'

/** A row of a form with a number that is in nothing else, such as how many to pour. */
const props = withDefaults(
  defineProps<{
    label: string
    /** Its whole name, if the row's does not say enough by itself. */
    named?: string
    value: number | null
    quantity?: FieldQuantity
    suffix?: string
    decimals?: number
    check?: (value: number) => string | null
    disabled?: boolean
    /** Said while there is no number. */
    empty?: string
  }>(),
  { empty: undefined, named: undefined, quantity: 'number', suffix: undefined, decimals: undefined, check: undefined },
)
const emit = defineEmits<{ commit: [value: number] }>()
const shownNumber = useShownNumber()
</script>

<template>
  <FormLine :label="label">
    <QuantityField
      :label="named ?? label"
      v-bind="shownNumber(props)"
      :value="value"
      :check="check"
      :disabled="disabled"
      :empty="empty"
      @commit="emit('commit', $event)"
    />
  </FormLine>
</template>
