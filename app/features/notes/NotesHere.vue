<script setup lang="ts">
import { mdiChevronLeft, mdiChevronRight, mdiMessageOutline } from '@mdi/js'
import { counted } from '~~/core/units/plural'
import { useSettings } from '~/editor/settings'
import NoteRead from './NoteRead.vue'
import NoteText from './NoteText.vue'
import { useNotes } from './notes'
import { whenInWords } from '~/ui/when-in-words'

/** How many notes are open, in the header; and below it the list of them, or the one that is read. */
const notes = useNotes()
const settings = useSettings()
const summaryOf = (text: string) => (text.length > 90 ? `${text.slice(0, 89)}…` : text)
</script>

<template>
  <v-menu v-model="notes.isOpen" :close-on-content-click="false" location="bottom end" :scrim="false" persistent>
    <template #activator="{ props }">
      <v-btn
        v-bind="props"
        class="notes-button"
        variant="text"
        :aria-label="`Notes: ${counted(notes.open.length, 'open note')}`"
        :title="`Notes: ${counted(notes.open.length, 'open note')}`"
        data-test="notes"
      >
        <PathIcon :path="mdiMessageOutline" :size="18" />
        <span v-if="notes.open.length > 0" class="mono count">{{ notes.open.length }}</span>
      </v-btn>
    </template>
    <section class="sheet notes-sheet" aria-label="Notes" data-test="notes-sheet" @keydown.esc="notes.isOpen = false">
      <div class="top">
        <h2>{{ notes.draft ? 'A new note' : notes.read ? 'Note' : 'Notes' }}</h2>
        <v-btn v-if="notes.read || notes.draft" size="small" @click="notes.list()">All notes</v-btn>
        <IconButton :icon="mdiChevronLeft" label="Note before" does="Note before" @click="notes.step(-1)" />
        <IconButton :icon="mdiChevronRight" label="Next note" does="Next note" @click="notes.step(1)" />
      </div>
      <NoteText
        v-if="notes.draft"
        label="What is to be said here"
        button="Write"
        @write="text => notes.write(text)"
        @cancel="notes.isOpen = false"
      />
      <NoteRead v-else-if="notes.read" :key="notes.read.thread.id" :note="notes.read" />
      <template v-else>
        <p v-if="notes.listed.length === 0" class="quiet">
          Nothing to be talked about. Point at a place of the level and press
          <KeyCap does="Write a note here" />
          to write a note there.
        </p>
        <MenuList v-else class="list" label="Notes">
          <MenuItem
            v-for="note in notes.listed"
            :key="note.thread.id"
            :title="summaryOf(note.thread.text)"
            :subtitle="`${note.thread.by} · ${whenInWords(note.thread.when)}${note.on === null ? '' : ` · on ${note.on}`}`"
            :end="note.thread.done ? 'done' : note.answers.length > 0 ? counted(note.answers.length, 'answer') : ''"
            @click="notes.show(note.thread.id)"
          />
        </MenuList>
        <Tick v-model="notes.showsDone" label="Those that are done as well" />
        <Tick v-model="settings.kept.show.notes" label="Notes on the stage" />
        <v-btn v-if="notes.mayWrite" @click="notes.begin()">Write a note</v-btn>
      </template>
    </section>
  </v-menu>
</template>

<style scoped>
.notes-button.notes-button {
  min-width: var(--target);
  height: max(32px, var(--target));
  padding: 0 6px;
  color: inherit;
}

.count {
  margin-left: 4px;
}

.notes-sheet {
  width: 380px;
}

.top {
  display: flex;
  align-items: center;
  gap: 4px;
}

.top h2 {
  flex: 1;
}

.list {
  max-height: 46vh;
  overflow-y: auto;
}
</style>
