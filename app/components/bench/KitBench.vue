<script setup lang="ts">
import { mdiMagnify } from '@mdi/js'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Part } from '~~/core/kit/part'
import { partSize } from '~~/core/kit/part'
import { printQuantity } from '~~/core/units/quantity'
import { useEditor } from '~/stores/editor'
import { useKit } from '~/stores/kit'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'
import { CLICK_SLACK } from '~/tools/pick-tool'
import { PlaceTool } from '~/tools/place-tool'

const kit = useKit()
const editor = useEditor()
const settings = useSettings()
const level = useLevel()
const search = ref('')
const menu = shallowRef<{ part: Part, at: [number, number] } | null>(null)
const found = computed(() => {
  const words = search.value.toLowerCase().split(/\s+/).filter(Boolean)
  return kit.parts.filter(part => words.every(word => [part.name, part.kind, ...part.tags].some(text => text.toLowerCase().includes(word))))
})
watch(() => kit.parts, () => void kit.takePictures(), { immediate: true })

function sizeOf(part: Part): string {
  const { unit } = settings.kept
  const decimals = unit === 'm' ? 2 : settings.decimals
  return `${partSize(part).map(side => Number(printQuantity(side, 'length', unit, decimals))).join('×')} ${unit}`
}

/** What no level uses can go; it can be brought back as long as the notice says so. */
async function remove(part: Part): Promise<void> {
  menu.value = null
  await kit.online(async () => {
    const bringBack = await kit.remove(part.id)
    level.tell(`${part.name} was deleted from the kit`, ['No level uses it.'], { label: 'Bring it back', run: () => void kit.online(bringBack, level.tell) })
  }, level.tell)
}

/** A press that wanders off drags one part out; one that does not starts placing as often as wanted. */
function press(event: PointerEvent, part: Part): void {
  if (event.button !== 0) return
  const card = event.currentTarget as HTMLElement
  const [startX, startY] = [event.clientX, event.clientY]
  const wasPlacing = editor.mode?.partId === part.id
  let dragging = false
  const listeners = new AbortController()
  const options = { signal: listeners.signal }
  card.setPointerCapture(event.pointerId)
  const finish = () => {
    listeners.abort()
    if (dragging) editor.stopMode()
  }
  card.addEventListener('pointermove', (moved) => {
    if (!dragging && Math.hypot(moved.clientX - startX, moved.clientY - startY) > CLICK_SLACK) {
      dragging = true
      editor.startPlacing(part.id)
    }
    if (dragging) hoverStage(moved)
  }, options)
  card.addEventListener('pointerup', (released) => {
    const tool = editor.input?.mode
    if (dragging && tool instanceof PlaceTool && overStage(released)) tool.put(editor.input!.pointerOf(released))
    finish()
    if (!dragging) toggle(part, wasPlacing)
  }, options)
  card.addEventListener('pointercancel', finish, options)
  card.addEventListener('pointerdown', (other) => {
    if (other.button === 2) finish()
  }, options)
  window.addEventListener('keydown', (key) => {
    if (key.key === 'Escape') finish()
  }, options)
}

function hoverStage(event: PointerEvent): void {
  const { input } = editor
  if (!input?.mode) return
  if (overStage(event)) input.mode.hover(input.pointerOf(event))
  else input.mode.leave()
}

function overStage(event: PointerEvent): boolean {
  return document.elementsFromPoint(event.clientX, event.clientY).some(element => element.classList.contains('stage-canvas'))
}

function toggle(part: Part, wasPlacing: boolean): void {
  if (wasPlacing) editor.stopMode()
  else editor.startPlacing(part.id)
}
</script>

<template>
  <section class="kit" aria-labelledby="kit-title">
    <h2 id="kit-title">Kit</h2>
    <p class="quiet hint">Drag a part onto the stage, or click it and then click on the stage as often as you like. The wheel turns it; Esc ends.</p>
    <label class="search">
      <v-icon :icon="mdiMagnify" size="18" />
      <input v-model="search" type="search" placeholder="Name or tag" aria-label="Find a part">
    </label>
    <label class="check"><input v-model="settings.kept.leaning" type="checkbox"> Lean with the surface</label>
    <ul class="parts" tabindex="-1">
      <li v-for="part in found" :key="part.id">
        <button
          type="button" class="card" :aria-pressed="editor.mode?.partId === part.id" :data-part="part.name" :title="part.tags.join(', ')"
          @pointerdown="press($event, part)" @keydown.enter.prevent="toggle(part, editor.mode?.partId === part.id)"
          @keydown.space.prevent="toggle(part, editor.mode?.partId === part.id)" @contextmenu.prevent="menu = { part, at: [$event.clientX, $event.clientY] }"
          @keydown.delete.stop="remove(part)"
        >
          <img v-if="kit.pictures.get(part.id)" :src="kit.pictures.get(part.id)" alt="" width="66" height="66" draggable="false">
          <span v-else class="blank" />
          <span class="name">{{ part.name }}</span>
          <span class="size mono quiet">{{ sizeOf(part) }}</span>
        </button>
      </li>
    </ul>
    <v-menu v-if="menu" :model-value="true" :target="menu.at" @update:model-value="menu = null">
      <v-list density="compact"><v-list-item :title="`Delete ${menu.part.name} from the kit`" @click="remove(menu.part)" /></v-list>
    </v-menu>
    <p v-if="found.length === 0" class="quiet none">No part has “{{ search }}” in its name or tags.</p>
  </section>
</template>

<style scoped>
.kit {
  display: flex;
  flex-direction: column;
  height: 100%;
  padding: 10px 12px 0;
}

h2 {
  font-size: 17px;
}

.hint {
  margin: 2px 0 8px;
  font-size: 12.5px;
  line-height: 1.35;
}

.search {
  display: flex;
  align-items: center;
  gap: 6px;
  height: 30px;
  padding: 0 8px;
  background: rgb(var(--v-theme-field));
  border: 1px solid var(--line);
  border-radius: 6px;
}

.search:focus-within {
  border-color: var(--petrol);
}

.search input {
  width: 100%;
  outline: none;
}

.search input::placeholder {
  color: var(--quiet);
  opacity: 1;
}

.check {
  display: flex;
  align-items: center;
  gap: 7px;
  padding: 7px 1px;
  font-size: 13px;
}

.check input {
  accent-color: rgb(var(--v-theme-primary));
}

.parts {
  display: grid;
  grid-template-columns: 1fr 1fr;
  align-content: start;
  gap: 7px;
  flex: 1;
  min-height: 0;
  margin: 0 -12px 0;
  padding: 2px 12px 12px;
  overflow: hidden auto;
  list-style: none;
  scrollbar-width: thin;
}

.card {
  display: flex;
  flex-direction: column;
  align-items: center;
  width: 100%;
  padding: 3px 3px 6px;
  background: rgb(var(--v-theme-background));
  border: 1px solid var(--line);
  border-radius: 8px;
  cursor: grab;
  touch-action: none;
  user-select: none;
}

.card:hover {
  border-color: var(--petrol);
}

.card[aria-pressed='true'] {
  border-color: var(--picked);
  box-shadow: inset 0 0 0 1px var(--picked);
}

.card img {
  margin-bottom: 2px;
  background: rgb(var(--v-theme-picture));
  border-radius: 6px;
}

.blank {
  width: 66px;
  height: 66px;
}

.name {
  font-size: 13px;
  font-weight: 500;
  line-height: 1.2;
}

.size {
  font-size: 9.5px;
  line-height: 1.5;
  letter-spacing: -0.02em;
}

.none {
  padding: 8px 0;
}
</style>
