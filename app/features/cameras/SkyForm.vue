<script setup lang="ts">
import { computed, ref } from 'vue'
import { skyFieldsSchema } from '~~/core/level/sky'
import { firstIssue } from '~~/core/units/issue'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import type { Field } from '~~/core/units/field'
import { useLighting } from './lighting'
import { SKY_FIELDS } from './own-fields'
import { counted } from '~~/core/units/plural'

/** The light around the level, by day and by night, and its parts' lamps all at once. */
const lighting = useLighting()
const level = useLevel()
const kit = useKit()
const skies = [
  { value: 'board', name: 'As the board' },
  { value: 'day', name: 'Day' },
  { value: 'night', name: 'Night' },
] as const
const check = (field: Field, value: unknown) => {
  const parsed = skyFieldsSchema.safeParse({ ...lighting.sky, [field.path[0]!]: value })
  return parsed.success ? null : `This ${firstIssue(parsed.error).message}.`
}

const ALL = 'all'
const which = ref(ALL)
const tags = computed(() => [...new Set(lighting.withLamps.flatMap(({ partId }) => kit.tagsOf(partId!)))].sort())
const layers = computed(() =>
  [...level.view.layers.values()].filter(({ id }) => lighting.withLamps.some(({ layerId }) => layerId === id)),
)
const choices = computed(() => [
  { value: ALL, name: 'All lamps' },
  { value: 'picked', name: 'What is picked' },
  ...tags.value.map(tag => ({ value: `tag ${tag}`, name: `Tag: ${tag}` })),
  ...layers.value.map(({ id, name }) => ({ value: `layer ${id}`, name: `Layer: ${name}` })),
])
const lamps = computed(() => {
  if (which.value === 'picked') return lighting.lampsOf({ picked: true })
  const [by, ...rest] = which.value.split(' ')
  return lighting.lampsOf(by === 'tag' ? { tag: rest.join(' ') } : by === 'layer' ? { layerId: rest.join(' ') } : {})
})
const strength = computed(() => lighting.strengthOf(lamps.value))
const checkStrength = (value: number) => (value >= 0 && value <= 100 ? null : 'This must be from 0 to 10,000 %.')
</script>

<template>
  <section class="form-part" aria-label="Light of the level">
    <h3>Light of the level</h3>
    <Segments v-model="lighting.shownUnder" :options="skies" label="Shown under" />
    <p class="quiet hint">
      Which of the two you see is yours, for this level alone. Both are kept in the level; below are the numbers of the
      {{ lighting.of }}.
    </p>
    <FieldRows
      :fields="SKY_FIELDS"
      :of="lighting.sky"
      :check="check"
      @set="(field, value) => lighting.changeSky({ [field.path[0]!]: value })"
    />
    <template v-if="lighting.withLamps.length > 0">
      <h3>
        Lamps of parts
        <span class="mono quiet">{{ lighting.withLamps.length }}</span>
      </h3>
      <Choice v-model="which" :options="choices" label="Which lamps" />
      <Tick
        :model-value="strength !== 0"
        :label="`${counted(lamps.length, 'is', 'are')} on`"
        @update:model-value="lighting.setLamps(lamps, $event ? 1 : 0)"
      />
      <NumberLine
        label="Strength"
        named="Strength of the lamps"
        suffix="×"
        :value="strength"
        :check="checkStrength"
        :disabled="lamps.length === 0"
        @commit="lighting.setLamps(lamps, $event)"
      />
    </template>
  </section>
</template>
