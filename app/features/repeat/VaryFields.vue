<script setup lang="ts">
import { mdiChevronDown, mdiChevronRight } from '@mdi/js'
import { computed, ref } from 'vue'
import type { ArrangementOwn, Vary } from '~~/core/arrange/arrangement'
import { varySchema } from '~~/core/arrange/arrangement'
import type { Field, FieldQuantity } from '~~/core/units/field'
import { numberField, putValue, threeFields } from '~~/core/units/field'
import SeedField from './SeedField.vue'

const props = defineProps<{ own: ArrangementOwn }>()
const emit = defineEmits<{ change: [own: ArrangementOwn, joins?: string] }>()
const NOTHING: Vary = { seed: 1, move: [0, 0, 0], turn: [0, 0, 0], size: [1, 1] }
const vary = computed(() => props.own.vary ?? NOTHING)
const isOpen = ref(props.own.vary !== undefined)
const along = (label: string, key: string, quantity: FieldQuantity) =>
  threeFields(`${label} ±`, key, quantity).map((field, axis) => ({
    ...field,
    isAmount: true as const,
    named: `Vary ${key} ${'XYZ'[axis]}`,
  }))
const FIELDS = [
  ...along('Move', 'move', 'length'),
  ...along('Turn', 'turn', 'angle'),
  numberField('Smallest size', ['size', 0], 'factor', { decimals: 2 }),
  numberField('Largest size', ['size', 1], 'factor', { decimals: 2 }),
]

function set(next: Vary): void {
  const { vary: _old, ...others } = props.own
  const isNothing = [...next.move, ...next.turn].every(value => value === 0) && next.size.every(value => value === 1)
  emit('change', isNothing ? others : { ...others, vary: next })
}

const check = (field: Field, value: unknown) => {
  const parsed = varySchema.safeParse(putValue(vary.value, field.path, value))
  return parsed.success ? null : `It ${parsed.error.issues[0]!.message}.`
}

const checkAll = (values: object) => {
  const parsed = varySchema.safeParse(values)
  return parsed.success ? null : `it ${parsed.error.issues[0]!.message}.`
}
</script>

<template>
  <div>
    <v-btn
      class="link"
      variant="plain"
      :prepend-icon="isOpen ? mdiChevronDown : mdiChevronRight"
      :aria-expanded="isOpen"
      @click="isOpen = !isOpen"
    >
      Vary each copy
    </v-btn>
    <div v-if="isOpen" class="fields">
      <PresetBar
        form="vary"
        what="the variation"
        :values="vary"
        :check="checkAll"
        @apply="set(varySchema.parse($event))"
      />
      <FieldRows
        :fields="FIELDS"
        :of="vary"
        :check="check"
        @set="(field, value) => set(putValue(vary, field.path, value))"
      />
      <SeedField
        v-if="own.vary"
        label="Seed of the variation"
        :seed="vary.seed"
        @change="set({ ...vary, seed: $event })"
      />
    </div>
  </div>
</template>

<style scoped>
.fields {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding-top: 8px;
}
</style>
