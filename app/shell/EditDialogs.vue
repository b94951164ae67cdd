<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { useEdits } from '~/editor/edits'
import { useLevel } from '~/editor/level'
import { usePanels } from '~/editor/panels'
import { wordFor } from '~~/core/units/plural'
import { FEATURES } from './features'
import RenameSheet from './RenameSheet.vue'

const dialogs = FEATURES.flatMap(feature => feature.dialogs ?? [])

const panels = usePanels()
const level = useLevel()
const edits = useEdits()

const likeness = reactive({ part: true, kind: false, layer: false, material: false, size: false, tolerance: 5 })
const criteria = [
  { key: 'part', name: 'Same part' },
  { key: 'kind', name: 'Same kind' },
  { key: 'layer', name: 'Same layer' },
  { key: 'material', name: 'Same materials' },
  { key: 'size', name: 'Same size' },
] as const
const model = ref<string | null>(null)
watch(
  () => panels.similarOpen,
  () => (model.value = level.selection.last),
)
const similar = computed(() =>
  panels.similarOpen && model.value !== null && level.view.has(model.value)
    ? edits.similarTo(model.value, likeness)
    : [],
)

function pickSimilar(): void {
  level.pick(similar.value)
  panels.similarOpen = false
}
</script>

<template>
  <RenameSheet />
  <FormDialog
    page="picking"
    v-model="panels.similarOpen"
    :title="`Pick what is like ${model && level.view.has(model) ? level.view.need(model).name : 'nothing'}`"
    max-width="380"
  >
    <Tick v-for="entry in criteria" :key="entry.key" v-model="likeness[entry.key]" :label="entry.name" />
    <FormLine v-if="likeness.size" label="Within, in %">
      <v-number-input
        v-model="likeness.tolerance"
        class="small"
        :min="0"
        :max="100"
        aria-label="Tolerance in percent"
      />
    </FormLine>
    <template #buttons>
      <v-btn @click="panels.similarOpen = false">Cancel</v-btn>
      <v-btn color="action" variant="flat" :disabled="similar.length === 0" @click="pickSimilar">
        Pick {{ similar.length }}
      </v-btn>
    </template>
  </FormDialog>
  <component :is="dialog" v-for="(dialog, i) in dialogs" :key="i" />
  <FormDialog
    page="turning-and-pivots"
    :model-value="edits.skewQuestion !== null"
    title="Shapes would change"
    max-width="600"
    @update:model-value="edits.answerSkew(false)"
  >
    <p v-if="edits.skewQuestion">
      {{ edits.skewQuestion.names.slice(0, 5).join(', ')
      }}{{ edits.skewQuestion.names.length > 5 ? ` and ${edits.skewQuestion.names.length - 5} more` : '' }}
      {{ wordFor(edits.skewQuestion.names.length, 'is', 'are') }} turned inside something sized unevenly. No position,
      turn and size can give that look in the new place.
    </p>
    <template #buttons>
      <v-btn @click="edits.answerSkew(true)">Go on, as near as possible</v-btn>
      <v-btn v-if="edits.skewQuestion?.canBake" variant="text" @click="edits.bakeSkew()">
        Give it a shape of its own
      </v-btn>
      <v-btn color="action" variant="flat" @click="edits.answerSkew(false)">Leave it as it is</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.small {
  flex: none;
  width: 110px;
}
</style>
