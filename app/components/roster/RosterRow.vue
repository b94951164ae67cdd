<script setup lang="ts">
import { isArrangement } from '~~/core/arrange/arrangement'
import { countOf } from '~~/core/arrange/count'
import { mdiChevronDown, mdiChevronRight, mdiEyeOff, mdiEyeOutline, mdiLock, mdiLockOpenVariantOutline } from '@mdi/js'
import { nextTick, ref, watch } from 'vue'
import { nameSchema } from '~~/core/level/schema'
import type { RosterRow } from '~/composables/use-roster-rows'
import { useEdits } from '~/stores/edits'
import { useLevel } from '~/stores/level'

const props = defineProps<{ row: RosterRow, renaming: boolean, /** Under the pointer. */ hot: boolean }>()
const emit = defineEmits<{ toggle: [], renamed: [] }>()
const level = useLevel()
const edits = useEdits()
const text = ref('')
const error = ref('')
const input = ref<HTMLInputElement>()

watch(() => props.renaming, async (renaming) => {
  if (!renaming) return
  text.value = props.row.placement.name
  error.value = ''
  await nextTick()
  input.value?.focus()
  input.value?.select()
}, { immediate: true })

function commit(): void {
  if (!props.renaming) return
  const parsed = nameSchema.safeParse(text.value)
  error.value = parsed.success ? '' : `A name ${parsed.error.issues[0]!.message}.`
  if (parsed.success && edits.rename(props.row.placement.id, text.value.trim())) emit('renamed')
}

const colorOf = (layerId: string | null) => layerId === null ? null : level.document.layers.get(layerId)?.color ?? null
</script>

<template>
  <span class="twist" @click.stop="emit('toggle')">
    <PathIcon v-if="row.children > 0" :path="row.open ? mdiChevronDown : mdiChevronRight" :size="18" />
  </span>
  <span v-if="colorOf(row.placement.layerId)" class="swatch" :style="{ background: colorOf(row.placement.layerId)! }" />
  <span v-if="renaming" class="rename" @click.stop @dblclick.stop>
    <input ref="input" v-model="text" aria-label="New name" @keydown.enter.stop="commit" @keydown.esc.stop="emit('renamed')" @keydown.stop @blur="emit('renamed')">
    <span v-if="error" role="alert" class="bubble">{{ error }}</span>
  </span>
  <span v-else class="name" :class="{ group: row.placement.kind === 'group', hidden: row.placement.hidden }">{{ row.placement.name }}</span>
  <span v-if="isArrangement(row.placement.own)" class="mono quiet number">{{ countOf(row.placement.own.rule).toLocaleString('en') }} live</span>
  <span v-else-if="row.children > 0" class="mono quiet number">{{ row.children }}</span>
  <span v-if="hot || row.placement.hidden || row.placement.locked" class="tools">
    <button v-if="hot || row.placement.hidden" type="button" tabindex="-1" :aria-label="`${row.placement.hidden ? 'Show' : 'Hide'} ${row.placement.name}`" @click.stop="edits.setHidden(!row.placement.hidden, [row.placement.id])"><PathIcon :path="row.placement.hidden ? mdiEyeOff : mdiEyeOutline" :size="14" /></button>
    <button v-if="hot || row.placement.locked" type="button" tabindex="-1" :aria-label="`${row.placement.locked ? 'Unlock' : 'Lock'} ${row.placement.name}`" @click.stop="edits.setLocked(!row.placement.locked, [row.placement.id])"><PathIcon :path="row.placement.locked ? mdiLock : mdiLockOpenVariantOutline" :size="14" /></button>
  </span>
</template>

<style scoped>
.twist {
  flex: none;
  width: 18px;
}

.swatch {
  flex: none;
  width: 8px;
  height: 8px;
  border-radius: 2px;
}

.name {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.group {
  font-weight: 600;
}

.hidden {
  font-style: italic;
}

.number {
  font-size: 11.5px;
}

.rename {
  position: relative;
  flex: 1;
  min-width: 0;
}

.rename input {
  width: 100%;
  padding: 0 4px;
  background: rgb(var(--v-theme-field));
  border: 1px solid var(--petrol);
  border-radius: 4px;
}

.bubble {
  position: absolute;
  z-index: 5;
  top: 24px;
  right: 0;
  padding: 4px 8px;
  border-radius: 5px;
  background: rgb(var(--v-theme-error));
  color: rgb(var(--v-theme-surface));
  white-space: nowrap;
}

.tools {
  display: flex;
  gap: 3px;
}
</style>
