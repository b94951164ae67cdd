<script setup lang="ts">
import { computed, ref } from 'vue'
import { heightAt } from '~~/core/arrange/rise'
import { tidy } from '~~/core/units/quantity'
import { useTools } from '~/editor/tools'

type Point = [number, number]
const props = defineProps<{ points: Point[]; smooth: boolean; rows: number }>()
const emit = defineEmits<{ change: [points: Point[], joins?: string] }>()
const tools = useTools()
const [WIDTH, HEIGHT, MARGIN] = [208, 96, 10]
/** More rows than this are not marked one by one. */
const MOST_MARKED = 40

const svg = ref<SVGSVGElement>()
const sorted = computed(() => [...props.points].sort((a, b) => a[0] - b[0]))
/** While a point is dragged the scale stays, or the curve would run away under the pointer. */
const held = ref<{ index: number; low: number; high: number } | null>(null)
const range = computed(() => {
  if (held.value) return held.value
  const heights = props.points.map(([, height]) => height)
  const [low, high] = [Math.min(0, ...heights), Math.max(...heights, Math.min(0, ...heights) + 0.5)]
  return { low, high: high + (high - low) * 0.15 }
})
const toX = (at: number) => MARGIN + at * (WIDTH - 2 * MARGIN)
const toY = (height: number) =>
  HEIGHT - MARGIN - ((height - range.value.low) / (range.value.high - range.value.low)) * (HEIGHT - 2 * MARGIN)
const curve = computed(() =>
  Array.from({ length: 49 }, (_, i) => `${toX(i / 48)},${toY(heightAt(sorted.value, i / 48, props.smooth))}`).join(' '),
)
const marks = computed(() => {
  const step = Math.max(1, Math.ceil(props.rows / MOST_MARKED))
  return Array.from({ length: Math.ceil(props.rows / step) }, (_, i) =>
    props.rows > 1 ? (i * step) / (props.rows - 1) : 0,
  ).map(at => ({ at, x: toX(at), y: toY(heightAt(sorted.value, at, props.smooth)) }))
})

function valueAt(event: PointerEvent): Point {
  const box = svg.value!.getBoundingClientRect()
  const [x, y] = [((event.clientX - box.left) / box.width) * WIDTH, ((event.clientY - box.top) / box.height) * HEIGHT]
  const height =
    range.value.low + ((HEIGHT - MARGIN - y) / (HEIGHT - 2 * MARGIN)) * (range.value.high - range.value.low)
  return [tidy(Math.min(Math.max((x - MARGIN) / (WIDTH - 2 * MARGIN), 0), 1)), tidy(Math.round(height * 100) / 100)]
}

/** The first and the last point stay at the first and the last row. */
function put(index: number, [at, height]: Point): void {
  const [before, after] = [sorted.value[index - 1]?.[0], sorted.value[index + 1]?.[0]]
  const place = before === undefined ? 0 : after === undefined ? 1 : Math.min(Math.max(at, before + 0.01), after - 0.01)
  emit('change', sorted.value.with(index, [tidy(place), height]), `drag profile ${index}`)
}

function press(index: number, event: PointerEvent): void {
  held.value = { index, ...range.value }
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}

function move(event: PointerEvent): void {
  if (held.value) put(held.value.index, valueAt(event))
}

function add(event: PointerEvent): void {
  const [at] = valueAt(event)
  if (at <= 0.02 || at >= 0.98) return
  const index = sorted.value.findIndex(([place]) => place > at)
  emit(
    'change',
    sorted.value.toSpliced(index, 0, [at, tidy(Math.round(heightAt(sorted.value, at, props.smooth) * 100) / 100)]),
  )
}

function key(index: number, event: KeyboardEvent): void {
  const [at, height] = sorted.value[index]!
  const step = event.shiftKey ? 0.1 : 0.01
  if (event.key === 'ArrowUp') put(index, [at, tidy(height + step)])
  else if (event.key === 'ArrowDown') put(index, [at, tidy(height - step)])
  else if (event.key === 'ArrowLeft') put(index, [at - step, height])
  else if (event.key === 'ArrowRight') put(index, [at + step, height])
  else if (event.key === 'Delete' && index > 0 && index < sorted.value.length - 1)
    emit('change', sorted.value.toSpliced(index, 1))
  else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <svg
    ref="svg"
    class="profile"
    :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
    role="group"
    aria-label="Rise profile"
    data-test="profile"
    @pointermove="move"
    @pointerup="held = null"
    @pointercancel="held = null"
  >
    <line :x1="MARGIN" :x2="WIDTH - MARGIN" :y1="toY(0)" :y2="toY(0)" class="zero" />
    <polyline :points="curve" class="reach" @pointerdown="add" />
    <polyline :points="curve" class="curve" />
    <circle v-for="mark in marks" :key="mark.at" :cx="mark.x" :cy="mark.y" r="2" class="row" />
    <circle
      v-for="([at, height], index) in sorted"
      :key="index"
      :cx="toX(at)"
      :cy="toY(height)"
      r="6"
      class="point"
      tabindex="0"
      role="slider"
      :aria-label="`Profile point ${index + 1}`"
      :aria-valuenow="height"
      :aria-valuetext="tools.printLength(height)"
      @pointerdown.stop="press(index, $event)"
      @keydown="key(index, $event)"
    >
      <title>{{ tools.printLength(height) }}</title>
    </circle>
  </svg>
  <p class="quiet hint">Drag the points; press on the curve to add one, Delete takes the focused one away.</p>
</template>

<style scoped>
.profile {
  width: 100%;
  touch-action: none;
  background: rgb(var(--v-theme-field));
  border: 1px solid var(--line);
  border-radius: 6px;
}

.zero {
  stroke: var(--line);
}

.curve {
  fill: none;
  stroke: var(--petrol);
  stroke-width: 2;
  pointer-events: none;
}

.reach {
  fill: none;
  stroke: transparent;
  stroke-width: 14;
  pointer-events: stroke;
  cursor: copy;
}

.row {
  fill: var(--ink);
  pointer-events: none;
}

.point {
  fill: rgb(var(--v-theme-surface));
  stroke: var(--petrol);
  stroke-width: 2.5;
  cursor: grab;
}
</style>
