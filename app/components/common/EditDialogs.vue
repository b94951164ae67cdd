<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import type { RenameRule } from '~~/core/level/rename'
import { plainRename, renameMany } from '~~/core/level/rename'
import { nameSchema } from '~~/core/level/schema'
import { useEdits } from '~/stores/edits'
import { useLevel } from '~/stores/level'
import { usePanels } from '~/stores/panels'

const panels = usePanels()
const level = useLevel()
const edits = useEdits()

const rule = reactive<RenameRule>({ ...plainRename })
const names = computed(() => [...level.selection.ids].filter(id => level.document.has(id)).map(id => level.document.need(id).name))
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
const similar = computed(() => panels.similarOpen && model.value !== null && level.document.has(model.value) ? edits.similarTo(model.value, likeness) : [])

function pickSimilar(): void {
  level.pick(similar.value)
  panels.similarOpen = false
}
</script>

<template>
  <v-dialog v-model="panels.renameManyOpen" max-width="560">
    <section class="sheet" aria-label="Rename many">
      <h2>Rename {{ names.length }} things</h2>
      <div class="fields">
        <label v-for="entry in texts" :key="entry.key">{{ entry.label }}<input v-model="rule[entry.key]" :aria-label="entry.label" @keydown.enter="rename"></label>
        <label>Digits (0: no number)<input v-model.number="rule.width" type="number" min="0" max="9" aria-label="Digits"></label>
        <label>First number<input v-model.number="rule.start" type="number" min="0" aria-label="First number"></label>
      </div>
      <ul class="preview" aria-label="Preview" data-test="rename-preview">
        <li v-for="(name, i) in preview.slice(0, 50)" :key="i"><span class="quiet">{{ names[i] }}</span> → <strong>{{ name }}</strong></li>
      </ul>
      <p v-if="wrong" role="alert" class="wrong">A name {{ wrong }}.</p>
      <div class="buttons">
        <v-btn variant="text" @click="panels.renameManyOpen = false">Cancel</v-btn>
        <v-btn color="action" variant="flat" :disabled="Boolean(wrong)" @click="rename">Rename all</v-btn>
      </div>
    </section>
  </v-dialog>
  <v-dialog v-model="panels.similarOpen" max-width="380">
    <section class="sheet" aria-label="Pick similar">
      <h2>Pick what is like {{ model && level.document.has(model) ? level.document.need(model).name : '' }}</h2>
      <label v-for="entry in criteria" :key="entry.key" class="tick"><input v-model="likeness[entry.key]" type="checkbox"> {{ entry.name }}</label>
      <label v-if="likeness.size" class="tick">within <input v-model.number="likeness.tolerance" class="small" type="number" min="0" max="100" aria-label="Tolerance in percent"> %</label>
      <div class="buttons">
        <v-btn variant="text" @click="panels.similarOpen = false">Cancel</v-btn>
        <v-btn color="action" variant="flat" :disabled="similar.length === 0" @click="pickSimilar">Pick {{ similar.length }}</v-btn>
      </div>
    </section>
  </v-dialog>
  <BakeDialog />
  <v-dialog :model-value="edits.skewQuestion !== null" max-width="600" @update:model-value="edits.answerSkew(false)">
    <section v-if="edits.skewQuestion" class="sheet" aria-label="Shapes would change">
      <h2>Shapes would change</h2>
      <p>{{ edits.skewQuestion.names.slice(0, 5).join(', ') }}{{ edits.skewQuestion.names.length > 5 ? ` and ${edits.skewQuestion.names.length - 5} more` : '' }} is skewed where it is: turned inside something sized unevenly. No position, turn and size can keep that look in the new place.</p>
      <div class="buttons">
        <v-btn variant="text" @click="edits.answerSkew(true)">Go on, as near as possible</v-btn>
        <v-btn v-if="edits.skewQuestion.canBake" variant="text" @click="edits.bakeSkew()">Give it a shape of its own</v-btn>
        <v-btn color="action" variant="flat" @click="edits.answerSkew(false)">Leave it where it is</v-btn>
      </div>
    </section>
  </v-dialog>
</template>

<style scoped>
h2 {
  font-size: 19px;
}

.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px 14px;
}

.fields label {
  display: flex;
  flex-direction: column;
  font-size: 12.5px;
}

.fields input,
.small {
  height: 30px;
  padding: 0 8px;
  background: rgb(var(--v-theme-field));
  border: 1px solid var(--line);
  border-radius: 5px;
}

.small {
  width: 64px;
}

.preview {
  max-height: 190px;
  padding: 6px 10px;
  overflow: auto;
  border: 1px solid var(--line);
  border-radius: 6px;
  font-size: 13px;
  list-style: none;
}

.wrong {
  color: rgb(var(--v-theme-error));
}

.buttons {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
