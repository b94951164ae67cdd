<script setup lang="ts">
import { computed } from 'vue'
import type { BlockShape } from '~~/core/mesh/block'
import type { Field } from '~~/core/units/field'
import { blockFields, walkingWarnings, withNumber } from './block-fields'

/** The numbers and the colour of a block, drawn or to be drawn. @prop of is said before the names of the numbers */
const props = defineProps<{ shape: BlockShape; color: string; of?: string }>()
/** `isStep`: one of several that follow each other. */
const emit = defineEmits<{ number: [key: string, value: number, isStep: boolean]; color: [color: string] }>()
const warnings = computed(() => walkingWarnings(props.shape))
const fields = computed((): Field[] => [
  ...blockFields(props.shape),
  { type: 'color', label: 'Colour', path: ['color'] },
])
const shown = computed(() => ({ ...props.shape, color: props.color }))

function check({ type, path: [key] }: Field, value: unknown): string | null {
  if (type !== 'number') return null
  const next = withNumber(props.shape, String(key), value as number)
  return next.ok ? null : next.error
}

function set({ type, path: [key] }: Field, value: unknown, joins?: string): void {
  if (type === 'number') emit('number', String(key), value as number, joins !== undefined)
  else emit('color', value as string)
}
</script>

<template>
  <FieldRows :key="shape.type" :fields="fields" :of="shown" :check="check" :prefix="of" @set="set" />
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
