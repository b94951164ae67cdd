<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Named, NamePattern } from '~~/core/level/rename'
import { patternFor, renameMany } from '~~/core/level/rename'
import { nameSchema } from '~~/core/level/fields'
import { counted } from '~~/core/units/plural'
import { useEdits } from '~/editor/edits'
import { usePanels } from '~/editor/panels'
import NameLine from './NameLine.vue'

/** Of more names the rest is only counted. */
const MOST_SHOWN = 50
const panels = usePanels()
const edits = useEdits()
const things = ref<Named[]>([])
const pattern = ref<NamePattern>({ pieces: [], replace: null })
const names = computed(() => renameMany(things.value, pattern.value))
const wrong = computed(() =>
  names.value.map(name => nameSchema.safeParse(name).error?.issues[0]?.message).find(Boolean),
)

watch(
  () => panels.renameManyOpen,
  open => {
    if (!open) return
    things.value = edits.namedPicked()
    pattern.value = patternFor(things.value.map(({ name }) => name))
  },
)

function rename(): void {
  if (!wrong.value && edits.renamePicked(pattern.value)) panels.renameManyOpen = false
}
</script>

<template>
  <FormDialog
    page="picking"
    v-model="panels.renameManyOpen"
    :title="`Rename ${counted(things.length, 'thing')}`"
    max-width="560"
  >
    <form class="form" @submit.prevent="rename">
      <NameLine v-model="pattern.pieces">
        <v-chip
          v-if="!pattern.replace"
          class="chip"
          size="small"
          label
          variant="outlined"
          @click="pattern.replace = { find: '', by: '' }"
        >
          replace …
        </v-chip>
      </NameLine>
      <div v-if="pattern.replace" class="replace">
        <span>where it says</span>
        <v-text-field v-model="pattern.replace.find" aria-label="Find" autofocus />
        <span>write</span>
        <v-text-field v-model="pattern.replace.by" aria-label="Replace by" />
        <v-btn class="link" variant="plain" @click="pattern.replace = null">Not so</v-btn>
      </div>
      <ul class="told preview" aria-label="Preview" data-test="rename-preview">
        <li v-for="(name, i) in names.slice(0, MOST_SHOWN)" :key="i">
          <span class="quiet">{{ things[i]!.name }}</span>
          →
          <strong>{{ name }}</strong>
        </li>
        <li v-if="names.length > MOST_SHOWN" class="quiet">and {{ names.length - MOST_SHOWN }} more</li>
      </ul>
      <p v-if="wrong" role="alert" class="error">A name {{ wrong }}.</p>
      <v-btn type="submit" class="sr">Rename</v-btn>
    </form>
    <template #buttons>
      <v-btn @click="panels.renameManyOpen = false">Cancel</v-btn>
      <v-btn color="action" variant="flat" :disabled="Boolean(wrong)" @click="rename">Rename all</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 8px;
}

.replace {
  display: flex;
  gap: 8px;
  align-items: center;
  font-size: var(--small);
}

.replace span {
  flex: none;
}

.chip {
  font-size: var(--small);
  border-color: var(--line);
}

.preview {
  list-style: none;
}
</style>
