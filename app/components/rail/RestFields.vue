<script setup lang="ts">
import type { RestRule } from '~~/core/snap/rest'
import { useSettings } from '~/stores/settings'

/** How things come to rest, as it is kept in the settings. */
defineProps<{ rule: RestRule }>()
const emit = defineEmits<{ change: [change: Partial<RestRule>] }>()
const settings = useSettings()
const set = (change: Partial<RestRule>) => emit('change', change)
</script>

<template>
  <div class="segments" role="group" aria-label="Turn">
    <button type="button" :aria-pressed="!rule.leaning" @click="set({ leaning: false })">Upright</button>
    <button type="button" :aria-pressed="rule.leaning" @click="set({ leaning: true })">Leaning</button>
  </div>
  <div class="segments" role="group" aria-label="Rest">
    <button type="button" :aria-pressed="rule.rest === 'pivot'" @click="set({ rest: 'pivot' })">Rests by its pivot</button>
    <button type="button" :aria-pressed="rule.rest === 'lowest'" @click="set({ rest: 'lowest' })">Lowest point</button>
  </div>
  <label class="line"><span>Kept off the surface</span>
    <QuantityField label="Offset" quantity="length" :unit="settings.kept.unit" :decimals="settings.decimals" :suffix="settings.kept.unit" :value="rule.offset" @commit="set({ offset: $event })" />
  </label>
</template>
