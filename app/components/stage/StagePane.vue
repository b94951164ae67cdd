<script setup lang="ts">
import { usePreferredReducedMotion, useResizeObserver } from '@vueuse/core'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useGrips } from '~/composables/use-grips'
import { useEditor } from '~/stores/editor'
import { useHandling } from '~/stores/handling'
import { useKit } from '~/stores/kit'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'
import { boards } from '~/stage/board'
import { Stage } from '~/stage/stage'

const level = useLevel()
const kit = useKit()
const editor = useEditor()
const settings = useSettings()
const canvas = ref<HTMLCanvasElement>()
const frame = ref<HTMLElement>()
const handling = useHandling()
const { choices, choice, setChoice } = useGrips()
const motion = usePreferredReducedMotion()
const failed = ref(false)

onMounted(async () => {
  // The pegs' letters are drawn once, with the font that has to be there by then.
  await document.fonts.load('600 36px "Barlow Condensed"')
  if (!canvas.value || !frame.value) return
  let stage: Stage
  try {
    stage = new Stage(canvas.value, level.document, level.index, kit.solid, motion.value === 'reduce')
  }
  catch {
    failed.value = true
    return
  }
  editor.attach(stage, canvas.value)
  stage.resize(frame.value.clientWidth, frame.value.clientHeight)
  stage.firstLook()
  applySettings()
  editor.refreshPanes()
})
onBeforeUnmount(() => editor.detach())

const memoryTitle = 'Meshes and matrices in memory, of what full copies of the meshes would take'
/** Never quite all, and never none. */
const percent = (share: number) => Math.min(99, Math.max(Math.floor(share * 100), 1))
const megabytes = (bytes: number) => (bytes / 1e6).toFixed(1)

function applySettings(): void {
  editor.stage?.setBoard(boards[settings.kept.board])
  const { steps, show, markSize } = settings.kept
  editor.stage?.setShown(show.grid ? steps.grid.size : 0, show.sky, show.hover, { camera: show.camera, light: show.light, marker: show.marker, size: markSize })
  editor.stage?.setSelection(level.selection)
  editor.placeHandles()
}

useResizeObserver(frame, ([entry]) => {
  if (!entry || entry.contentRect.width === 0) return
  editor.stage?.resize(entry.contentRect.width, entry.contentRect.height)
  editor.refreshPanes()
})
watch(() => [settings.kept.board, settings.kept.steps, settings.kept.show, settings.kept.markSize], applySettings, { deep: true })
watch(() => level.selection, (selection) => {
  editor.stage?.setSelection(selection)
  editor.placeHandles()
})
watch(() => [handling.choice, handling.editingPivot, handling.pin, handling.borrowed, settings.kept.axes, settings.kept.pivot], () => editor.placeHandles())
level.onTouched((touched) => {
  editor.stage?.update(touched)
  editor.placeHandles()
})
</script>

<template>
  <section ref="frame" class="stage" aria-label="Stage" data-test="stage">
    <canvas
      ref="canvas" class="stage-canvas" tabindex="0" role="application"
      aria-label="The level. Click picks, a drag picks by frame, Alt and drag orbits, Alt, Shift and drag pans, the wheel zooms, right drag looks around."
    />
    <div class="corner top-left segments" role="group" aria-label="Handles">
      <button v-for="entry in choices" :key="entry.choice" type="button" :aria-pressed="choice === entry.choice" @click="setChoice(entry.choice)">{{ entry.name }}<kbd v-if="entry.key">{{ entry.key }}</kbd></button>
    </div>
    <StageMenus class="corner top-menus" />
    <PaneControls v-for="pane in editor.panes" :key="pane.pane" :pane="pane" :alone="editor.panes.length === 1" />
    <p v-if="editor.stats" class="corner bottom-left mono stats" data-test="stats" :title="memoryTitle">
      {{ editor.stats.framesPerSecond }} fps · {{ editor.stats.draws }} draws · {{ editor.stats.placed }} placed · {{ Math.round(editor.stats.triangles / 1000) }}k tris ·
      <strong v-if="editor.stats.drawnShare < 1" title="This machine could not draw all copies at once; the others are left out evenly">{{ percent(editor.stats.drawnShare) }} % drawn ·</strong>
      {{ megabytes(editor.stats.memory.instanced) }} of {{ megabytes(editor.stats.memory.copied) }} MB
    </p>
    <CompassRose />
    <ModeBanner />
    <FrameOverlay v-if="editor.pickFrame" :frame="editor.pickFrame" />
    <ThingsMenu />
    <p v-if="level.document.size === 0 && !editor.mode" :key="level.version" class="empty quiet">Drag a part from the kit onto the ground to begin.</p>
    <StageReadout v-if="editor.readout" :readout="editor.readout" />
    <TypedNumbers v-if="editor.typed" :numbers="editor.typed" />
    <p v-if="failed" role="alert" class="empty">This browser cannot draw in three dimensions (WebGL 2 is missing or switched off). The roster and the ledger still work.</p>
  </section>
</template>

<style scoped>
.stage {
  position: relative;
  flex: 1;
  min-width: 0;
  min-height: 0;
  overflow: hidden;
}

.stage-canvas {
  position: absolute;
  width: 100%;
  height: 100%;
  outline-offset: -2px;
  touch-action: none;
}

.corner {
  position: absolute;
}

.top-left {
  top: 10px;
  left: 10px;
}

.top-menus {
  top: 10px;
  left: 286px;
}

.top-left button[aria-pressed='true'] {
  background: var(--picked);
  color: rgb(var(--v-theme-on-picked));
}

.stats {
  bottom: 10px;
  left: 10px;
  margin: 0;
  padding: 2px 9px;
  font-size: 12px;
  background: rgba(var(--v-theme-surface), 0.85);
  border-radius: 6px;
  pointer-events: none;
}

.empty {
  position: absolute;
  top: 42%;
  left: 50%;
  padding: 8px 16px;
  transform: translateX(-50%);
  background: rgb(var(--v-theme-surface));
  border-radius: 8px;
  pointer-events: none;
}
</style>
