<script setup lang="ts">
import { mdiMagnify } from '@mdi/js'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Part } from '~~/core/level/part'
import { partSize } from '~~/core/level/part'
import { printQuantity } from '~~/core/units/quantity'
import { useModes } from '~/stores/modes'
import { useStageSession } from '~/stores/stage-session'
import { useKit } from '~/stores/kit'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'
import { dragOut } from '~/tools/drag-out'

const kit = useKit()
const modes = useModes()
const session = useStageSession()
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

/** Dragged out, one part is placed; clicked, as many as wanted. */
function press(event: PointerEvent, part: Part): void {
  if (event.button !== 0) return
  const wasPlacing = session.mode?.partId === part.id
  dragOut(event, { input: () => session.input, start: () => modes.startPlacing(part.id), stop: modes.stopMode, click: () => toggle(part, wasPlacing) })
}

function toggle(part: Part, wasPlacing: boolean): void {
  if (wasPlacing) modes.stopMode()
  else modes.startPlacing(part.id)
}
</script>

<template>
  <section class="bench-form" aria-labelledby="kit-title">
    <h2 id="kit-title">Kit</h2>
    <p class="quiet hint">Drag a part onto the stage, or click it and then click on the stage as often as you like. The wheel turns it; Esc ends.</p>
    <v-text-field v-model="search" type="search" :prepend-inner-icon="mdiMagnify" placeholder="Name or tag" aria-label="Find a part" />
    <Tick v-model="settings.kept.leaning" label="Lean with the surface" />
    <ul class="parts" tabindex="-1">
      <li v-for="part in found" :key="part.id">
        <v-btn
          class="card" stacked :aria-pressed="session.mode?.partId === part.id" :data-part="part.name" :title="part.tags.join(', ')"
          @pointerdown="press($event, part)" @keydown.enter.prevent="toggle(part, session.mode?.partId === part.id)"
          @keydown.space.prevent="toggle(part, session.mode?.partId === part.id)" @contextmenu.prevent="menu = { part, at: [$event.clientX, $event.clientY] }"
          @keydown.delete.stop="remove(part)"
        >
          <img v-if="kit.pictures.get(part.id)" :src="kit.pictures.get(part.id)" alt="" width="66" height="66" draggable="false">
          <span v-else class="blank" />
          <span class="name">{{ part.name }}</span>
          <span class="size mono quiet">{{ sizeOf(part) }}</span>
        </v-btn>
      </li>
    </ul>
    <v-menu v-if="menu" context-menu :model-value="true" :target="menu.at" @update:model-value="menu = null">
      <MenuList :label="menu.part.name"><MenuItem :title="`Delete ${menu.part.name} from the kit`" @click="remove(menu.part)" /></MenuList>
    </v-menu>
    <p v-if="found.length === 0" class="quiet">No part has “{{ search }}” in its name or tags.</p>
  </section>
</template>

<style scoped>
.bench-form {
  gap: 6px;
  overflow: hidden;
}

.parts {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(100px, 1fr));
  align-content: start;
  gap: 7px;
  flex: 1;
  min-height: 0;
  margin: 0 -12px -10px;
  padding: 2px 12px 12px;
  overflow: hidden auto;
  list-style: none;
  scrollbar-width: thin;
}

.card.card {
  width: 100%;
  height: auto;
  padding: 3px 3px 6px;
  border-radius: var(--round);
  cursor: grab;
  touch-action: none;
  user-select: none;
}

.card :deep(.v-btn__content) {
  flex-direction: column;
  white-space: normal;
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
  font: 500 var(--body) / 1.2 var(--text);
}

.size {
  font: 400 9.5px / 1.5 var(--mono);
  letter-spacing: -0.02em;
}
</style>
