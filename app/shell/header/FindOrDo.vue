<script setup lang="ts">
import { mdiMagnify } from '@mdi/js'
import type { ComponentPublicInstance } from 'vue'
import { computed, nextTick, ref, watch } from 'vue'
import { useCommands } from '~/editor/commands'
import { useStageSession } from '~/editor/stage-session'
import { useEdits } from '~/editor/edits'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useContextMenu } from '~/editor/menu/context-menu'
import { usePanels } from '~/editor/panels'
import { useKeys } from '~/editor/keys/keys'
import { meantBy, soughtIn } from '~/features/handbook/everyday-words'
import { useHandbook } from '~/features/handbook/handbook'
import { usePlacing } from '~/features/kit/placing'

const [SHOWN, PAGES_SHOWN] = [40, 4]
const panels = usePanels()
const level = useLevel()
const placing = usePlacing()
const session = useStageSession()
const edits = useEdits()
const kit = useKit()
const commands = useCommands()
const keys = useKeys()
const handbook = useHandbook()
const menu = useContextMenu()
const text = ref('')
const at = ref(0)
const input = ref<ComponentPublicInstance>()
const list = ref<ComponentPublicInstance>()

const found = computed(() => {
  return panels.findOpen ? edits.find(text.value) : []
})
/** `does`: the action that it is, which can be a favourite. */
type Entry = { key: string; name: string; note: string; does?: string; run: () => void }
const matches = (name: string) =>
  text.value
    .toLowerCase()
    .split(/\s+/)
    .every(word => name.toLowerCase().includes(word))
/** Actions and pages that everyday words mean. */
const meant = computed(() => (panels.findOpen ? meantBy(text.value) : []))

/** Pages of the handbook. */
const pages = computed((): Entry[] => {
  const { content } = handbook
  const sought = soughtIn(text.value)
  if (!content || sought.length < 2) return []
  const byWord = meant.value.filter(name => content.PAGES.includes(name))
  const found = content.searchPages(sought, PAGES_SHOWN).filter(({ page }) => !byWord.includes(page))
  return [...byWord.map(page => ({ page, anchor: '', title: content.titleOf(page)!, heading: '' })), ...found].map(
    ({ page, anchor, title, heading }) => ({
      key: `page ${page}`,
      name: heading && heading !== title ? `${title}: ${heading}` : title,
      note: 'handbook',
      run: () => handbook.open(page, anchor),
    }),
  )
})

const entries = computed((): Entry[] => {
  if (!panels.findOpen) return []
  const all = found.value
  const many =
    all.length > 1 ? [{ key: 'all', name: `Pick all ${all.length} found`, note: '', run: () => level.pick(all) }] : []
  const things = all.slice(0, SHOWN).map(id => {
    const { name, kind, partId } = level.view.need(id)
    return { key: id, name, note: partId === null ? kind : (kit.part(partId)?.name ?? ''), run: () => pickAndLook(id) }
  })
  const parts =
    text.value.trim() === ''
      ? []
      : kit.parts
          .filter(part => matches([part.name, ...part.tags].join(' ')))
          .slice(0, 6)
          .map(part => ({
            key: `part ${part.id}`,
            name: `Place ${part.name}`,
            note: 'kit',
            run: () => placing.start(part.id),
          }))
  const done = commands
    .possible()
    .filter(({ name }) => matches(name) || meant.value.includes(name))
    // What is called so comes before what is meant by another word.
    .toSorted((a, b) => Number(matches(b.name)) - Number(matches(a.name)))
    .map(command => ({
      key: `do ${command.name}`,
      name: command.name,
      note: keys.labelOf(command.name) ?? '',
      does: command.name,
      run: () => menu.choose(command),
    }))
  return [...many, ...things, ...parts, ...done, ...pages.value]
})

watch(
  () => panels.findOpen,
  async open => {
    if (!open) return
    void handbook.load()
    text.value = ''
    await nextTick()
    const field = input.value?.$el.querySelector('input') as HTMLInputElement | null
    // Vuetify would give the role to the box around the input too, and only one of them is one.
    field?.setAttribute('role', 'combobox')
    field?.focus()
  },
)
watch(text, () => (at.value = 0))

function pickAndLook(id: string): void {
  level.pick([id])
  session.lookAtSelection()
}

function step(by: number): void {
  at.value = (at.value + by + entries.value.length) % Math.max(entries.value.length, 1)
  void nextTick(() => list.value?.$el.querySelector('[aria-selected=true]')?.scrollIntoView({ block: 'nearest' }))
}

/** The star of the entry that is on. */
function onKey(event: KeyboardEvent): void {
  const does = entries.value[at.value]?.does
  if (does === undefined || !keys.isStageUse('favourite', 'menu', event)) return
  event.preventDefault()
  menu.toggleFavourite(does)
}

function run(entry: Entry | undefined): void {
  if (!entry) return
  panels.findOpen = false
  entry.run()
}
</script>

<template>
  <v-btn class="box" variant="flat" :prepend-icon="mdiMagnify" @click="panels.findOpen = true">
    Find or do …
    <KeyCap does="Find or do" />
  </v-btn>
  <v-dialog v-model="panels.findOpen" aria-label="Find or do" max-width="560" location="top" class="find">
    <section class="sheet">
      <v-text-field
        ref="input"
        v-model="text"
        class="text"
        placeholder="A name, part, tag, kind or layer, “held by …”, or what to do"
        aria-expanded="true"
        aria-controls="find-entries"
        aria-label="Find or do"
        aria-autocomplete="list"
        :aria-activedescendant="entries.length > 0 ? `find-entry-${at}` : undefined"
        @keydown.down.prevent="step(1)"
        @keydown.up.prevent="step(-1)"
        @keydown.enter.prevent="run(entries[at])"
        @keydown.esc="panels.findOpen = false"
        @keydown="onKey"
      />
      <v-list id="find-entries" ref="list" class="entries" role="listbox" aria-label="Found" tabindex="-1">
        <v-list-item
          v-for="(entry, i) in entries"
          :id="`find-entry-${i}`"
          :key="entry.key"
          role="option"
          tabindex="-1"
          :aria-selected="i === at"
          :active="i === at"
          :title="entry.name"
          :aria-description="entry.does && menu.isFavourite(entry.does) ? 'a favourite' : undefined"
          @click="run(entry)"
          @pointermove="at = i"
        >
          <template #append>
            <StarMark v-if="entry.does" :does="entry.does" />
            <span class="quiet mono">{{ entry.note }}</span>
          </template>
        </v-list-item>
      </v-list>
      <p v-if="entries.length === 0" class="quiet none">
        Nothing is called that, nothing can be done by that name, and the handbook does not speak of it. Try another
        word.
      </p>
      <p v-if="found.length > SHOWN" class="quiet none">and {{ found.length - SHOWN }} more things</p>
    </section>
  </v-dialog>
</template>

<style scoped>
.box.box {
  --v-btn-height: max(calc(28px * var(--scale)), var(--target));

  padding: 0 12px;
  border-radius: 14px;
  background: rgba(var(--v-theme-on-slate), 0.14);
  color: inherit;
  font-weight: 400;
}

.text {
  --v-input-control-height: max(calc(38px * var(--scale)), var(--target));
}

.entries {
  max-height: 380px;
  padding: 0;
  overflow: auto;
}

.entries .mono {
  font-size: var(--note);
}

.none {
  padding: 6px 10px;
}
</style>
