<script setup lang="ts">
import { mdiChevronDown, mdiChevronRight } from '@mdi/js'
import { computed, ref } from 'vue'
import type { ArrangementOwn, Vary } from '~~/core/arrange/arrangement'
import { varySchema } from '~~/core/arrange/arrangement'
import { useSettings } from '~/editor/settings'
import SeedField from './SeedField.vue'

const props = defineProps<{ own: ArrangementOwn }>()
const emit = defineEmits<{ change: [own: ArrangementOwn, joins?: string] }>()
const settings = useSettings()
const NOTHING: Vary = { seed: 1, move: [0, 0, 0], turn: [0, 0, 0], size: [1, 1] }
const vary = computed(() => props.own.vary ?? NOTHING)
const isOpen = ref(props.own.vary !== undefined)
const AXES = [0, 1, 2] as const

function set(next: Vary): void {
  const { vary: _old, ...others } = props.own
  const isNothing = [...next.move, ...next.turn].every(value => value === 0) && next.size.every(value => value === 1)
  emit('change', isNothing ? others : { ...others, vary: next })
}

const withAt = <T extends number[]>(list: T, i: number, value: number) => list.with(i, value) as T
const check = (make: (value: number) => Vary) => (value: number) => {
  const parsed = varySchema.safeParse(make(value))
  return parsed.success ? null : `It ${parsed.error.issues[0]!.message}.`
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
      <FormLine v-for="axis in AXES" :key="`move ${axis}`" :label="`Move ± ${'XYZ'[axis]}`">
        <QuantityField
          :label="`Vary move ${'XYZ'[axis]}`"
          quantity="length"
          :axis="axis"
          :unit="settings.kept.unit"
          :decimals="settings.decimals"
          :suffix="settings.suffix"
          :value="vary.move[axis]"
          :check="check(value => ({ ...vary, move: withAt(vary.move, axis, value) }))"
          @commit="set({ ...vary, move: withAt(vary.move, axis, $event) })"
        />
      </FormLine>
      <FormLine v-for="axis in AXES" :key="`turn ${axis}`" :label="`Turn ± ${'XYZ'[axis]}`">
        <QuantityField
          :label="`Vary turn ${'XYZ'[axis]}`"
          quantity="angle"
          :axis="axis"
          :decimals="1"
          suffix="°"
          :value="vary.turn[axis]"
          :check="check(value => ({ ...vary, turn: withAt(vary.turn, axis, value) }))"
          @commit="set({ ...vary, turn: withAt(vary.turn, axis, $event) })"
        />
      </FormLine>
      <FormLine v-for="(end, i) in ['Smallest', 'Largest']" :key="end" :label="`${end} size`">
        <QuantityField
          :label="`${end} size`"
          quantity="factor"
          :decimals="2"
          suffix="×"
          :value="vary.size[i]!"
          :check="check(value => ({ ...vary, size: withAt(vary.size, i, value) }))"
          @commit="set({ ...vary, size: withAt(vary.size, i, $event) })"
        />
      </FormLine>
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
