<script setup lang="ts">
import { computed } from 'vue'
import type { Command } from '~/editor/commands'
import { useCommands } from '~/editor/commands'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { useLevel } from '~/editor/level'

const session = useStageSession()
const tools = useTools()
const level = useLevel()
const commands = useCommands()
const OFFERED = [
  'Copy',
  'Cut',
  'Paste under the pointer',
  'Look at what is picked',
  'Pick all instances of the same part',
  'Pick similar …',
  'Edit the part',
  'Save as a part …',
  'Swap for another part …',
  'Group',
  'Ungroup',
  'Hide',
  'Lock',
  'Show only what is picked, and back',
  'Write a note here',
  'Rename',
  'Remove',
]
const offered = computed(() => {
  void level.selection
  return commands.possible().filter(({ name }) => OFFERED.includes(name))
})

/** Where the pointer was, in the page: menus stand in that. */
const at = computed((): [number, number] => {
  const box = session.input?.canvas.getBoundingClientRect()
  const { x, y } = session.menu?.at ?? { x: 0, y: 0 }
  return [x + (box?.left ?? 0), y + (box?.top ?? 0)]
})

function run(command: Command): void {
  session.menu = null
  command.run()
}

function pick(id: string): void {
  level.pick([id])
  session.menu = null
}
</script>

<template>
  <v-menu
    context-menu
    :model-value="session.menu !== null"
    :target="at"
    location="end"
    @update:model-value="session.menu = null"
  >
    <MenuList v-if="session.menu" class="things" label="Things under the pointer" @contextmenu.prevent>
      <v-list-subheader>Under the pointer</v-list-subheader>
      <MenuItem v-if="session.menu.things.length === 0" title="nothing that can be picked" disabled />
      <MenuItem
        v-for="thing in session.menu.things"
        :key="thing.id"
        :title="level.view.need(thing.id).name"
        :end="tools.printLength(thing.distance)"
        :active="level.selection.ids.has(thing.id)"
        @click="pick(thing.id)"
        @pointerenter="session.stage?.setHovered(thing.id)"
        @focus="session.stage?.setHovered(thing.id)"
      />
      <template v-if="level.selection.ids.size > 0">
        <v-list-subheader>{{ level.selection.ids.size }} picked</v-list-subheader>
        <MenuItem
          v-for="command in offered"
          :key="command.name"
          :title="command.name"
          :does="command.name"
          @click="run(command)"
        />
      </template>
    </MenuList>
  </v-menu>
</template>

<style scoped>
.things {
  width: 290px;
}
</style>
