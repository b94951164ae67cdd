<script setup lang="ts">
import { computed } from 'vue'
import type { ArrangementOwn, Sources } from '~~/core/arrange/arrangement'
import { hasCorners } from '~~/core/arrange/path/layout'
import { useLevel } from '~/editor/level'
import { useRepeating } from './repeating'
import SeedField from './SeedField.vue'

const props = defineProps<{ own: ArrangementOwn }>()
const emit = defineEmits<{ change: [own: ArrangementOwn, joins?: string] }>()
const level = useLevel()
const repeating = useRepeating()
const names = computed(() => repeating.sourceNames)
const isCornered = computed(() => props.own.rule.type === 'path' && hasCorners(props.own.rule))
const choice = computed(() => props.own.sources)

function set(sources: Sources | undefined, joins?: string): void {
  const { sources: _old, ...others } = props.own
  emit('change', sources ? { ...others, sources } : others, joins)
}

const ways = computed(
  () =>
    [
      { value: 'turn', name: 'in turn' },
      { value: 'pattern', name: 'by a pattern' },
      { value: 'weight', name: 'at random, by weight' },
      { value: 'ends', name: `others at the ends${isCornered.value ? ' and corners' : ''}` },
    ] as const,
)

function choose(by: 'turn' | Sources['by']): void {
  const numbers = names.value.map((_, i) => i)
  if (by === 'pattern') set({ by: 'pattern', pattern: numbers })
  else if (by === 'weight') set({ by: 'weight', weights: numbers.map(() => 1), seed: 1 })
  else if (by === 'ends')
    set({
      by: 'ends',
      first: 0,
      middle: Math.min(1, numbers.length - 1),
      last: 0,
      ...(isCornered.value ? { corner: 0 } : {}),
    })
  else set(undefined)
}

/** Letters for sources, as in `A A B`; after Z comes AA. */
const letter = (i: number): string =>
  (i < 26 ? '' : letter(Math.floor(i / 26) - 1)) + String.fromCharCode(65 + (i % 26))
const sourceOf = (letters: string) => [...letters].reduce((sum, each) => sum * 26 + each.charCodeAt(0) - 64, 0) - 1
const pattern = computed(() => (choice.value?.by === 'pattern' ? choice.value.pattern.map(letter).join(' ') : ''))

function setPattern(text: string): void {
  // Letters of their own may be typed without spaces.
  const words = text.toUpperCase().match(names.value.length > 26 ? /[A-Z]+/g : /[A-Z]/g) ?? []
  const numbers = words.map(sourceOf)
  if (numbers.length > 0 && numbers.every(i => i < names.value.length)) set({ by: 'pattern', pattern: numbers })
  else
    level.notify('This pattern does not fit', [
      `Use the letters ${names.value.map((_, i) => letter(i)).join(', ')}, as in ${letter(0)} ${letter(0)} ${letter(Math.max(names.value.length - 1, 0))}.`,
    ])
}

function setWeight(i: number, weight: number): void {
  if (choice.value?.by === 'weight')
    set({
      ...choice.value,
      weights: names.value.map((_, k) =>
        k === i ? weight : choice.value?.by === 'weight' ? (choice.value.weights[k] ?? 1) : 1,
      ),
    })
}

const places = computed(
  () =>
    [
      { place: 'first', name: 'First' },
      { place: 'middle', name: 'In between' },
      { place: 'last', name: 'Last' },
      ...(isCornered.value ? ([{ place: 'corner', name: 'Corner' }] as const) : []),
    ] as const,
)
</script>

<template>
  <template v-if="names.length > 1">
    <h3>Sources</h3>
    <FormLine label="Taken">
      <Choice :model-value="choice?.by ?? 'turn'" :options="ways" label="Sources taken" @update:model-value="choose" />
    </FormLine>
    <p v-if="!choice || choice.by === 'pattern'" class="quiet hint">
      <template v-for="(name, i) in names" :key="i">{{ i > 0 ? ', ' : '' }}{{ letter(i) }} {{ name }}</template>
    </p>
    <TextBox v-if="choice?.by === 'pattern'" class="mono" label="Pattern" :value="pattern" @commit="setPattern" />
    <template v-if="choice?.by === 'weight'">
      <FormLine v-for="(name, i) in names" :key="i" :label="`${name}`">
        <QuantityField
          :label="`Weight of ${name}`"
          quantity="factor"
          :decimals="1"
          :value="choice.weights[i] ?? 1"
          :check="value => (value >= 0 && value <= 1000 ? null : 'Between 0 and 1000.')"
          @commit="setWeight(i, $event)"
        />
      </FormLine>
      <SeedField label="Seed of the sources" :seed="choice.seed" @change="set({ ...choice, seed: $event })" />
    </template>
    <template v-if="choice?.by === 'ends'">
      <FormLine v-for="{ place, name: where } in places" :key="place" :label="`${where}`">
        <Choice
          :model-value="choice[place] ?? choice.middle"
          :options="names.map((name, value) => ({ value, name }))"
          :label="`${where} source`"
          @update:model-value="set({ ...choice, [place]: $event })"
        />
      </FormLine>
    </template>
  </template>
  <p v-else-if="isCornered" class="quiet hint">
    {{
      repeating.acts === 'new'
        ? 'Pick the part for the corners as well.'
        : 'A second source, dragged below it in the roster, may stand at the corners.'
    }}
  </p>
</template>
