<script setup lang="ts">
import { counted, wordFor } from '~~/core/units/plural'
import { mdiMagnify, mdiStar, mdiStarOutline, mdiTrayArrowDown } from '@mdi/js'
import { useFileDialog } from '@vueuse/core'
import { v7 } from 'uuid'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Part, KitEntry } from '~~/core/level/part'
import { partSize } from '~~/core/level/part'
import { printShort } from '~~/core/units/quantity'
import { asName } from '~~/core/units/text'
import { useKitEntries } from './use-kit-entries'
import { usePartImport } from './import/part-import'
import { useFileImport } from './import/file-import'
import { useEdits } from '~/editor/edits'
import { useKit } from '~/editor/kit'
import { useAuth } from '~/editor/auth'
import { useLevel } from '~/editor/level'
import type { MenuDeed } from '~/editor/menu/context-menu'
import { useContextMenu } from '~/editor/menu/context-menu'
import { useModes } from '~/editor/modes'
import { useSettings } from '~/editor/settings'
import { useStageSession } from '~/editor/stage-session'
import { usePlacing } from './placing'
import { useSwapping } from './swapping'
import { useWorkshop } from './workshop'
import { dragOut } from './drag-out'
import { instancesOf } from '~~/core/level/find'
import PartSheet from './PartSheet.vue'
import SwapPanel from './SwapPanel.vue'

const kit = useKit()
const modes = useModes()
const placing = usePlacing()
const session = useStageSession()
const settings = useSettings()
const auth = useAuth()
const level = useLevel()
const edits = useEdits()
const swapping = useSwapping()
const workshop = useWorkshop()
const menu = useContextMenu()
const partImport = usePartImport()
const fileImport = useFileImport()
const { search, onlyFavourites, placed, favourites, found, entries, toggleFavourite } = useKitEntries()
const { open: chooseFiles, onChange } = useFileDialog({
  multiple: true,
  accept: '.glb,.gltf,.bin,.handygrid,.csv,.tsv,image/png,image/jpeg,image/webp',
  reset: true,
})
onChange(files => void fileImport.take([...(files ?? [])], false))
const SAMPLES = [
  { file: 'bollards-cm-z-up.glb', name: 'Two bollards', about: 'in centimetres, Z up' },
  { file: 'sign-textured.glb', name: 'A market sign', about: 'with three textures' },
  { file: 'net-float-compressed.glb', name: 'A net float', about: 'compressed' },
]
const sorts = [
  { value: 'kit', name: 'as in the kit' },
  { value: 'name', name: 'by name' },
  { value: 'size', name: 'largest first' },
  { value: 'placed', name: 'most used' },
  { value: 'last', name: 'last used' },
] as const
const kits = computed(() => [{ value: null, name: 'All kits' }, ...kit.kits.map(value => ({ value, name: value }))])
const sheet = shallowRef<Part | null>(null)
/** Parts marked to become one entry. */
const marked = ref<string[]>([])
watch(
  () => kit.parts,
  () => void kit.takePictures(!auth.mayOnlyRead),
  { immediate: true },
)

function sizeOf(part: Part): string {
  const { unit } = settings.kept
  const decimals = unit === 'm' ? 2 : settings.decimals
  return `${partSize(part)
    .map(side => settings.marked(printShort(side, 'length', unit, decimals)))
    .join('×')} ${settings.suffix}`.trim()
}

/** What no level uses can go; it can be brought back as long as the notice says so. */
async function remove(part: Part): Promise<void> {
  sheet.value = null
  await kit.online(async () => {
    const bringBack = await kit.remove(part.id)
    level.notify(`${part.name} was deleted from the kit`, ['No level uses it.'], {
      label: 'Bring it back',
      run: () => void kit.online(bringBack, level.notify),
    })
  }, level.notify)
}

function findAll(part: Part): void {
  level.pick(instancesOf(level.view, part.id).filter(id => !level.view.isLocked(id)))
  session.lookAtSelection()
}

/** Several parts as one entry, named by what their names begin with. */
async function makeOneEntry(): Promise<void> {
  const names = marked.value.map(id => kit.part(id)!.name)
  const words = names[0]!.split(' ')
  const common = words.filter((_, i) => names.every(name => name.startsWith(words.slice(0, i + 1).join(' ')))).join(' ')
  const entry: KitEntry = {
    id: v7(),
    name: asName(`${common || names[0]} or others`),
    kit: kit.part(marked.value[0]!)!.kit,
    by: 'random',
    parts: marked.value,
  }
  marked.value = []
  await kit.online(() => kit.putKitEntry(entry), level.notify)
}

/** Dragged out, one part is placed; clicked, as many as wanted; with Ctrl it is marked. */
function press(event: PointerEvent, part: Part): void {
  if (event.button !== 0) return
  if (event.ctrlKey || event.metaKey) return mark(part)
  if (swapping.isOn) return swapping.commit(part.id)
  const wasPlacing = session.held('place')?.what === part.id
  dragOut(event, {
    input: () => session.input,
    start: () => placing.start(part.id),
    stop: modes.stopMode,
    click: () => toggle(part, wasPlacing),
    onRoster: id => edits.placeInto(part.id, id),
  })
}

function pressEntry(event: PointerEvent, entry: KitEntry): void {
  if (event.button !== 0) return
  const wasPlacing = session.held('place')?.what === entry.id
  dragOut(event, {
    input: () => session.input,
    start: () => placing.startOneOf(entry),
    stop: modes.stopMode,
    click: () => (wasPlacing ? modes.stopMode() : placing.startOneOf(entry)),
  })
}

function mark({ id }: Part): void {
  marked.value = marked.value.includes(id) ? marked.value.filter(each => each !== id) : [...marked.value, id]
}

function toggle(part: Part, wasPlacing: boolean): void {
  if (swapping.isOn) swapping.commit(part.id)
  else if (wasPlacing) modes.stopMode()
  else placing.start(part.id)
}

const isOn = (part: Part) => session.held('place')?.what === part.id || marked.value.includes(part.id)
const firstOf = (entry: KitEntry) => entry.parts.flatMap(id => kit.part(id) ?? [])[0]

function dealBy(entry: KitEntry, by: KitEntry['by']): void {
  void kit.online(() => kit.putKitEntry({ ...entry, by }), level.notify)
}

function takeApart({ id }: KitEntry): void {
  void kit.online(() => kit.removeVariants(id), level.notify)
}

/** Where it is placed, if it is here. */
function edit({ id }: Part): void {
  void workshop.open(id, instancesOf(level.view, id)[0] ?? null)
}

function openMenu(event: MouseEvent, label: string, deeds: readonly MenuDeed[]): void {
  menu.open({ place: 'card', at: [event.clientX, event.clientY], label, things: null, deeds })
}

function deedsOf(part: Part): MenuDeed[] {
  const here = placed.value.get(part.id) ?? 0
  const isFavourite = favourites.value.has(part.id)
  return [
    { title: 'Details …', run: () => (sheet.value = part) },
    { title: isFavourite ? 'No favourite any more' : 'Favourite', run: () => toggleFavourite(part.id) },
    { title: 'Find all here', disabled: here === 0, end: String(here), run: () => findAll(part) },
    { title: 'Edit the part', run: () => edit(part) },
    { title: 'Mark, to make several one entry', end: 'Ctrl+click', run: () => mark(part) },
    { title: `Delete ${part.name} from the kit`, run: () => remove(part) },
  ]
}

const deedsOfEntry = (entry: KitEntry): MenuDeed[] => [
  { title: 'At random', checked: entry.by === 'random', run: () => dealBy(entry, 'random') },
  { title: 'In turn', checked: entry.by === 'turn', run: () => dealBy(entry, 'turn') },
  { title: 'Take the entry apart', run: () => takeApart(entry) },
]

/** What a thing does that is put onto a steep side. */
const sides = [
  { value: 'stands', name: 'stand below' },
  { value: 'hangs', name: 'hang there' },
] as const
</script>

<template>
  <section class="bench-form" aria-labelledby="kit-title">
    <PanelHead title-id="kit-title" title="Kit">
      <v-menu>
        <template #activator="{ props: activator }">
          <v-btn v-bind="activator" :prepend-icon="mdiTrayArrowDown">Bring in</v-btn>
        </template>
        <MenuList label="Bring in">
          <MenuItem title="A file …" subtitle="glTF, a level or a table; or drop it anywhere" @click="chooseFiles()" />
          <v-list-subheader>Some to try it with</v-list-subheader>
          <MenuItem
            v-for="sample in SAMPLES"
            :key="sample.file"
            :title="sample.name"
            :subtitle="sample.about"
            @click="partImport.lookAt(`/samples/${sample.file}`)"
          />
        </MenuList>
      </v-menu>
    </PanelHead>
    <SwapPanel v-if="swapping.isOn" />
    <p v-else class="quiet hint">
      Drag a part onto the stage or the roster, or click it and then click on the stage as often as you like. The wheel
      turns it; Esc ends.
    </p>
    <div class="search">
      <v-text-field
        v-model="search"
        type="search"
        :prepend-inner-icon="mdiMagnify"
        placeholder="Name or tag"
        aria-label="Find a part"
      />
      <IconButton
        :icon="onlyFavourites ? mdiStar : mdiStarOutline"
        label="Only favourites"
        :pressed="onlyFavourites"
        @click="onlyFavourites = !onlyFavourites"
      />
    </div>
    <div class="choices">
      <Choice v-model="kit.shownKit" :options="kits" label="Kit" />
      <Choice v-model="settings.kept.kitSort" :options="sorts" label="Sorted" />
    </div>
    <Tick v-model="settings.kept.leaning" label="Lean with the surface" />
    <Tick v-model="settings.kept.keepsPlaced" label="Keep on what it is put on" />
    <FormLine v-if="!settings.kept.leaning" label="On walls">
      <Choice v-model="settings.kept.steepSide" :options="sides" label="On walls" />
    </FormLine>
    <p v-if="marked.length > 0" class="marked">
      {{ marked.length }} marked
      <v-btn :disabled="marked.length < 2" @click="makeOneEntry">Make one entry</v-btn>
      <v-btn variant="text" @click="marked = []">Clear</v-btn>
    </p>
    <p v-if="kit.unreadable > 0" class="quiet hint" data-test="unreadable">
      {{ counted(kit.unreadable, 'part') }} of the kit cannot be read and
      {{ wordFor(kit.unreadable, 'stands', 'stand') }} as
      {{ wordFor(kit.unreadable, 'a hatched box', 'hatched boxes') }} where
      {{ wordFor(kit.unreadable, 'it is', 'they are') }} used.
    </p>
    <ul class="parts" tabindex="-1">
      <li v-for="entry in entries" :key="entry.id">
        <v-btn
          class="card several"
          stacked
          :aria-pressed="session.held('place')?.what === entry.id"
          :data-part="entry.name"
          :title="entry.parts.map(id => kit.part(id)?.name).join(', ')"
          @pointerdown="pressEntry($event, entry)"
          @keydown.enter.prevent="placing.startOneOf(entry)"
          data-has-menu
          @contextmenu.prevent="openMenu($event, entry.name, deedsOfEntry(entry))"
        >
          <img
            v-if="firstOf(entry) && kit.pictureOf(firstOf(entry)!)"
            :src="kit.pictureOf(firstOf(entry)!)!"
            alt=""
            width="66"
            height="66"
            draggable="false"
          />
          <span v-else class="blank" />
          <span class="name">{{ entry.name }}</span>
          <span class="size mono quiet">
            {{ entry.by === 'turn' ? 'in turn' : 'at random' }} of {{ entry.parts.length }}
          </span>
        </v-btn>
      </li>
      <li v-for="part in found" :key="part.id">
        <v-btn
          class="card"
          stacked
          :aria-pressed="isOn(part)"
          :data-part="part.name"
          :title="part.tags.join(', ')"
          @pointerdown="press($event, part)"
          @keydown.enter.prevent="toggle(part, session.held('place')?.what === part.id)"
          @keydown.space.prevent="toggle(part, session.held('place')?.what === part.id)"
          data-has-menu
          @contextmenu.prevent="openMenu($event, part.name, deedsOf(part))"
          @keydown.delete.stop="remove(part)"
          @pointerenter="swapping.isOn && swapping.preview(part.id)"
          @pointerleave="swapping.isOn && swapping.preview(null)"
          @focus="swapping.isOn && swapping.preview(part.id)"
        >
          <v-icon v-if="favourites.has(part.id)" class="star" :icon="mdiStar" :size="14" />
          <img v-if="kit.pictureOf(part)" :src="kit.pictureOf(part)!" alt="" width="66" height="66" draggable="false" />
          <span v-else class="blank" />
          <span class="name">{{ part.name }}</span>
          <span class="size mono quiet">{{ sizeOf(part) }}</span>
          <span v-if="placed.get(part.id)" class="size mono quiet">
            {{ placed.get(part.id)!.toLocaleString('en') }} here
          </span>
        </v-btn>
      </li>
    </ul>
    <p v-if="found.length === 0 && entries.length === 0" class="quiet">
      {{
        search
          ? `No part has “${search}” in its name or tags.`
          : 'No part is shown: choose another kit, or bring one in.'
      }}
    </p>
    <PartSheet :part="sheet" @close="sheet = null" @remove="remove" />
  </section>
</template>

<style scoped>
.bench-form {
  gap: 6px;
  overflow: hidden;
}

.search,
.marked {
  display: flex;
  gap: 6px;
  align-items: center;
  justify-content: space-between;
}

.choices {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}

.parts {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(100px, 1fr));
  align-content: start;
  gap: 7px;
  flex: 1;
  min-height: 0;
  margin: 0 -12px -10px;
  padding: 2px 12px 12px;
  overflow: hidden auto;
  list-style: none;
  scrollbar-width: thin;
}

.card.card {
  width: 100%;
  height: auto;
  padding: 3px 3px 6px;
  border-radius: var(--round);
  cursor: grab;
  touch-action: none;
  user-select: none;
}

.card :deep(.v-btn__content) {
  flex-direction: column;
  white-space: normal;
}

.several.several {
  border-style: double;
  border-width: 3px;
}

.card[aria-pressed='true'] {
  border-color: var(--picked);
  box-shadow: inset 0 0 0 1px var(--picked);
}

.card img {
  margin-bottom: 2px;
  background: rgb(var(--v-theme-picture));
  border-radius: 6px;
}

.star {
  position: absolute;
  top: 2px;
  right: 2px;
  color: rgb(var(--v-theme-action));
}

.blank {
  width: 66px;
  height: 66px;
}

.name {
  font: 500 var(--body) / 1.2 var(--text);
}

.size {
  font: 400 calc(9.5px * var(--scale)) / 1.5 var(--mono);
  letter-spacing: -0.02em;
}
</style>
