<script setup lang="ts">
import { mdiMagnify } from '@mdi/js'
import { computed, nextTick, ref, watch } from 'vue'
import { useActions } from '~/composables/use-actions'
import { useEditor } from '~/stores/editor'
import { useEdits } from '~/stores/edits'
import { useKit } from '~/stores/kit'
import { useLevel } from '~/stores/level'
import { usePanels } from '~/stores/panels'

const SHOWN = 40
const panels = usePanels()
const level = useLevel()
const editor = useEditor()
const edits = useEdits()
const kit = useKit()
const { possible } = useActions()
const text = ref('')
const at = ref(0)
const input = ref<HTMLInputElement>()
const list = ref<HTMLElement>()

const found = computed(() => {
  void level.version
  return panels.findOpen ? edits.find(text.value) : []
})
const matches = (name: string) => text.value.toLowerCase().split(/\s+/).every(word => name.toLowerCase().includes(word))

type Entry = { key: string, name: string, note: string, run: () => void }
const entries = computed((): Entry[] => {
  if (!panels.findOpen) return []
  const all = found.value
  const many = all.length > 1
    ? [{ key: 'all', name: `Pick all ${all.length} found`, note: '', run: () => level.pick(all) }]
    : []
  const things = all.slice(0, SHOWN).map((id) => {
    const { name, kind, partId } = level.document.need(id)
    return { key: id, name, note: partId === null ? kind : kit.part(partId)?.name ?? '', run: () => pickAndLook(id) }
  })
  const parts = text.value.trim() === '' ? [] : kit.parts.filter(part => matches([part.name, ...part.tags].join(' '))).slice(0, 6)
    .map(part => ({ key: `part ${part.id}`, name: `Place ${part.name}`, note: 'kit', run: () => editor.startPlacing(part.id) }))
  const actions = possible().filter(action => matches(action.name)).map(action => ({ key: `do ${action.name}`, name: action.name, note: action.key ?? '', run: action.run }))
  return [...many, ...things, ...parts, ...actions]
})

watch(() => panels.findOpen, async (open) => {
  if (!open) return
  text.value = ''
  await nextTick()
  input.value?.focus()
})
watch(text, () => (at.value = 0))

function pickAndLook(id: string): void {
  level.pick([id])
  editor.lookAtSelection()
}

function step(by: number): void {
  at.value = (at.value + by + entries.value.length) % Math.max(entries.value.length, 1)
  void nextTick(() => list.value?.querySelector('[aria-selected=true]')?.scrollIntoView({ block: 'nearest' }))
}

function run(entry: Entry | undefined): void {
  if (!entry) return
  panels.findOpen = false
  entry.run()
}
</script>

<template>
  <button type="button" class="box" @click="panels.findOpen = true"><v-icon :icon="mdiMagnify" size="17" /> Find or do … <kbd class="mono">/</kbd></button>
  <v-dialog v-model="panels.findOpen" max-width="560" location="top" class="find">
    <section class="sheet" aria-label="Find or do">
      <input
        ref="input" v-model="text" class="text" placeholder="A name, part, tag, kind or layer, or what to do" role="combobox" aria-expanded="true" aria-controls="find-entries" aria-label="Find or do"
        @keydown.down.prevent="step(1)" @keydown.up.prevent="step(-1)" @keydown.enter.prevent="run(entries[at])" @keydown.esc="panels.findOpen = false"
      >
      <ul id="find-entries" ref="list" role="listbox" aria-label="Found">
        <li v-for="(entry, i) in entries" :key="entry.key" role="option" :aria-selected="i === at" :class="{ at: i === at }" @click="run(entry)" @pointermove="at = i">
          <span>{{ entry.name }}</span><span class="quiet mono">{{ entry.note }}</span>
        </li>
      </ul>
      <p v-if="entries.length === 0" class="quiet none">Nothing is called that, and nothing can be done by that name.</p>
      <p v-if="found.length > SHOWN" class="quiet none">and {{ found.length - SHOWN }} more things</p>
    </section>
  </v-dialog>
</template>

<style scoped>
.box {
  display: flex;
  align-items: center;
  gap: 6px;
  height: 28px;
  padding: 0 12px;
  border-radius: 14px;
  background: rgb(255 255 255 / 14%);
  font-size: 13px;
}

kbd {
  opacity: 0.8;
}

.sheet {
  padding: 10px;
  background: rgb(var(--v-theme-surface));
  border: 1px solid var(--line);
  border-radius: 12px;
}

.text {
  width: 100%;
  height: 38px;
  padding: 0 12px;
  background: rgb(var(--v-theme-field));
  border: 1px solid var(--petrol);
  border-radius: 7px;
  font-size: 15px;
  outline: none;
}

ul {
  max-height: 380px;
  margin-top: 8px;
  padding: 0;
  overflow: auto;
  list-style: none;
}

li {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  padding: 4px 10px;
  border-radius: 5px;
  cursor: pointer;
}

li .mono {
  font-size: 12px;
}

.at {
  background: rgba(var(--v-theme-picked), 0.14);
}

.none {
  padding: 6px 10px;
}
</style>
