<script setup lang="ts">
import type { RestRule } from '~~/core/edit/snap/rest'
import { useSettings } from '~/editor/settings'

/** How things come to rest, as it is kept in the settings. */
defineProps<{ rule: RestRule }>()
const emit = defineEmits<{ change: [change: Partial<RestRule>] }>()
const settings = useSettings()
const turns = [
  { value: false, name: 'Upright' },
  { value: true, name: 'Leaning' },
]
const rests = [
  { value: 'pivot', name: 'Pivot', title: 'The pivot comes to be on the surface' },
  {
    value: 'lowest',
    name: 'Lowest point',
    title: 'The lowest point comes to be at the height of the surface under it; on a slope the uphill side digs in',
  },
  {
    value: 'clear',
    name: 'No corner below',
    title: 'It rests on whatever touches first, so that nothing of it is below the surface',
  },
] as const
</script>

<template>
  <Segments
    :model-value="rule.leaning"
    :options="turns"
    label="Turn"
    @update:model-value="emit('change', { leaning: $event })"
  />
  <Segments
    :model-value="rule.rest"
    :options="rests"
    label="Rest"
    @update:model-value="emit('change', { rest: $event })"
  />
  <FormLine label="Kept off the surface">
    <QuantityField
      label="Offset"
      quantity="length"
      :unit="settings.kept.unit"
      :decimals="settings.decimals"
      :suffix="settings.suffix"
      :value="rule.offset"
      @commit="emit('change', { offset: $event })"
    />
  </FormLine>
</template>
