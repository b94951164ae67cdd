<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { computed } from 'vue'
import { nameSchema } from '~~/core/level/fields'
import type { MarkerField } from '~~/core/level/kinds/marker'
import { VOLUME_SHAPES } from '~~/core/level/kinds/marker'
import { readTags } from '~~/core/level/part'
import { useMarking } from './marking'
import { WALK_LINE_FIELDS } from './own-fields'
import OwnFields from './OwnFields.vue'
import { useWalking } from './walking'

/** What the picked marker says: its text, its tags, and free fields that are handed over. */
const marking = useMarking()
const walking = useWalking()
const one = computed(() => marking.marker!)
const own = computed(() => one.value.own)
const set = (fields: object, what: string) => marking.change(fields, what)
const check = (key: string) => (value: unknown) => marking.check(one.value.id, { [key]: value })
const checkTags = (text: string) => (readTags(text) ? null : 'Tags are words with commas between them, 20 at the most.')
const SHAPES = { box: 'Box', ball: 'Ball', cylinder: 'Cylinder' }
const types = [
  { value: 'text', name: 'Text' },
  { value: 'number', name: 'Number' },
  { value: 'yes-no', name: 'Yes or no' },
] as const

const setFields = (fields: readonly MarkerField[], what = 'Change the fields of') => set({ fields }, what)
const replaced = (i: number, field: MarkerField) => own.value.fields.map((each, k) => (k === i ? field : each))
function addField(): void {
  let number = 1
  while (own.value.fields.some(({ key }) => key === `field ${number}`)) number++
  setFields([...own.value.fields, { key: `field ${number}`, type: 'text', value: '' }], 'Add a field to')
}
const checkKey = (i: number) => (text: string) =>
  !nameSchema.safeParse(text).success
    ? 'This is no name.'
    : check('fields')(replaced(i, { ...own.value.fields[i]!, key: text }))
const ofType = ({ key, value }: MarkerField, type: MarkerField['type']): MarkerField =>
  type === 'text'
    ? { key, type, value: String(value) }
    : type === 'number'
      ? { key, type, value: Number(value) || 0 }
      : { key, type, value: Boolean(value) && value !== 'no' }
</script>

<template>
  <section class="form-part" :aria-label="one.name">
    <h3>{{ one.name }}</h3>
    <v-btn v-if="own.marker === 'spawn'" class="main" color="action" variant="flat" @click="walking.fromSpawn(one.id)">
      Walk from here
    </v-btn>
    <v-textarea
      :model-value="own.text"
      aria-label="Text"
      placeholder="Text"
      rows="2"
      auto-grow
      :max-rows="6"
      @change="set({ text: $event.target.value }, 'Write on')"
    />
    <template v-if="own.marker === 'volume'">
      <Segments
        :model-value="own.shape"
        :options="VOLUME_SHAPES.map(value => ({ value, name: SHAPES[value] }))"
        label="Shape of the volume"
        @update:model-value="set({ shape: $event }, 'Shape')"
      />
      <FormLine label="Colour">
        <ColorBox :value="own.color" label="Colour of the volume" @commit="set({ color: $event }, 'Colour')" />
      </FormLine>
      <p class="quiet hint">Its size is dragged by the Size handles, or typed in the ledger.</p>
    </template>
    <template v-if="own.marker === 'walk'">
      <OwnFields :id="one.id" :own="own" :fields="WALK_LINE_FIELDS" />
      <p class="quiet hint">
        The level check looks along it for steps and narrow places. Its points are dragged on the stage.
      </p>
    </template>
    <div v-if="own.marker === 'note'" class="line">
      <v-btn @click="marking.pickAim()">Point at …</v-btn>
      <v-btn v-if="own.arrow" @click="set({ arrow: null }, 'Take the arrow from')">No arrow</v-btn>
    </div>
    <FormLine label="Tags">
      <TextBox
        :value="own.tags.join(', ')"
        label="Tags of the marker"
        placeholder="none"
        :check="checkTags"
        @commit="set({ tags: readTags($event) ?? [] }, 'Tag')"
      />
    </FormLine>
    <div v-for="(field, i) in own.fields" :key="field.key" class="field-row">
      <TextBox
        :value="field.key"
        :label="`Key of field ${i + 1}`"
        :check="checkKey(i)"
        @commit="setFields(replaced(i, { ...field, key: $event }))"
      />
      <Choice
        :model-value="field.type"
        :options="types"
        :label="`Type of ${field.key}`"
        @update:model-value="setFields(replaced(i, ofType(field, $event)))"
      />
      <IconButton
        :size="14"
        :icon="mdiClose"
        :label="`Remove ${field.key}`"
        @click="
          setFields(
            own.fields.filter((_, k) => k !== i),
            'Remove a field of',
          )
        "
      />
      <Tick
        v-if="field.type === 'yes-no'"
        :model-value="field.value"
        :label="field.value ? 'yes' : 'no'"
        @update:model-value="setFields(replaced(i, { ...field, value: $event }))"
      />
      <QuantityField
        v-else-if="field.type === 'number'"
        :label="`Value of ${field.key}`"
        quantity="factor"
        :decimals="3"
        :value="field.value"
        @commit="setFields(replaced(i, { ...field, value: $event }))"
      />
      <TextBox
        v-else
        :value="field.value"
        :label="`Value of ${field.key}`"
        @commit="setFields(replaced(i, { ...field, value: $event }))"
      />
    </div>
    <v-btn @click="addField">Add a field</v-btn>
  </section>
</template>

<style scoped>
.field-row {
  display: grid;
  grid-template-columns: 1fr 92px 23px;
  gap: 4px;
  align-items: center;
}

.field-row > :last-child {
  grid-column: 1 / -1;
}
</style>
