<script setup lang="ts">
import { mdiTune } from '@mdi/js'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, watch } from 'vue'
import { useRosterRows } from './use-roster-rows'
import { useRosterDrag } from './use-roster-drag'
import { KIND_NAMES } from '~~/core/level/kinds'
import { useKeys } from '~/editor/keys/keys'
import type { StageUse } from '~/editor/keys/stage-uses'
import { useTools } from '~/editor/tools'
import { useLevel } from '~/editor/level'
import { useContextMenu } from '~/editor/menu/context-menu'
import { usePanels } from '~/editor/panels'
import { useSettings } from '~/editor/settings'
import LayerList from './LayerList.vue'
import MeasureList from '~/features/measure/MeasureList.vue'
import RosterRow from './RosterRow.vue'

/** Pixels, of a row with text as it is made. */
const ROW = 25
/** The least for a finger; as `--target` says. */
const FINGER = 44
/** More than are ever shown at once: rows that scroll out of sight are used again for those that come in. */
const RECYCLED = 128
const level = useLevel()
const { rows, holding, toggle, rowOf } = useRosterRows()
const list = ref<HTMLElement>()
const settings = useSettings()
const rowHeight = computed(() =>
  Math.max(Math.round((ROW * settings.kept.textSize) / 100), settings.byFinger ? FINGER : 0),
)
const virtual = useVirtualizer(
  computed(() => ({
    count: rows.value.length,
    getScrollElement: () => list.value ?? null,
    estimateSize: () => rowHeight.value,
    overscan: 6,
  })),
)

const tools = useTools()
const keys = useKeys()
const panels = usePanels()
const menu = useContextMenu()
const drag = useRosterDrag()
const focusedIndex = ref(0)
const hotIndex = ref(-1)
/** Whether the keyboard is in the list: then the row it is on shows its eye and lock as well. */
const isEntered = ref(false)
const sorts = [
  { value: 'order', name: 'as arranged' },
  { value: 'name', name: 'by name' },
  { value: 'kind', name: 'by kind' },
] as const
const kinds = [
  { value: null, name: 'every kind' },
  ...KIND_NAMES.filter(kind => kind !== 'group').map(value => ({ value, name: `only ${value}s` })),
]
const isPicked = (id: string) => level.selection.ids.has(id)
const renamingId = ref<string | null>(null)

// F2 anywhere renames the last picked, in its row.
watch(
  () => panels.renaming,
  async asked => {
    if (!asked) return
    panels.renaming = false
    const index = rows.value.findIndex(row => row.placement.id === level.selection.last)
    if (index < 0) return
    virtual.value.scrollToIndex(index)
    await nextTick()
    renamingId.value = level.selection.last
  },
)

function endRenaming(): void {
  renamingId.value = null
}

function pick(event: MouseEvent | KeyboardEvent, index: number): void {
  const { id } = rows.value[index]!.placement
  const { ids, last } = level.selection
  const from = rows.value.findIndex(row => row.placement.id === last)
  if (event.ctrlKey || event.metaKey) level.togglePick(id)
  else if (event.shiftKey && from >= 0) {
    const between = rows.value.slice(Math.min(from, index), Math.max(from, index) + 1).map(row => row.placement.id)
    level.pick([
      ...[...ids].filter(other => !between.includes(other)),
      ...(index < from ? between.toReversed() : between),
    ])
  } else level.pick([id])
  focusedIndex.value = index
}

/** Of the row, and of all that is picked if it is among it. */
function openMenu(event: MouseEvent, index: number): void {
  const { id, name } = rows.value[index]!.placement
  if (!isPicked(id)) level.pick([id])
  focusedIndex.value = index
  menu.open({ place: 'row', at: [event.clientX, event.clientY], label: `Menu of ${name}`, things: null, deeds: [] })
}

async function focusRow(index: number): Promise<void> {
  focusedIndex.value = Math.min(Math.max(index, 0), rows.value.length - 1)
  virtual.value.scrollToIndex(focusedIndex.value)
  await nextTick()
  list.value?.querySelector<HTMLElement>(`[data-index="${focusedIndex.value}"]`)?.focus()
}

function onKey(event: KeyboardEvent, index: number): void {
  const row = rows.value[index]!
  const actions: Partial<Record<StageUse, () => void>> = {
    rowBelow: () => void focusRow(index + 1),
    rowAbove: () => void focusRow(index - 1),
    rowFirst: () => void focusRow(0),
    rowLast: () => void focusRow(rows.value.length - 1),
    rowOpen: () => (row.children > 0 && !row.open ? toggle(row.placement.id) : void focusRow(index + 1)),
    rowClose: () =>
      row.open
        ? toggle(row.placement.id)
        : void focusRow(rows.value.findIndex(other => other.placement.id === row.placement.parentId)),
    rowPick: () => pick(event, index),
  }
  const action = Object.entries(actions).find(([use]) => keys.isStageUse(use as StageUse, 'list', event))?.[1]
  if (!action) return
  event.preventDefault()
  event.stopPropagation()
  action()
}

watch(
  () => level.selection.last,
  async last => {
    await nextTick()
    const index = last === null ? -1 : rowOf(last)
    if (index < 0 || !settings.kept.rosterFollows) return
    focusedIndex.value = index
    virtual.value.scrollToIndex(index, { align: 'auto' })
  },
  { immediate: true },
)

/** Left for good, not for a button within a row. */
function leave(event: FocusEvent): void {
  isEntered.value = list.value?.contains(event.relatedTarget as Node | null) ?? false
}
</script>

<template>
  <aside class="roster" aria-labelledby="roster-title">
    <div class="head">
      <h2 id="roster-title">
        Roster
        <span class="mono quiet count">{{ level.view.size.toLocaleString('en') }}</span>
      </h2>
      <v-menu :close-on-content-click="false" location="bottom end">
        <template #activator="{ props }">
          <IconButton v-bind="props" :icon="mdiTune" label="How the roster is shown" />
        </template>
        <section class="sheet" aria-label="How the roster is shown">
          <FormLine label="Sorted">
            <Choice v-model="settings.kept.rosterSort" :options="sorts" label="Roster sorted" />
          </FormLine>
          <Tick v-model="settings.kept.rosterFollows" label="Follow what is picked" />
        </section>
      </v-menu>
      <AskMark />
    </div>
    <Choice
      v-model="tools.kindFilter"
      class="filter"
      :class="{ loud: tools.kindFilter !== null }"
      :options="kinds"
      label="Kind that can be picked"
    />
    <div ref="list" class="list" @focusin="isEntered = true" @focusout="leave">
      <ul
        role="tree"
        aria-label="Placements"
        aria-multiselectable="true"
        :style="{ height: `${virtual.getTotalSize()}px` }"
      >
        <li
          v-for="item in virtual.getVirtualItems()"
          :key="item.index % RECYCLED"
          role="treeitem"
          class="row"
          :data-index="item.index"
          :data-placement="rows[item.index]!.placement.id"
          :class="[
            { picked: isPicked(rows[item.index]!.placement.id), holding: holding.has(rows[item.index]!.placement.id) },
            drag.over.value?.id === rows[item.index]!.placement.id ? drag.over.value.place : '',
          ]"
          :tabindex="item.index === focusedIndex ? 0 : -1"
          :aria-level="rows[item.index]!.depth + 1"
          :aria-setsize="rows[item.index]!.siblings"
          :aria-posinset="rows[item.index]!.place"
          :aria-selected="isPicked(rows[item.index]!.placement.id)"
          :aria-expanded="rows[item.index]!.children > 0 ? rows[item.index]!.open : undefined"
          :style="{ top: `${item.start}px`, paddingLeft: `${6 + rows[item.index]!.depth * 14}px` }"
          draggable="true"
          @dragstart="drag.start($event, rows[item.index]!)"
          @dragover="drag.move($event, rows[item.index]!)"
          @drop="drag.drop"
          @dragend="drag.end"
          @pointerenter="hotIndex = item.index"
          @pointerleave="hotIndex = -1"
          @click="pick($event, item.index)"
          @dblclick="renamingId = rows[item.index]!.placement.id"
          data-has-menu
          @contextmenu.prevent="openMenu($event, item.index)"
          @keydown.self="onKey($event, item.index)"
        >
          <RosterRow
            :row="rows[item.index]!"
            :hot="hotIndex === item.index || (isEntered && focusedIndex === item.index)"
            :renaming="renamingId === rows[item.index]!.placement.id"
            @toggle="toggle(rows[item.index]!.placement.id)"
            @renamed="endRenaming"
          />
        </li>
      </ul>
    </div>
    <p v-if="rows.length === 0" class="quiet none">Nothing is placed yet.</p>
    <LayerList />
    <MeasureList />
  </aside>
</template>

<style scoped>
.roster {
  display: flex;
  flex-direction: column;
  height: 100%;
  background: rgb(var(--v-theme-surface));
  border-left: 1px solid var(--line);
}

.at-left {
  border-right: 1px solid var(--line);
  border-left: 0;
}

.head {
  display: flex;
  align-items: center;
  padding: 8px 8px 2px 12px;
}

.head h2 {
  flex: 1;
}

.count {
  font-size: var(--note);
  font-weight: 400;
}

.sheet {
  width: 230px;
}

.filter {
  flex: none;
  margin: 0 12px 5px;

  --v-input-control-height: max(calc(25px * var(--scale)), var(--target));
}

.filter.loud :deep(.v-field) {
  background: var(--picked);
  color: rgb(var(--v-theme-on-picked));
}

.filter.loud :deep(.v-field__input) {
  color: inherit;
}

.list {
  /* Scrolling a hundred thousand rows must not lay out the page around them. */
  contain: strict;
  flex: 1;
  min-height: 0;
  overflow: hidden auto;
  scrollbar-width: thin;
}

ul {
  position: relative;
  margin: 0;
  padding: 0;
  list-style: none;
}

.row {
  contain: layout style;
  position: absolute;
  display: flex;
  align-items: center;
  gap: 3px;
  width: 100%;
  height: max(calc(25px * var(--scale)), var(--target));
  padding-right: 8px;
  cursor: default;
  border-left: 3px solid transparent;
}

.row:hover {
  background: rgb(var(--v-theme-background));
}

.row:focus-visible {
  outline-offset: -2px;
}

.picked,
.picked:hover {
  background: rgba(var(--v-theme-picked), 0.14);
  border-left-color: var(--picked);
}

/* What is picked is within. */
.holding:not(.picked) {
  background: rgba(var(--v-theme-picked), 0.07);
  border-left-color: rgba(var(--v-theme-picked), 0.5);
}

.before {
  box-shadow: inset 0 2px var(--petrol);
}
.after {
  box-shadow: inset 0 -2px var(--petrol);
}
.into {
  box-shadow: inset 0 0 0 2px var(--petrol);
}

.none {
  position: absolute;
  margin-top: 76px;
  padding: 0 12px;
}
</style>
