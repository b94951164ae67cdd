<script setup lang="ts">
import { computed, ref } from 'vue'
import type { TalkedAbout } from '~~/core/measure/notes'
import type { Answer, Thread } from '~~/core/level/schema'
import NoteText from './NoteText.vue'
import { useNotes } from './notes'
import { whenInWords } from '~/ui/when-in-words'

/** A note that is read: all that was said, and what can be said to it. */
const props = defineProps<{ note: TalkedAbout }>()
const notes = useNotes()
const said = computed((): (Thread | Answer)[] => [props.note.thread, ...props.note.answers])
/** What is being changed, and whether it is answered. */
const editing = ref<string | null>(null)
const isAnswering = ref(false)

function edit(what: Thread | Answer, text: string): void {
  if (notes.edit(what, text)) editing.value = null
}

function answer(text: string): void {
  if (notes.answer(text)) isAnswering.value = false
}
</script>

<template>
  <p class="quiet where">
    {{ note.on === null ? (note.thread.at.on === null ? 'At a place' : 'What it was on is gone') : `On ${note.on}`
    }}{{ note.thread.done ? ' · done' : '' }}
  </p>
  <ol class="said" aria-label="What was said">
    <li v-for="each in said" :key="each.id">
      <p class="who">
        <strong><LongName :name="each.by" /></strong>
        <span class="quiet">{{ whenInWords(each.when) }}</span>
      </p>
      <NoteText
        v-if="editing === each.id"
        label="Change the text"
        button="Change"
        :text="each.text"
        @write="text => edit(each, text)"
        @cancel="editing = null"
      />
      <template v-else>
        <p class="text">{{ each.text }}</p>
        <p v-if="notes.mayWrite && notes.isOwn(each)" class="doings">
          <v-btn class="link" variant="plain" @click="editing = each.id">Change</v-btn>
          <v-btn class="link" variant="plain" @click="notes.remove(each)">Remove</v-btn>
        </p>
      </template>
    </li>
  </ol>
  <NoteText v-if="isAnswering" label="Your answer" button="Answer" @write="answer" @cancel="isAnswering = false" />
  <div v-else class="buttons">
    <v-btn @click="notes.goTo(note.thread.id)">Go there</v-btn>
    <template v-if="notes.mayWrite">
      <v-btn @click="notes.setDone(note, !note.thread.done)">{{ note.thread.done ? 'Open again' : 'Done' }}</v-btn>
      <v-btn color="action" variant="flat" @click="isAnswering = true">Answer</v-btn>
    </template>
  </div>
</template>

<style scoped>
.where {
  margin: 0 0 6px;
}

.said {
  max-height: 44vh;
  margin: 0 0 8px;
  padding: 0;
  overflow-y: auto;
  list-style: none;
}

.said li {
  padding: 6px 0;
  border-top: 1px solid var(--line);
}

.who,
.text,
.doings {
  margin: 0;
}

.who {
  display: flex;
  gap: 8px;
}

.text {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}

.doings {
  display: flex;
  gap: 10px;
}
</style>
