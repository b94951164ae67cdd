<script setup lang="ts">
import type { Quantity } from '~~/core/units/quantity'
import { useSettings } from '~/editor/settings'

/** A row of a form with a number: lengths in the unit worked in, all else with what stands behind it. */
const props = withDefaults(
  defineProps<{
    label: string
    /** Its whole name, if the row's does not say enough by itself. */
    named?: string
    value: number | null
    quantity?: Quantity
    suffix?: string
    decimals?: number
    check?: (value: number) => string | null
    disabled?: boolean
    /** Said while there is no number. */
    empty?: string
  }>(),
  { empty: undefined, named: undefined, quantity: 'factor', suffix: '', decimals: 2, check: undefined },
)
const emit = defineEmits<{ commit: [value: number] }>()
const settings = useSettings()
const isLength = () => props.quantity === 'length'
</script>

<template>
  <FormLine :label="label">
    <QuantityField
      :label="named ?? label"
      :quantity="quantity"
      :unit="isLength() ? settings.kept.unit : undefined"
      :decimals="isLength() ? settings.decimals : decimals"
      :suffix="isLength() ? settings.suffix : quantity === 'angle' ? '°' : suffix"
      :value="value"
      :check="check"
      :disabled="disabled"
      :empty="empty"
      @commit="emit('commit', $event)"
    />
  </FormLine>
</template>
