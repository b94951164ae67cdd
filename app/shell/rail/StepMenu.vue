<script setup lang="ts">
import type { Quantity } from '~~/core/units/quantity'
import type { StepKind } from '~/editor/tools/tool-world'
import { useSettings } from '~/editor/settings'

const props = defineProps<{
  kind: StepKind
  label: string
  quantity: Quantity
  unit?: string
  suffix: string
  decimals: number
  /** In the base unit. */
  list: readonly number[]
  print: (value: number) => string
}>()
const settings = useSettings()
const check = (value: number) => (value > 0 ? null : 'A step has to be more than 0.')
const counts = [
  { value: true, name: 'On the lattice', title: 'Land on multiples of the step' },
  { value: false, name: 'In increments', title: 'Count the step from where the drag began' },
]
const step = () => settings.kept.steps[props.kind]
</script>

<template>
  <Segments
    :model-value="step().size"
    :options="list.map(value => ({ value, name: print(value) }))"
    label="Usual ones"
    :columns="4"
    @update:model-value="step().size = $event"
  />
  <FormLine :label="label">
    <QuantityField
      :label="label"
      :quantity="quantity"
      :unit="unit"
      :decimals="decimals"
      :suffix="suffix"
      :value="step().size"
      :check="check"
      @commit="step().size = $event"
    />
  </FormLine>
  <Segments v-model="step().lattice" :options="counts" label="Counted" />
  <slot />
  <p class="quiet hint">Holding Ctrl during a drag turns it off, or on.</p>
</template>
