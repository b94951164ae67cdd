<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useActions } from '~/composables/use-actions'
import { useEditor } from '~/stores/editor'
import { useLevel } from '~/stores/level'

const editor = useEditor()
const level = useLevel()
const { possible } = useActions()
const OFFERED = ['Look at what is picked', 'Pick all instances of the same part', 'Pick similar …', 'Group', 'Ungroup', 'Hide', 'Lock', 'Show only what is picked, and back', 'Rename', 'Remove']
const offered = computed(() => {
  void level.selection
  return possible().filter(action => OFFERED.includes(action.name))
})

const veil = ref<HTMLElement>()
const menu = ref<HTMLElement>()
const room = useElementSize(veil)
const size = useElementSize(menu, undefined, { box: 'border-box' })
/** At the pointer, moved as far as needed to fit into the stage. */
const place = computed(() => ({
  left: `${Math.max(8, Math.min(editor.menu?.at.x ?? 0, room.width.value - size.width.value - 8))}px`,
  top: `${Math.max(8, Math.min(editor.menu?.at.y ?? 0, room.height.value - size.height.value - 8))}px`,
}))

function pick(id: string): void {
  level.pick([id])
  editor.menu = null
}
</script>

<template>
  <div v-if="editor.menu" ref="veil" class="veil" @pointerdown.self="editor.menu = null" @contextmenu.prevent>
    <div ref="menu" class="menu" role="menu" aria-label="Things under the pointer" :style="place">
      <h3>Under the pointer</h3>
      <p v-if="editor.menu.things.length === 0" class="quiet">nothing that can be picked</p>
      <div class="list">
        <button v-for="thing in editor.menu.things" :key="thing.id" type="button" role="menuitem" :class="{ picked: level.selection.ids.has(thing.id) }" @click="pick(thing.id)" @pointerenter="editor.stage?.setHovered(thing.id)">
          <span>{{ level.document.need(thing.id).name }}</span><span class="mono quiet">{{ editor.printLength(thing.distance) }}</span>
        </button>
      </div>
      <template v-if="level.selection.ids.size > 0">
        <h3>{{ level.selection.ids.size }} picked</h3>
        <button v-for="action in offered" :key="action.name" type="button" role="menuitem" @click="editor.menu = null; action.run()">
          <span>{{ action.name }}</span><kbd v-if="action.key" class="mono quiet">{{ action.key }}</kbd>
        </button>
      </template>
    </div>
  </div>
</template>

<style scoped>
.veil {
  position: absolute;
  z-index: 8;
  inset: 0;
}

.menu {
  position: absolute;
  width: 290px;
  max-height: calc(100% - 16px);
  overflow: auto;
  padding: 8px;
  background: rgb(var(--v-theme-surface));
  border: 1px solid var(--line);
  border-radius: 8px;
  box-shadow: 0 4px 18px rgb(0 0 0 / 18%);
}

h3 {
  padding: 4px 6px 2px;
  font-size: 13px;
}

p {
  padding: 0 6px;
}

.list {
  max-height: 170px;
  overflow: auto;
}

button {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  width: 100%;
  padding: 3px 6px;
  border-radius: 5px;
  font-size: 13px;
  text-align: left;
}

button:hover,
.picked {
  background: rgba(var(--v-theme-picked), 0.14);
}
</style>
