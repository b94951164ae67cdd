<script setup lang="ts">
import { computed } from 'vue'
import type { BlockShape } from '~~/core/mesh/block'
import { applyEntry } from '~~/core/units/entry'
import type { BlockField } from './block-fields'
import { blockFields, blockNumber, walkingWarnings, withNumber } from './block-fields'
import { useSettings } from '~/editor/settings'

/** The numbers and the colour of a block, drawn or to be drawn. @prop of is said before the names of the numbers */
const props = defineProps<{ shape: BlockShape; color: string; of?: string }>()
/** `isStep`: one of several that follow each other. */
const emit = defineEmits<{ number: [key: string, value: number, isStep: boolean]; color: [color: string] }>()
const settings = useSettings()
const warnings = computed(() => walkingWarnings(props.shape))
const named = (label: string) => (props.of ? `${props.of} ${label.toLowerCase()}` : label)
const unitOf = ({ isCount }: BlockField) =>
  isCount
    ? { quantity: 'factor' as const, decimals: 0 }
    : { quantity: 'length' as const, unit: settings.kept.unit, decimals: settings.decimals, suffix: settings.suffix }

const check = (key: string) => (value: number) => {
  const next = withNumber(props.shape, key, value)
  return next.ok ? null : next.error
}

/** By grid steps, or by one for counts. */
function step({ key, isCount }: BlockField, steps: number): void {
  const next = blockNumber(props.shape, key) + (isCount ? Math.sign(steps) : steps * settings.kept.steps.grid.size)
  if (next > 0) emit('number', key, next, true)
}
</script>

<template>
  <FormLine v-for="field in blockFields(shape)" :key="`${shape.type} ${field.key}`" :label="field.label">
    <QuantityField
      v-bind="unitOf(field)"
      :label="named(field.label)"
      :value="blockNumber(shape, field.key)"
      :check="check(field.key)"
      operators="+*/"
      steps
      @commit="(_value, entry) => emit('number', field.key, applyEntry(entry, blockNumber(shape, field.key)), false)"
      @step="step(field, $event)"
    />
  </FormLine>
  <FormLine label="Colour">
    <ColorBox :value="color" :label="named('Colour')" @commit="emit('color', $event)" />
  </FormLine>
  <p v-for="warning in warnings" :key="warning" class="warning">{{ warning }}</p>
</template>

<style scoped>
.warning {
  padding: 5px 8px;
  border-left: 3px solid rgb(var(--v-theme-action));
  background: rgba(var(--v-theme-action), 0.14);
  font-size: var(--small);
}
</style>
