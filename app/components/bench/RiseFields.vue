<script setup lang="ts">
import { computed, ref } from 'vue'
import { CopyPlaces } from '~~/core/arrange/count'
import { RISE_NAMES, parseRise } from '~~/core/arrange/rise-expression'
import type { FanRule, GridRule, Rise } from '~~/core/arrange/rule'
import { useSettings } from '~/stores/settings'

const props = defineProps<{ rule: GridRule | FanRule }>()
const emit = defineEmits<{ change: [rise: Rise, joins?: string] }>()
const settings = useSettings()
const rise = computed(() => props.rule.rise)
const rows = computed(() => props.rule.rule === 'grid' ? props.rule.counts[2] : props.rule.rows)
const typed = ref<string | null>(null)
const error = computed(() => {
  const parsed = typed.value === null ? null : parseRise(typed.value)
  return parsed && !parsed.ok ? `It ${parsed.error}.` : null
})

function choose(by: string): void {
  const height = rise.value.by === 'rows' ? rise.value.height : 0.3
  const last = Math.max(rows.value - 1, 1)
  if (by === 'rows') emit('change', { by: 'rows', height, every: 1 })
  else if (by === 'profile') emit('change', { by: 'profile', points: [[0, 0], [1, height * last]], smooth: false })
  else emit('change', { by: 'expression', text: `${height} * row` })
}

/** What is right is shown at once; what is not stays in the field until it is. */
function type(event: Event): void {
  typed.value = (event.target as HTMLInputElement).value
  if (!error.value && typed.value.trim()) emit('change', { by: 'expression', text: typed.value }, 'type the rise')
}

const copies = computed(() => new CopyPlaces(props.rule).count)
const length = computed(() => ({ quantity: 'length' as const, unit: settings.kept.unit, decimals: settings.decimals, suffix: settings.kept.unit }))
</script>

<template>
  <label class="line"><span>Rise by</span>
    <select class="text-box" aria-label="Rise by" :value="rise.by" @change="choose(($event.target as HTMLSelectElement).value)">
      <option value="rows">rows</option><option value="profile">a profile</option><option value="expression">an expression</option>
    </select>
  </label>
  <template v-if="rise.by === 'rows'">
    <label class="line"><span>Rise</span>
      <QuantityField label="Rise" v-bind="length" :value="rise.height" steps @commit="emit('change', { ...rise, height: $event })" @step="emit('change', { ...rise, height: rise.height + $event * 0.05 }, 'step rise')" />
    </label>
    <label class="line"><span>for every … rows</span>
      <QuantityField
        label="for every … rows" quantity="factor" :decimals="0" :value="rise.every" :check="value => Number.isInteger(value) && value >= 1 ? null : 'A whole number from 1.'"
        steps @commit="emit('change', { ...rise, every: $event })" @step="emit('change', { ...rise, every: Math.max(1, rise.every + Math.sign($event)) }, 'step every')"
      />
    </label>
  </template>
  <template v-else-if="rise.by === 'profile'">
    <ProfileEditor :points="rise.points" :smooth="rise.smooth" :rows="rows" @change="(points, joins) => emit('change', { ...rise, points } as Rise, joins)" />
    <label class="tick"><input type="checkbox" :checked="rise.smooth" @change="emit('change', { ...rise, smooth: ($event.target as HTMLInputElement).checked })"> Smooth</label>
  </template>
  <div v-else class="expression">
    <input
      class="text-box mono" :class="{ wrong: error }" aria-label="Rise as an expression" :aria-invalid="error !== null" :value="typed ?? rise.text" spellcheck="false"
      @input="type" @blur="typed = null" @keydown.enter="($event.target as HTMLInputElement).blur()"
    >
    <p v-if="error" role="alert" class="error">{{ error }}</p>
    <p v-else class="quiet hint">Metres for each of {{ copies.toLocaleString('en') }}, from {{ RISE_NAMES.join(' ') }}.</p>
  </div>
</template>

<style scoped>
.expression {
  display: flex;
  flex-direction: column;
  gap: 4px;
}

.wrong {
  border-color: rgb(var(--v-theme-error));
}

.error {
  font-size: 12.5px;
  color: rgb(var(--v-theme-error));
}
</style>
