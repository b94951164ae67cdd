<script setup lang="ts">
import { mdiDragVertical } from '@mdi/js'
import { computed } from 'vue'
import type { Command } from '~/editor/commands'
import { useCommands } from '~/editor/commands'
import { useKeys } from '~/editor/keys/keys'
import { useLevel } from '~/editor/level'
import { useContextMenu } from '~/editor/menu/context-menu'

/** An action in the menu. As a favourite it keeps its place, also while it means nothing, and can be dragged. */
const props = defineProps<{ command: Command; favourite?: boolean; held?: boolean }>()
const emit = defineEmits<{ hold: [] }>()
const menu = useContextMenu()
const commands = useCommands()
const level = useLevel()
const keys = useKeys()
const isPossible = computed(() => {
  void level.selection
  return commands.can(props.command)
})

function onKey(event: KeyboardEvent): void {
  const { name } = props.command
  if (keys.isStageUse('favourite', 'menu', event)) menu.toggleFavourite(name)
  else if (props.favourite && keys.isStageUse('favouriteUp', 'menu', event)) menu.stepFavourite(name, -1)
  else if (props.favourite && keys.isStageUse('favouriteDown', 'menu', event)) menu.stepFavourite(name, 1)
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <MenuItem
    :title="command.name"
    :does="command.name"
    :disabled="!isPossible"
    :class="{ held }"
    :data-favourite="favourite ? command.name : undefined"
    :aria-description="menu.isFavourite(command.name) ? 'a favourite' : undefined"
    starred
    @click="menu.choose(command)"
    @keydown.capture="onKey"
  >
    <template v-if="favourite" #prepend>
      <span class="grip" title="Drag it to where it is wanted" @pointerdown.prevent.stop="emit('hold')" @click.stop>
        <PathIcon :path="mdiDragVertical" :size="15" />
      </span>
    </template>
  </MenuItem>
</template>

<style scoped>
.grip {
  display: grid;
  place-items: center;
  width: 20px;
  height: 24px;
  margin-left: -8px;
  color: var(--quiet);
  cursor: grab;
  touch-action: none;
  pointer-events: auto;
}

.held {
  background: rgba(var(--v-theme-picked), 0.14);
}
</style>
