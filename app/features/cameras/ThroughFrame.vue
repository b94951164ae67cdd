<script setup lang="ts">
import { computed } from 'vue'
import { useCameras } from './cameras'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import type { PaneState } from '~/editor/stage-session'
import { useStageSession } from '~/editor/stage-session'

/** The frame of the camera that a pane looks through: the outside dimmed, with lines over the picture. */
const props = defineProps<{ pane: PaneState }>()
const settings = useSettings()
const session = useStageSession()
const cameras = useCameras()
const level = useLevel()
const frame = computed(() => props.pane.framed!)
const id = computed(() => cameras.through.get(props.pane.pane)?.id ?? null)
const name = computed(() => (id.value === null ? '' : (level.view.get(id.value)?.name ?? '')))
/** Where the height of the eye is seen, from the top of the frame; after each frame that is drawn. */
const horizon = computed(() =>
  session.stats && settings.kept.guides.height ? (session.stage?.horizonIn(props.pane.pane) ?? null) : null,
)
const place = computed(() => ({
  left: `${frame.value.x}px`,
  top: `${frame.value.y}px`,
  width: `${frame.value.width}px`,
  height: `${frame.value.height}px`,
}))
const clip = computed(() => ({
  left: `${props.pane.rect.x}px`,
  top: `${props.pane.rect.y}px`,
  width: `${props.pane.rect.width}px`,
  height: `${props.pane.rect.height}px`,
}))
</script>

<template>
  <div class="clip" :style="clip" aria-hidden="true">
    <div
      class="frame"
      :style="{ ...place, marginLeft: `${-pane.rect.x}px`, marginTop: `${-pane.rect.y}px` }"
      data-test="camera-frame"
    >
      <svg :viewBox="`0 0 ${frame.width} ${frame.height}`">
        <g v-if="settings.kept.guides.thirds">
          <line
            v-for="k in 2"
            :key="`x${k}`"
            :x1="(frame.width * k) / 3"
            :x2="(frame.width * k) / 3"
            y1="0"
            :y2="frame.height"
          />
          <line
            v-for="k in 2"
            :key="`y${k}`"
            :y1="(frame.height * k) / 3"
            :y2="(frame.height * k) / 3"
            x1="0"
            :x2="frame.width"
          />
        </g>
        <g v-if="settings.kept.guides.diagonals">
          <line x1="0" y1="0" :x2="frame.width" :y2="frame.height" />
          <line x1="0" :y1="frame.height" :x2="frame.width" y2="0" />
        </g>
        <line
          v-if="horizon"
          class="height"
          :x1="horizon[0].x - frame.x"
          :y1="horizon[0].y - frame.y"
          :x2="horizon[1].x - frame.x"
          :y2="horizon[1].y - frame.y"
        />
      </svg>
      <span class="name">{{ name }}</span>
    </div>
  </div>
</template>

<style scoped>
.clip {
  position: absolute;
  overflow: hidden;
  pointer-events: none;
}

.frame {
  position: absolute;
  outline: 1.5px solid var(--picked);
  box-shadow: 0 0 0 4000px rgb(20 26 30 / 52%);
}

svg {
  position: absolute;
  width: 100%;
  height: 100%;
  overflow: hidden;
}

line {
  stroke: #fff;
  stroke-opacity: 0.55;
  stroke-width: 1;
  mix-blend-mode: difference;
}

.height {
  stroke: rgb(var(--v-theme-action));
  stroke-opacity: 1;
  stroke-dasharray: 6 4;
  mix-blend-mode: normal;
}

.name {
  position: absolute;
  bottom: 100%;
  left: 0;
  padding: 1px 7px;
  font: 600 var(--small) var(--narrow);
  white-space: nowrap;
  background: var(--picked);
  color: rgb(var(--v-theme-on-picked));
}
</style>
