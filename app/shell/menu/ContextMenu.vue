<script setup lang="ts">
import { mdiChevronDown, mdiChevronRight } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import { useKeys } from '~/editor/keys/keys'
import { useLevel } from '~/editor/level'
import { useContextMenu } from '~/editor/menu/context-menu'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { useReorder } from '~/ui/use-reorder'
import ActionItem from './ActionItem.vue'

/** The menu of whatever was asked about, with what one does most at its top. */
const menu = useContextMenu()
const session = useStageSession()
const tools = useTools()
const level = useLevel()
const keys = useKeys()
/** Of the things on a line of sight: a hand wants one of the first. */
const SHOWN = 6
const areAllShown = ref(false)
const things = computed(() => menu.shown?.things?.filter(({ id }) => level.view.has(id)) ?? null)
const shownThings = computed(() => (areAllShown.value ? things.value : things.value?.slice(0, SHOWN)) ?? [])
const { held } = useReorder(rowAt, menu.moveFavourite)

watch(
  () => menu.shown,
  () => (areAllShown.value = false),
)

/** The favourite at a point of the page. */
function rowAt(x: number, y: number): string | null {
  return document.elementFromPoint(x, y)?.closest<HTMLElement>('[data-favourite]')?.dataset.favourite ?? null
}

function pick(id: string): void {
  level.pick([id])
  menu.close()
}

function run(does: () => unknown): void {
  menu.close()
  does()
}
</script>

<template>
  <v-menu
    context-menu
    :model-value="menu.shown !== null"
    :target="menu.shown?.at ?? [0, 0]"
    location="end"
    max-height="min(640px, 90vh)"
    @update:model-value="menu.close()"
  >
    <MenuList v-if="menu.shown" class="menu" :label="menu.shown.label" @contextmenu.prevent>
      <template v-if="things">
        <v-list-subheader>Under the pointer</v-list-subheader>
        <MenuItem v-if="things.length === 0" title="nothing that can be picked" disabled />
        <MenuItem
          v-for="thing in shownThings"
          :key="thing.id"
          :title="level.view.need(thing.id).name"
          :end="tools.printLength(thing.distance)"
          :active="level.selection.ids.has(thing.id)"
          @click="pick(thing.id)"
          @pointerenter="session.stage?.setHovered(thing.id)"
          @focus="session.stage?.setHovered(thing.id)"
        />
        <MenuItem
          v-if="things.length > shownThings.length"
          :title="`and ${things.length - shownThings.length} more`"
          @click.stop="areAllShown = true"
        />
      </template>
      <MenuItem
        v-for="deed in menu.shown.deeds"
        :key="deed.title"
        :title="deed.title"
        :end="deed.end"
        :disabled="deed.disabled"
        :checked="deed.checked ?? null"
        @click="run(deed.run)"
      />
      <template v-for="section in menu.sections" :key="section.title">
        <v-list-subheader>{{ section.title }}</v-list-subheader>
        <ActionItem
          v-for="command in section.commands"
          :key="command.name"
          :command="command"
          :favourite="section.title === 'Favourites'"
          :held="held === command.name"
          @hold="held = command.name"
        />
      </template>
      <v-divider class="my-1" />
      <MenuItem
        title="Everything that can be done"
        :prepend-icon="menu.isAllOpen ? mdiChevronDown : mdiChevronRight"
        :aria-expanded="menu.isAllOpen"
        @click.stop="menu.isAllOpen = !menu.isAllOpen"
      />
      <template v-for="{ group, commands: all } in menu.groups" :key="group">
        <MenuItem
          class="group"
          :title="group"
          :end="String(all.length)"
          :prepend-icon="menu.openGroup === group ? mdiChevronDown : mdiChevronRight"
          :aria-expanded="menu.openGroup === group"
          @click.stop="menu.openGroup = menu.openGroup === group ? null : group"
        />
        <template v-if="menu.openGroup === group">
          <ActionItem v-for="command in all" :key="command.name" :command="command" />
        </template>
      </template>
      <v-list-subheader class="foot">
        {{ keys.said('{Favourite, or none any more}') }} or the star: a favourite, at the top of every menu
      </v-list-subheader>
    </MenuList>
  </v-menu>
</template>

<style scoped>
.menu {
  width: 300px;
}

.group {
  padding-left: 18px;
}

.foot {
  font-size: var(--note);
  white-space: normal;
}
</style>
