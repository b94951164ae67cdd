<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import type { RenameRule } from '~~/core/level/rename'
import { plainRename, renameMany } from '~~/core/level/rename'
import { nameSchema } from '~~/core/level/fields'
import { useEdits } from '~/stores/edits'
import { useLevel } from '~/stores/level'
import { usePanels } from '~/stores/panels'
import { counted, wordFor } from '~~/core/units/plural'

const panels = usePanels()
const level = useLevel()
const edits = useEdits()

const rule = reactive<RenameRule>({ ...plainRename })
const names = computed(() => [...level.selection.ids].filter(id => level.view.has(id)).map(id => level.view.need(id).name))
const preview = computed(() => renameMany(names.value, rule))
const wrong = computed(() => preview.value.map(name => nameSchema.safeParse(name).error?.issues[0]?.message).find(Boolean))
watch(() => panels.renameManyOpen, () => Object.assign(rule, plainRename))
const texts = [
  { key: 'base', label: 'Base name' }, { key: 'separator', label: 'Separator' }, { key: 'prefix', label: 'Prefix' }, { key: 'suffix', label: 'Suffix' }, { key: 'find', label: 'Find' }, { key: 'replace', label: 'Replace by' },
] as const

function rename(): void {
  if (!wrong.value && edits.renamePicked(rule)) panels.renameManyOpen = false
}

const likeness = reactive({ part: true, kind: false, layer: false, material: false, size: false, tolerance: 5 })
const criteria = [{ key: 'part', name: 'Same part' }, { key: 'kind', name: 'Same kind' }, { key: 'layer', name: 'Same layer' }, { key: 'material', name: 'Same materials' }, { key: 'size', name: 'Same size' }] as const
const model = ref<string | null>(null)
watch(() => panels.similarOpen, () => (model.value = level.selection.last))
const similar = computed(() => panels.similarOpen && model.value !== null && level.view.has(model.value) ? edits.similarTo(model.value, likeness) : [])

function pickSimilar(): void {
  level.pick(similar.value)
  panels.similarOpen = false
}
</script>

<template>
  <FormDialog v-model="panels.renameManyOpen" :title="`Rename ${counted(names.length, 'thing')}`" max-width="560">
    <div class="fields">
      <div v-for="entry in texts" :key="entry.key"><span>{{ entry.label }}</span><v-text-field v-model="rule[entry.key]" :aria-label="entry.label" @keydown.enter="rename" /></div>
      <div><span>Digits (0: no number)</span><v-number-input v-model="rule.width" :min="0" :max="9" control-variant="stacked" aria-label="Digits" /></div>
      <div><span>First number</span><v-number-input v-model="rule.start" :min="0" control-variant="stacked" aria-label="First number" /></div>
    </div>
    <ul class="preview" aria-label="Preview" data-test="rename-preview">
      <li v-for="(name, i) in preview.slice(0, 50)" :key="i"><span class="quiet">{{ names[i] }}</span> → <strong>{{ name }}</strong></li>
    </ul>
    <p v-if="wrong" role="alert" class="error">A name {{ wrong }}.</p>
    <template #buttons>
      <v-btn @click="panels.renameManyOpen = false">Cancel</v-btn>
      <v-btn color="action" variant="flat" :disabled="Boolean(wrong)" @click="rename">Rename all</v-btn>
    </template>
  </FormDialog>
  <FormDialog v-model="panels.similarOpen" :title="`Pick what is like ${model && level.view.has(model) ? level.view.need(model).name : 'nothing'}`" max-width="380">
    <Tick v-for="entry in criteria" :key="entry.key" v-model="likeness[entry.key]" :label="entry.name" />
    <FormLine v-if="likeness.size" label="Within, in %"><v-number-input v-model="likeness.tolerance" class="small" :min="0" :max="100" control-variant="stacked" aria-label="Tolerance in percent" /></FormLine>
    <template #buttons>
      <v-btn @click="panels.similarOpen = false">Cancel</v-btn>
      <v-btn color="action" variant="flat" :disabled="similar.length === 0" @click="pickSimilar">Pick {{ similar.length }}</v-btn>
    </template>
  </FormDialog>
  <BakeDialog />
  <SavePartDialog />
  <BringIn />
  <SocketsDialog />
  <FormDialog :model-value="edits.skewQuestion !== null" title="Shapes would change" max-width="600" @update:model-value="edits.answerSkew(false)">
    <p v-if="edits.skewQuestion">{{ edits.skewQuestion.names.slice(0, 5).join(', ') }}{{ edits.skewQuestion.names.length > 5 ? ` and ${edits.skewQuestion.names.length - 5} more` : '' }} {{ wordFor(edits.skewQuestion.names.length, 'is', 'are') }} turned inside something sized unevenly. No position, turn and size can give that look in the new place.</p>
    <template #buttons>
      <v-btn @click="edits.answerSkew(true)">Go on, as near as possible</v-btn>
      <v-btn v-if="edits.skewQuestion?.canBake" variant="text" @click="edits.bakeSkew()">Give it a shape of its own</v-btn>
      <v-btn color="action" variant="flat" @click="edits.answerSkew(false)">Leave it as it is</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px 14px;
  font-size: var(--small);
}

.small {
  flex: none;
  width: 110px;
}

.preview {
  max-height: 190px;
  padding: 6px 10px;
  overflow: auto;
  border: 1px solid var(--line);
  border-radius: var(--round-small);
  list-style: none;
}
</style>
