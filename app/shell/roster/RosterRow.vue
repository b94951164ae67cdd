<script setup lang="ts">
import { isArrangement } from '~~/core/arrange/arrangement'
import { nameSchema } from '~~/core/level/fields'
import {
  mdiChevronDown,
  mdiChevronRight,
  mdiEyeOff,
  mdiEyeOutline,
  mdiLinkBoxVariantOutline,
  mdiLinkVariant,
  mdiLock,
  mdiLockOpenVariantOutline,
} from '@mdi/js'
import type { ComponentPublicInstance } from 'vue'
import { computed, nextTick, ref, watch } from 'vue'
import { KINDS } from '~~/core/level/kinds'
import { relationsIn } from '~~/core/relate/graph'
import { counted } from '~~/core/units/plural'
import type { RosterRow } from './use-roster-rows'
import { useEdits } from '~/editor/edits'
import { useKeeping } from '~/editor/keeping'
import { useLevel } from '~/editor/level'
import { usePeople } from '~/features/people/people'
import PersonBadge from '~/features/people/PersonBadge.vue'

const props = defineProps<{ row: RosterRow; renaming: boolean; /** Under the pointer. */ hot: boolean }>()
const emit = defineEmits<{ toggle: []; renamed: [] }>()
const level = useLevel()
const edits = useEdits()
const people = usePeople()
const keeping = useKeeping()
const text = ref('')
const error = ref('')
const input = ref<ComponentPublicInstance>()

watch(
  () => props.renaming,
  async renaming => {
    if (!renaming) return
    text.value = props.row.placement.name
    error.value = ''
    await nextTick()
    const field = input.value?.$el.querySelector('input') as HTMLInputElement | undefined
    field?.focus()
    field?.select()
  },
  { immediate: true },
)

function commit(): void {
  if (!props.renaming) return
  const parsed = nameSchema.safeParse(text.value)
  error.value = parsed.success ? '' : `A name ${parsed.error.issues[0]!.message}.`
  if (parsed.success && edits.rename(props.row.placement.id, text.value.trim())) emit('renamed')
}

/** Those who have picked it, or what is in it as long as that is not seen; the first of many. */
const pickers = computed(() => {
  const { own, below } = people.pickers
  const isShut = props.row.children > 0 && !props.row.open
  return (isShut ? below : own).get(props.row.placement.id)?.slice(0, 3)
})

const holder = computed(() => people.holderOf(props.row.placement.id))

/** What it is kept to, and how much it holds, in words; null if neither. */
const kept = computed(() => {
  const { id } = props.row.placement
  const { byHeld, heldBy } = relationsIn(level.view)
  const held = byHeld.get(id)
  const holds = heldBy.get(id)?.size ?? 0
  const says = [
    ...(held ? [`held: ${held.map(keeping.say).join(', ')}`] : []),
    ...(holds > 0 ? [`holds ${counted(holds, 'thing')}`] : []),
  ]
  if (says.length === 0) return null
  return {
    icon: held ? mdiLinkVariant : mdiLinkBoxVariantOutline,
    says: says.join('; '),
    short: held ? 'held' : 'holds others',
  }
})

const colorOf = (layerId: string | null) => (layerId === null ? null : (level.view.layers.get(layerId)?.color ?? null))
</script>

<template>
  <span class="twist" @click.stop="emit('toggle')">
    <PathIcon v-if="row.children > 0" :path="row.open ? mdiChevronDown : mdiChevronRight" :size="18" />
  </span>
  <PathIcon
    class="kind"
    :path="KINDS[row.placement.kind].icon"
    :size="14"
    :style="{ color: colorOf(row.placement.layerId) ?? undefined }"
  />
  <span v-if="renaming" class="rename" @click.stop @dblclick.stop @keydown.stop>
    <v-text-field
      ref="input"
      v-model="text"
      aria-label="New name"
      @keydown.enter.stop="commit"
      @keydown.esc.stop="emit('renamed')"
      @blur="emit('renamed')"
    />
    <span v-if="error" role="alert" class="bubble">{{ error }}</span>
  </span>
  <span v-else class="name" :class="{ group: row.placement.kind === 'group', hidden: row.placement.hidden }">
    <LongName :name="row.placement.name" />
  </span>
  <span class="sr">{{ KINDS[row.placement.kind].name }}</span>
  <PersonBadge v-if="holder" :person="holder" :title="holder.says" small hollow>{{ holder.says }}</PersonBadge>
  <PersonBadge v-for="person in pickers" :key="person.id" :person="person" small>
    {{ person.name }} has picked {{ people.pickers.own.has(row.placement.id) ? 'this' : 'something in it' }}
  </PersonBadge>
  <span v-if="kept" class="kept" :title="kept.says">
    <PathIcon :path="kept.icon" :size="13" />
    <!-- What by is said where it is picked: a list read out is long enough. -->
    <span class="sr">{{ kept.short }}</span>
  </span>
  <span v-if="isArrangement(row.placement.own)" class="mono quiet number">
    {{ level.view.countOf(row.placement.id).toLocaleString('en') }} live
  </span>
  <span v-else-if="row.children > 0" class="mono quiet number">{{ row.children }}</span>
  <span v-if="hot || row.placement.hidden || row.placement.locked" class="tools">
    <IconButton
      v-if="hot || row.placement.hidden"
      :size="14"
      :tabindex="hot ? 0 : -1"
      :icon="row.placement.hidden ? mdiEyeOff : mdiEyeOutline"
      :label="`${row.placement.hidden ? 'Show' : 'Hide'} ${row.placement.name}`"
      @click.stop="edits.setHidden(!row.placement.hidden, [row.placement.id])"
    />
    <IconButton
      v-if="hot || row.placement.locked"
      :size="14"
      :tabindex="hot ? 0 : -1"
      :icon="row.placement.locked ? mdiLock : mdiLockOpenVariantOutline"
      :label="`${row.placement.locked ? 'Unlock' : 'Lock'} ${row.placement.name}`"
      @click.stop="edits.setLocked(!row.placement.locked, [row.placement.id])"
    />
  </span>
</template>

<style scoped>
.twist {
  flex: none;
  width: 18px;
}

.kind {
  flex: none;
  color: var(--quiet);
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

.kept {
  flex: none;
  color: var(--petrol);
}

.number {
  font-size: var(--note);
}

/* On the ground of a picked row quiet is too quiet. */
[aria-selected='true'] .number {
  color: inherit;
}

.rename {
  position: relative;
  flex: 1;
  min-width: 0;
}

.rename :deep(.v-input) {
  --v-input-control-height: max(calc(23px * var(--scale)), var(--target));
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
}
</style>
