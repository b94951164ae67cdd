<script setup lang="ts">
import type { ViewKind } from '~~/core/view/pose'
import type { PaneState } from '~/stores/editor'
import { useEditor } from '~/stores/editor'

defineProps<{ pane: PaneState, /** The only one shown. */ alone: boolean }>()
const editor = useEditor()
const kinds: { kind: ViewKind, name: string, key: string }[] = [
  { kind: 'plan', name: 'Plan', key: '7' }, { kind: 'front', name: 'Front', key: '8' }, { kind: 'side', name: 'Side', key: '9' }, { kind: 'walkaround', name: 'Walkaround', key: '6' },
]
</script>

<template>
  <div class="pane" :class="{ active: pane.active && !alone }" :style="{ left: `${pane.rect.x}px`, top: `${pane.rect.y}px`, width: `${pane.rect.width}px`, height: `${pane.rect.height}px` }">
    <div v-if="alone && pane.rect.width >= 720" class="segments kinds" role="group" aria-label="View of the pane">
      <button v-for="entry in kinds" :key="entry.kind" type="button" :aria-pressed="pane.kind === entry.kind" :title="`Key ${entry.key}`" @click="editor.changePane({ kind: entry.kind }, pane.pane)">{{ entry.name }}</button>
    </div>
    <select v-else class="kind narrow" :class="{ lower: pane.rect.y === 0 && !alone, alone }" aria-label="View of the pane" :value="pane.kind" @change="editor.changePane({ kind: ($event.target as HTMLSelectElement).value as ViewKind }, pane.pane)">
      <option v-for="entry in kinds" :key="entry.kind" :value="entry.kind">{{ entry.name }}</option>
    </select>
  </div>
</template>

<style scoped>
.pane {
  position: absolute;
  pointer-events: none;
}

.active {
  outline: 2px solid var(--petrol);
  outline-offset: -2px;
}

.kinds,
.kind {
  position: absolute;
  top: 10px;
  right: 10px;
  pointer-events: auto;
}

.kind {
  right: auto;
  left: 10px;
}

/* Beside the strip, where there is no room for all four. */
.kind.alone {
  right: 10px;
  left: auto;
  height: 32px;
}

/* Below the strip of buttons that lies over the upper panes. */
.kind.lower {
  top: 50px;
}

.kind {
  height: 26px;
  padding: 0 6px;
  background: rgb(var(--v-theme-surface));
  border: 1px solid var(--line);
  border-radius: 7px;
  font-size: 13px;
}
</style>
