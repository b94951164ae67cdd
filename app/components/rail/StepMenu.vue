<script setup lang="ts">
import type { Quantity } from '~~/core/units/quantity'
import type { StepKind } from '~/tools/gesture'
import { useSettings } from '~/stores/settings'

const props = defineProps<{ kind: StepKind, label: string, quantity: Quantity, unit?: string, suffix: string, decimals: number, /** In the base unit. */ list: readonly number[], print: (value: number) => string }>()
const settings = useSettings()
const check = (value: number) => value > 0 ? null : 'A step has to be more than 0.'
const step = () => settings.kept.steps[props.kind]
</script>

<template>
  <div class="choices">
    <button v-for="value in list" :key="value" type="button" class="small-button mono" :aria-pressed="step().size === value" @click="step().size = value">{{ print(value) }}</button>
  </div>
  <label class="line"><span>{{ label }}</span>
    <QuantityField :label="label" :quantity="quantity" :unit="unit" :decimals="decimals" :suffix="suffix" :value="step().size" :check="check" @commit="step().size = $event" />
  </label>
  <div class="segments">
    <button type="button" :aria-pressed="step().lattice" title="Land on multiples of the step" @click="step().lattice = true">On the lattice</button>
    <button type="button" :aria-pressed="!step().lattice" title="Count the step from where the drag began" @click="step().lattice = false">In increments</button>
  </div>
  <slot />
  <p class="quiet">Holding Ctrl during a drag turns it off, or on.</p>
</template>

<style scoped>
.choices {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 5px;
}

.choices button {
  padding: 0 2px;
  font: 500 11.5px var(--mono);
}

.choices [aria-pressed='true'] {
  background: var(--petrol);
  border-color: var(--petrol);
  color: rgb(var(--v-theme-on-primary));
}
</style>
