<script setup lang="ts">
import { computed } from 'vue'
import { applyEntry } from '~~/core/units/entry'
import { useEdits } from '~/editor/edits'
import { firstIssue } from '~~/core/units/issue'
import { mirrorSchema, useMirroring } from './mirroring'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'

const mirroring = useMirroring()
const edits = useEdits()
const level = useLevel()
const settings = useSettings()
const results = [
  { value: 'live', says: 'Both sides stay alike' },
  { value: 'instance', says: 'One more that follows its part' },
  { value: 'copy', says: 'One more on its own' },
  { value: 'move', says: 'This one goes over' },
] as const
const throughs = [
  { value: 'pivot', name: 'the pivot' },
  { value: 'middle', name: 'the middle of the box' },
  { value: 'world', name: "the world's origin" },
  { value: 'touched', name: 'a place of its own' },
] as const
/** Beyond and before along the axis as it is written. */
const sides = computed(() => {
  const [plus, minus] =
    settings.axes.sign(mirroring.axis) > 0 ? (['plus', 'minus'] as const) : (['minus', 'plus'] as const)
  return [
    { value: 'both' as const, name: 'all that is picked' },
    { value: plus, name: 'beyond the plane (+)' },
    { value: minus, name: 'before the plane (−)' },
  ]
})
const check = (values: object) => {
  const read = mirrorSchema.safeParse(values)
  return read.success ? null : `${firstIssue(read.error).message}.`
}
const count = computed(() => level.selection.ids.size)
</script>

<template>
  <p class="quiet hint">
    Mirrors {{ edits.nameOfPicked() ?? 'what is picked' }} across a plane; what would come of it is shown on the stage.
  </p>
  <PresetBar
    form="mirror"
    :values="mirroring.kept"
    :check="check"
    @apply="mirroring.begin(mirrorSchema.parse($event))"
  />
  <Sentences v-model="mirroring.as" :options="results" label="What comes of it" />
  <Segments
    v-model="mirroring.axis"
    :options="settings.axes.inOrder.map(({ axis, letter }) => ({ value: axis, name: `Across ${letter}` }))"
    label="Across"
  />
  <FormLine label="Through">
    <Choice v-model="mirroring.through" :options="throughs" label="Plane through" />
  </FormLine>
  <FormLine v-if="mirroring.place !== null" :label="`Plane at ${settings.axes.letter(mirroring.axis)}`">
    <QuantityField
      :label="`Plane at ${'XYZ'[mirroring.axis]}`"
      quantity="length"
      :axis="mirroring.axis"
      :unit="settings.kept.unit"
      :decimals="settings.decimals"
      :suffix="settings.suffix"
      :value="mirroring.place"
      operators="+*/"
      @commit="(_value, entry) => mirroring.setPlace(applyEntry(entry, mirroring.place!))"
    />
  </FormLine>
  <v-btn v-if="mirroring.through === 'touched'" @click="mirroring.touchPoint()">
    {{ mirroring.point ? 'Touch another point …' : 'Touch the point …' }}
  </v-btn>
  <FormLine label="Source side">
    <Choice v-model="mirroring.side" :options="sides" label="Source side" />
  </FormLine>
  <p v-if="mirroring.side !== 'both'" class="quiet hint">What is picked on the other side is replaced.</p>
  <p v-if="count === 0" class="quiet hint">Pick what is to be mirrored first.</p>
  <v-btn class="main" color="action" variant="flat" :disabled="!mirroring.possible" @click="mirroring.mirrorPicked()">
    {{ count === 0 ? 'Mirror' : `Mirror ${edits.nameOfPicked()}` }}
  </v-btn>
</template>
