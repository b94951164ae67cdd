<script setup lang="ts">
import { computed, ref } from 'vue'
import { RISE_NAMES, parseRise } from '~~/core/arrange/rise-expression'
import type { Rise } from '~~/core/arrange/rise'
import { useSettings } from '~/editor/settings'
import ProfileEditor from './ProfileEditor.vue'

const props = defineProps<{ rise: Rise; rows: number; copies: number }>()
const emit = defineEmits<{ change: [rise: Rise, joins?: string] }>()
const settings = useSettings()
const typed = ref<string | null>(null)
const error = computed(() => {
  const parsed = typed.value === null ? null : parseRise(typed.value)
  return parsed && !parsed.ok ? `It ${parsed.error}.` : null
})

const ways = [
  { value: 'rows', name: 'rows' },
  { value: 'profile', name: 'a profile' },
  { value: 'expression', name: 'an expression' },
] as const

function choose(by: Rise['by']): void {
  const height = props.rise.by === 'rows' ? props.rise.height : 0.3
  const last = Math.max(props.rows - 1, 1)
  if (by === 'rows') emit('change', { by: 'rows', height, every: 1 })
  else if (by === 'profile')
    emit('change', {
      by: 'profile',
      points: [
        [0, 0],
        [1, height * last],
      ],
      smooth: false,
    })
  else emit('change', { by: 'expression', text: `${height} * row` })
}

/** What is right is shown at once; what is not stays in the field until it is. */
function type(text: string): void {
  typed.value = text
  if (!error.value && typed.value.trim()) emit('change', { by: 'expression', text: typed.value }, 'type the rise')
}

const length = computed(() => ({
  quantity: 'length' as const,
  unit: settings.kept.unit,
  decimals: settings.decimals,
  suffix: settings.suffix,
}))
</script>

<template>
  <FormLine label="Rise by">
    <Choice :model-value="rise.by" :options="ways" label="Rise by" @update:model-value="choose" />
  </FormLine>
  <template v-if="rise.by === 'rows'">
    <FormLine label="Rise">
      <QuantityField
        label="Rise"
        v-bind="length"
        :value="rise.height"
        steps
        @commit="emit('change', { ...rise, height: $event })"
        @step="emit('change', { ...rise, height: rise.height + $event * 0.05 }, 'step rise')"
      />
    </FormLine>
    <FormLine label="for every … rows">
      <QuantityField
        label="for every … rows"
        quantity="factor"
        :decimals="0"
        :value="rise.every"
        :check="value => (Number.isInteger(value) && value >= 1 ? null : 'A whole number from 1.')"
        steps
        @commit="emit('change', { ...rise, every: $event })"
        @step="emit('change', { ...rise, every: Math.max(1, rise.every + Math.sign($event)) }, 'step every')"
      />
    </FormLine>
  </template>
  <template v-else-if="rise.by === 'profile'">
    <ProfileEditor
      :points="rise.points"
      :smooth="rise.smooth"
      :rows="rows"
      @change="(points, joins) => emit('change', { ...rise, points } as Rise, joins)"
    />
    <Tick :model-value="rise.smooth" label="Smooth" @update:model-value="emit('change', { ...rise, smooth: $event })" />
  </template>
  <div v-else class="expression">
    <TextBox
      class="mono"
      label="Rise as an expression"
      :value="typed ?? rise.text"
      :wrong="error"
      @type="type"
      @leave="typed = null"
    />
    <p v-if="error" role="alert" class="error hint">{{ error }}</p>
    <p v-else class="quiet hint">
      Metres for each of {{ copies.toLocaleString('en') }}, from {{ RISE_NAMES.join(' ') }}.
    </p>
  </div>
</template>

<style scoped>
.expression {
  display: flex;
  flex-direction: column;
  gap: 4px;
}
</style>
