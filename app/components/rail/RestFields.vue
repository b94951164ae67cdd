<script setup lang="ts">
import type { RestRule } from '~~/core/edit/snap/rest'
import { useSettings } from '~/stores/settings'

/** How things come to rest, as it is kept in the settings. */
defineProps<{ rule: RestRule }>()
const emit = defineEmits<{ change: [change: Partial<RestRule>] }>()
const settings = useSettings()
const turns = [{ value: false, name: 'Upright' }, { value: true, name: 'Leaning' }]
const rests = [{ value: 'pivot', name: 'Rests by its pivot' }, { value: 'lowest', name: 'Lowest point' }] as const
</script>

<template>
  <Segments :model-value="rule.leaning" :options="turns" label="Turn" @update:model-value="emit('change', { leaning: $event })" />
  <Segments :model-value="rule.rest" :options="rests" label="Rest" @update:model-value="emit('change', { rest: $event })" />
  <FormLine label="Kept off the surface">
    <QuantityField label="Offset" quantity="length" :unit="settings.kept.unit" :decimals="settings.decimals" :suffix="settings.kept.unit" :value="rule.offset" @commit="emit('change', { offset: $event })" />
  </FormLine>
</template>
