<script setup lang="ts">
import { computed, ref } from 'vue'
import type { LevelAxis } from '~~/core/units/height'
import { useSettings } from '~/editor/settings'
import { useStageSession } from '~/editor/stage-session'
import { useCompass } from './use-compass'

type Way = [number, number, number]
const session = useStageSession()
const { heading, lookFrom, orbit } = useCompass()
const settings = useSettings()
const LEAVES: readonly { axis: LevelAxis; way: 1 | -1; angle: number; from: Way }[] = [
  { axis: 0, way: 1, angle: 90, from: [1, 0.15, 0] },
  { axis: 2, way: 1, angle: 180, from: [0, 0.15, 1] },
  { axis: 0, way: -1, angle: 270, from: [-1, 0.15, 0] },
  { axis: 2, way: -1, angle: 0, from: [0, 0.15, -1] },
]
/** The four level directions, clockwise as seen from above; where each leaf points on the dial follows the view. */
const leaves = computed(() =>
  LEAVES.map(({ axis, way, angle: at, from }) => {
    const angle = ((at - heading.value) * Math.PI) / 180
    const { letter, sign } = settings.axes.of(axis)
    return {
      name: letter,
      sign: way * sign > 0 ? '+' : '−',
      from,
      x: 40 + 30 * Math.sin(angle),
      y: 40 - 30 * Math.cos(angle),
      turn: at - heading.value,
    }
  }),
)
const up = computed(() => settings.axes.letter(1))
const dragging = ref(false)
const pane = computed(() => session.panes.find(({ active, kind }) => active && kind === 'walkaround'))
/** In the corner of the pane it turns; smaller in a small one. */
const place = computed(() => {
  const { x, y, width, height } = pane.value!.rect
  const size = Math.min(settings.byFinger ? 126 : 84, height / (settings.byFinger ? 3 : 4))
  return { left: `${x + width - size - 12}px`, top: `${y + height - size - 12}px`, width: `${size}px` }
})

function press(event: PointerEvent): void {
  const dial = event.currentTarget as SVGElement
  let moved = false
  const listeners = new AbortController()
  dial.addEventListener(
    'pointermove',
    move => {
      moved ||= Math.abs(move.movementX) + Math.abs(move.movementY) > 2
      if (!moved) return
      if (!dragging.value) dial.setPointerCapture(event.pointerId)
      dragging.value = true
      orbit(move.movementX, move.movementY)
    },
    { signal: listeners.signal },
  )
  const end = () => {
    listeners.abort()
    // The click that follows the release of a drag means nothing.
    setTimeout(() => (dragging.value = false))
  }
  dial.addEventListener('pointerup', end, { signal: listeners.signal })
  dial.addEventListener('pointercancel', end, { signal: listeners.signal })
}

function choose(direction: Way): void {
  if (!dragging.value) lookFrom(direction)
}
</script>

<template>
  <svg
    v-if="pane"
    class="rose"
    data-fixture
    :style="place"
    viewBox="0 0 80 80"
    role="group"
    aria-label="Compass rose: look from a direction; drag to orbit"
    @pointerdown="press"
  >
    <circle cx="40" cy="40" r="38" class="dial" />
    <g
      v-for="leaf in leaves"
      :key="leaf.sign + leaf.name"
      role="button"
      tabindex="0"
      :aria-label="`Look from ${leaf.sign}${leaf.name}`"
      @click="choose(leaf.from)"
      @keydown.enter="choose(leaf.from)"
    >
      <path
        d="M40 14 L48 34 L40 29 L32 34 Z"
        :transform="`rotate(${leaf.turn} 40 40)`"
        :class="['leaf', leaf.name.toLowerCase(), { minus: leaf.sign === '−' }]"
      />
      <circle :cx="leaf.x" :cy="leaf.y" r="10" class="hit" />
      <text v-if="leaf.sign === '+'" :x="leaf.x" :y="leaf.y + 4" text-anchor="middle">{{ leaf.name }}</text>
    </g>
    <g
      role="button"
      tabindex="0"
      aria-label="Look from above"
      @click="choose([0, 1, 0])"
      @keydown.enter="choose([0, 1, 0])"
    >
      <circle cx="40" cy="40" r="8" :class="up.toLowerCase()" />
      <text x="40" y="44" text-anchor="middle" class="onup">{{ up }}</text>
    </g>
  </svg>
</template>

<style scoped>
.rose {
  position: absolute;
  touch-action: none;
}

.dial {
  fill: rgba(var(--v-theme-surface), 0.85);
  stroke: var(--line);
}

.leaf {
  stroke: rgb(var(--v-theme-surface));
}

.x {
  fill: rgb(var(--v-theme-axis-x));
}
.y {
  fill: rgb(var(--v-theme-axis-y));
}
.z {
  fill: rgb(var(--v-theme-axis-z));
}

.minus {
  opacity: 0.35;
}

.hit {
  fill: transparent;
}

g {
  cursor: pointer;
}

.onup {
  fill: rgb(var(--v-theme-on-slate));
}

text {
  fill: var(--ink);
  font: 600 calc(11px * var(--scale)) var(--narrow);
  pointer-events: none;
}
</style>
