<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { TalkedAbout } from '~~/core/measure/notes'
import { counted } from '~~/core/units/plural'
import { useSettings } from '~/editor/settings'
import { useStageSession } from '~/editor/stage-session'
import { useNotes } from './notes'

/** Where notes are, on the stage: a speech plate each with how much was said, which opens it. */
const notes = useNotes()
const session = useStageSession()
const settings = useSettings()
/** Of very many the nearest are shown. */
const MOST = 40
/** Pixels from the edges of a pane within which a mark would be cut. */
const EDGE = 12
/** What the one is called that is being written. */
const DRAFT = 'draft'
const marks = ref<HTMLElement[]>([])
/** Where one is being written. */
const begun = ref<HTMLElement>()

const shown = computed((): TalkedAbout[] => {
  if (!settings.kept.show.notes) return []
  const eye = session.stage?.view.eye
  const list = notes.open.filter(({ thread }) => thread.id !== notes.readId)
  if (eye && list.length > MOST) list.sort((a, b) => eye.distanceTo(a.at) - eye.distanceTo(b.at))
  return [...(notes.read ? [notes.read] : []), ...list.slice(0, MOST)]
})
const labelOf = ({ thread, answers }: TalkedAbout) =>
  `Note by ${thread.by}: ${thread.text.slice(0, 80)}${answers.length > 0 ? `, ${counted(answers.length, 'answer')}` : ''}`

// Put where they are in the picture that was just drawn, without going through all of Vue for each frame.
watch(
  [() => session.stats, shown, () => notes.draft],
  () => {
    const view = session.stage?.view
    const places = new Map(shown.value.map(({ thread, at }) => [thread.id, at]))
    if (notes.draft) places.set(DRAFT, notes.draft.at)
    for (const mark of [...marks.value, ...(begun.value ? [begun.value] : [])]) {
      const at = places.get(mark.dataset.place ?? '')
      const place = at && view?.project(at)
      const { x, y, width, height } = view?.rect ?? { x: 0, y: 0, width: 0, height: 0 }
      const isIn =
        place && place.x > x + EDGE && place.x < x + width - EDGE && place.y > y + EDGE && place.y < y + height - EDGE
      mark.style.visibility = isIn ? 'visible' : 'hidden'
      if (isIn) mark.style.transform = `translate(${Math.round(place.x)}px, ${Math.round(place.y)}px)`
    }
  },
  { flush: 'post' },
)
</script>

<template>
  <div class="notes" role="group" aria-label="Notes on the stage">
    <span v-for="note in shown" :key="note.thread.id" ref="marks" class="place" :data-place="note.thread.id">
      <v-btn
        class="mark reach"
        :class="{ read: note.thread.id === notes.readId, done: note.thread.done }"
        :aria-label="labelOf(note)"
        :title="labelOf(note)"
        :data-note="note.thread.id"
        @click="notes.show(note.thread.id, false)"
      >
        {{ note.answers.length + 1 }}
      </v-btn>
    </span>
    <span v-if="notes.draft" ref="begun" class="place" :data-place="DRAFT" aria-hidden="true">
      <span class="mark read plate">…</span>
    </span>
  </div>
</template>

<style scoped>
.notes {
  position: absolute;
  inset: 0;
  overflow: hidden;
  pointer-events: none;
}

.place {
  position: absolute;
  top: 0;
  left: 0;
  visibility: hidden;
}

/* A speech plate whose point is where the note is. */
.mark.mark {
  --drawn: 22px;

  position: absolute;
  bottom: 0;
  left: 0;
  min-width: 26px;
  height: 22px;
  padding: 0 7px;
  border: 1.5px solid rgb(var(--v-theme-on-surface));
  border-radius: 9px 9px 9px 0;
  background: rgb(var(--v-theme-surface));
  color: rgb(var(--v-theme-on-surface));
  font-weight: 600;
  pointer-events: auto;
}

.plate {
  line-height: 19px;
}

.mark.read {
  background: var(--picked);
  color: rgb(var(--v-theme-on-picked));
}

.mark.done {
  border-style: dashed;
}
</style>
