<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { textureImage } from '~/api/texture-images'
import { boxWithin, fixtureBoxes } from './fixture-boxes'
import { useLevelNumbers } from '../use-level-numbers'
import { useGrips } from '~/features/transform/use-grips'
import { useModes } from '~/editor/modes'
import { useKeys } from '~/editor/keys/keys'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { useCameras } from '~/features/cameras/cameras'
import { useHandling } from '~/editor/handling'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useLighting } from '~/features/cameras/lighting'
import { useSettings } from '~/editor/settings'
import { useWalking } from '~/features/cameras/walking'
import { useWorkshop } from '~/features/kit/workshop'
import { FEATURES } from '../features'
import { boardWith } from '~/stage/board'
import type { ScreenBox } from '~/stage/label-place'
import { Stage } from '~/stage/stage'
import { printCensus } from '~~/core/scene/census'
import { counted } from '~~/core/units/plural'
import CompassRose from './CompassRose.vue'
import FrameOverlay from './FrameOverlay.vue'
import ModeBanner from './ModeBanner.vue'
import PaneControls from './PaneControls.vue'
import NoteMarks from '~/features/notes/NoteMarks.vue'
import PictureStrip from '~/features/cameras/PictureStrip.vue'
import StageMenus from './StageMenus.vue'
import StageReadout from './StageReadout.vue'
import ContextMenu from '../menu/ContextMenu.vue'
import ThroughFrame from '~/features/cameras/ThroughFrame.vue'
import TypedNumbers from './TypedNumbers.vue'
import WalkResult from '~/features/cameras/WalkResult.vue'

const level = useLevel()
const kit = useKit()
const modes = useModes()
const session = useStageSession()
const tools = useTools()
const settings = useSettings()
const canvas = ref<HTMLCanvasElement>()
const frame = ref<HTMLElement>()
const handling = useHandling()
const lighting = useLighting()
const cameras = useCameras()
const walking = useWalking()
const workshop = useWorkshop()
const { choices, choice, setChoice } = useGrips()
const keys = useKeys()
const failed = ref(false)
/**
 * Pixels of a pane in which the strips at its top stand side by side with all names, and in which the handles have
 * theirs.
 */
const ROOM = { all: 730, handles: 430, strip: 320 }
const room = computed(() => ((session.panes[0]?.rect.width ?? 0) * 100) / settings.kept.textSize)
/** By their keys alone where there is no room for names. */
const handleOptions = computed(() =>
  choices.map(({ choice: value, name, does }) => {
    const short = room.value < (session.panes.length === 1 ? 540 : ROOM.handles)
    return { value, name: short ? (keys.labelOf(does) ?? '–') : name, does: short ? undefined : does, title: name }
  }),
)

onMounted(async () => {
  // The tags' letters are drawn once, with the font that has to be there by then.
  await document.fonts.load('600 36px "Barlow Condensed"')
  if (!canvas.value || !frame.value) return
  let stage: Stage
  try {
    stage = new Stage(canvas.value, {
      level: level.view,
      index: level.index,
      solidOf: kit.solid,
      stepsOf: kit.stepsOf,
      areStepsComing: kit.areStepsComing,
      loadPicture: textureImage,
      calm: settings.movesLess,
      layers: FEATURES.flatMap(({ layers }) => layers ?? []),
    })
  } catch (error) {
    console.warn(error)
    failed.value = true
    return
  }
  modes.attach(stage, canvas.value)
  stage.resize(frame.value.clientWidth, frame.value.clientHeight)
  if (workshop.surroundings) stage.surround(workshop.surroundings)
  if (!level.summary || !session.takePose(level.summary.id)) stage.firstLook()
  applySettings()
  session.refreshPanes()
})
onBeforeUnmount(() => modes.detach())
kit.onSteps(() => session.stage?.requestDraw())

const memoryTitle = 'Meshes and matrices in memory, of what full copies of the meshes would take'
/** Never quite all, and never none. */
const percent = (share: number) => Math.min(99, Math.max(Math.floor(share * 100), 1))
const { census } = useLevelNumbers()
/** As many as there is room for, the most asked for first. */
const figures = computed(() => {
  const { framesPerSecond, draws, triangles, memory, error, lights, isLent, shadowReach } = session.stats!
  const all = [
    ...(isLent ? ['working light'] : []),
    `${framesPerSecond} fps`,
    `${draws} draws`,
    printCensus(census.value),
    `${Math.round(triangles / 1000)}k tris${error > 0 ? ` within ${error} px` : ''}`,
    `${megabytes(memory.instanced)} of ${megabytes(memory.copied)} MB`,
    `${counted(lights, 'light')}`,
    ...(shadowReach > 0 ? [`shadows within ${shadowReach} m`] : []),
  ]
  const characters = (statsRoom.value - 20) / 6.7
  return all.filter((_, i) => all.slice(0, i + 1).join(' · ').length <= characters).join(' · ')
})
/** Beside the compass, if that is in the same pane. */
const statsRoom = computed(
  () => Math.min(...session.panes.filter(({ rect }) => rect.x === 0).map(({ rect }) => rect.width)) - 118,
)
const megabytes = (bytes: number) => (bytes / 1e6).toFixed(1)

const figuresLine = ref<HTMLElement>()
const figuresBox = shallowRef<ScreenBox | null>(null)
/** Whether handles stand where the figures are: those make room. */
const figuresInTheWay = computed(() => {
  const line = figuresBox.value
  if (!session.stats || !session.stage || !line) return false
  return session.panes.some(({ pane }) => {
    const around = session.stage!.handles.around(session.stage!.panes.views[pane]!)
    return (
      around !== null
      && around.left < line.right
      && around.right > line.left
      && around.bottom > line.top
      && around.top < line.bottom
    )
  })
})

function findBars(): void {
  if (!frame.value) return
  session.stage?.handles.setBars(fixtureBoxes(frame.value))
  figuresBox.value = figuresLine.value ? boxWithin(frame.value, figuresLine.value) : null
}

function applySettings(): void {
  session.stage?.setBoard(boardWith(settings.boardName, settings.axes))
  session.stage?.setSky(lighting.sky)
  const { steps, show, markSize } = settings.kept
  session.stage?.setShown(show.grid ? steps.grid.size : 0, show.sky, show.hover, {
    camera: show.camera,
    light: show.light,
    marker: show.marker,
    size: markSize,
  })
  session.stage?.handles.setSize({ wanted: settings.kept.handleSize })
  session.stage?.setSelection(level.selection)
  tools.placeHandles()
}

useResizeObserver(frame, ([entry]) => {
  if (!entry || entry.contentRect.width === 0) return
  session.stage?.resize(entry.contentRect.width, entry.contentRect.height)
  session.refreshPanes()
  findBars()
})
watch(
  () => [session.panes, cameras.showStrip, session.cleared, modes.told.length, session.stats === null, walking.walked],
  findBars,
  { flush: 'post' },
)
watch(
  () => [settings.boardName, settings.kept.steps, settings.kept.show, settings.kept.markSize, settings.kept.handleSize],
  applySettings,
  { deep: true },
)
watch(
  () => lighting.sky,
  sky => session.stage?.setSky(sky),
)
watch(
  () => level.selection,
  selection => {
    session.stage?.setSelection(selection)
    tools.placeHandles()
  },
)
watch(
  () => [
    handling.choice,
    handling.editingPivot,
    handling.pin,
    handling.borrowed,
    settings.kept.axes,
    settings.kept.pivot,
  ],
  () => tools.placeHandles(),
)
level.onReshaped(parts => session.stage?.forget(parts))
level.onTouched(touched => {
  session.stage?.update(touched)
  tools.placeHandles()
})
</script>

<template>
  <section ref="frame" class="stage" aria-label="Stage" data-test="stage">
    <canvas
      ref="canvas"
      class="stage-canvas"
      tabindex="0"
      role="application"
      aria-label="The level. Click picks, a drag picks by frame, Alt and drag orbits, Alt, Shift and drag pans, the wheel zooms, right drag looks around."
    />
    <NoteMarks />
    <ThroughFrame
      v-for="pane in session.panes.filter(({ framed }) => framed)"
      :key="`through ${pane.pane}`"
      :pane="pane"
    />
    <div class="corner top-left" data-fixture :style="{ maxWidth: `${room - 20}px` }">
      <Segments
        class="handles"
        :model-value="choice"
        :options="handleOptions"
        label="Handles"
        @update:model-value="setChoice"
      />
      <StageMenus />
    </div>
    <PaneControls
      v-for="pane in session.panes"
      :key="pane.pane"
      :pane="pane"
      :alone="session.panes.length === 1"
      :wide="room >= ROOM.all"
      :below="room < ROOM.strip ? 86 : 48"
    />
    <p
      v-if="session.stats"
      ref="figuresLine"
      class="corner bottom-left mono stats"
      :class="{ aside: figuresInTheWay }"
      data-fixture
      data-test="stats"
      :title="memoryTitle"
      :style="{ maxWidth: `${statsRoom}px` }"
    >
      <strong
        v-if="session.stats.drawnShare < 1"
        title="The picture is built up, what is near first. Picking and snapping go by all of the level already"
      >
        {{ percent(session.stats.drawnShare) }} % drawn ·
      </strong>
      {{ figures }}
    </p>
    <CompassRose />
    <PictureStrip v-if="cameras.showStrip && !session.cleared" />
    <WalkResult v-if="walking.walked && !walking.isWalking" />
    <ModeBanner />
    <FrameOverlay v-if="session.pickFrame" :frame="session.pickFrame" />
    <ContextMenu />
    <p v-if="level.view.size === 0 && !session.mode" class="empty quiet">
      Drag a part from the kit onto the ground to begin.
    </p>
    <StageReadout v-if="session.readout" :readout="session.readout" />
    <TypedNumbers v-if="session.typed" :numbers="session.typed" />
    <p v-if="failed" role="alert" class="empty">
      This browser cannot draw in three dimensions (WebGL 2 is missing or switched off). The roster and the ledger still
      work.
    </p>
  </section>
</template>

<style scoped>
.stage {
  position: relative;
  height: 100%;
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
  display: flex;
  flex-wrap: wrap;
  gap: 7px 8px;
}

.handles :deep(.v-btn) {
  height: max(29px, var(--target)) !important;
}

.handles.handles :deep(.v-btn--active) {
  background: var(--picked);
  color: rgb(var(--v-theme-on-picked));
}

.stats {
  bottom: 10px;
  left: 10px;
  margin: 0;
  padding: 2px 9px;
  overflow: hidden;
  font-size: var(--note);
  text-overflow: ellipsis;
  white-space: nowrap;
  background: rgba(var(--v-theme-surface), 0.85);
  border-radius: 6px;
  pointer-events: none;
}

.stats.aside {
  visibility: hidden;
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
