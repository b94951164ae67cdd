<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { usePartFields } from './use-part-fields'
import { useLevel } from '~/editor/level'
import { usePartMaking } from './part-making'
import type { PartPivot } from './part-making'
import { wordFor } from '~~/core/units/plural'
import PartFields from './PartFields.vue'

const level = useLevel()
const making = usePartMaking()
const { fields, wrong: wrongFields, ready } = usePartFields()
const replaces = ref(true)
const busy = ref(false)
const failed = ref<string | null>(null)
const pivots = [
  { value: 'place', name: 'Place of the box' },
  { value: 'own', name: 'Own' },
  { value: 'point', name: 'Click …' },
  { value: 'ground', name: 'Ground' },
] as const
const axes = [
  { value: 'last', name: 'As the last picked' },
  { value: 'world', name: 'World' },
] as const
const of = computed(() => making.things?.filter(id => level.view.has(id)) ?? [])
watch(
  () => making.things,
  things => {
    if (!things) return
    const last = level.view.need(things.at(-1)!)
    fields.name = things.length === 1 && last.kind === 'group' ? last.name : ''
    fields.tags = ''
    failed.value = null
  },
)
const wrong = computed(
  () =>
    failed.value
    ?? (fields.name === '' ? null : wrongFields.value)
    ?? (making.isShown && making.frame === null ? 'There is no ground below the middle. Choose another pivot.' : null),
)
const says = computed(() => {
  if (making.pivot.at === 'own') return 'where the last picked has its own'
  if (making.pivot.at === 'point') return 'the point that was clicked'
  return making.pivot.at === 'ground' ? 'on the ground below the middle' : ''
})

function choosePivot(at: PartPivot['at']): void {
  failed.value = null
  if (at === 'point') return making.clickPoint()
  making.pivot = at === 'place' ? { at, place: [0, -1, 0] } : { at }
}

async function save(): Promise<void> {
  if (wrongFields.value || wrong.value || busy.value) return
  busy.value = true
  failed.value = await making.make(ready.value, replaces.value)
  busy.value = false
}

// Only looked at again: a point may have been clicked meanwhile.
const close = () => making.isShown && making.close()
</script>

<template>
  <FormDialog
    page="your-own-parts"
    :model-value="making.isShown"
    title="Save as a part"
    max-width="430"
    @update:model-value="close"
  >
    <p class="quiet">
      {{ of.length === 1 ? level.view.need(of[0]!).name : `${of.length} things` }}
      {{ wordFor(of.length, 'becomes', 'become') }} one entry of the kit.
      {{ wordFor(of.length, 'What it is', 'What they are') }} made of is kept: the part can be opened again.
    </p>
    <PartFields v-model="fields" @enter="save" />
    <FormLine label="Pivot">
      <Segments
        :model-value="making.pivot.at"
        :options="pivots"
        label="Pivot of the part"
        :columns="2"
        @update:model-value="choosePivot"
      />
    </FormLine>
    <PivotPlaces
      v-if="making.pivot.at === 'place'"
      class="places"
      :current="making.pivot.place"
      @pick="making.pivot = { at: 'place', place: $event }"
    />
    <p v-else class="quiet says">{{ says }}</p>
    <FormLine label="Axes"><Segments v-model="making.axes" :options="axes" label="Axes of the part" /></FormLine>
    <Tick v-model="replaces" label="Put an instance in the place of what is picked" />
    <p v-if="wrong" role="alert" class="error">{{ wrong }}</p>
    <template #buttons>
      <v-btn @click="making.close()">Cancel</v-btn>
      <v-btn
        color="action"
        variant="flat"
        :loading="busy"
        :disabled="Boolean(wrongFields) || !making.frame"
        @click="save"
      >
        Save
      </v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.places {
  justify-content: end;
}

.says {
  text-align: end;
}
</style>
