<script setup lang="ts">
import { computed, onBeforeUnmount } from 'vue'
import type { BlockKind } from '~~/core/mesh/block'
import { BLOCK_NAMES, BLOCK_KINDS } from '~~/core/mesh/block'
import { useDrawBlocks } from './use-draw-blocks'
import { withNumber } from './block-fields'
import { useModes } from '~/editor/modes'
import { useStageSession } from '~/editor/stage-session'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import BlockFields from './BlockFields.vue'
import BlockNumbers from './BlockNumbers.vue'

const level = useLevel()
const modes = useModes()
const drawBlocks = useDrawBlocks()
const session = useStageSession()
const settings = useSettings()
const block = computed(() => settings.kept.block)
const shape = computed(() => block.value.shapes[block.value.kind])
const drawing = computed(() => session.held('block') !== null)
/** The block that is picked: its numbers are the form's, unless another is being drawn. */
const picked = computed(() => {
  const last = drawing.value ? null : level.selection.last
  const blockId = last !== null && level.view.has(last) ? level.view.need(last).blockId : null
  return blockId === null ? undefined : level.view.blocks.get(blockId)
})
const pickedName = computed(() => level.view.need(level.selection.last!).name)

const kind = computed({
  get: () => block.value.kind,
  set: (next: BlockKind) => {
    block.value.kind = next
    drawBlocks()
  },
})

function set(key: string, value: number): void {
  const next = withNumber(shape.value, key, value)
  if (next.ok) block.value.shapes = { ...block.value.shapes, [block.value.kind]: next.shape }
  // The tool reads the numbers anew.
  if (drawing.value) drawBlocks()
}

onBeforeUnmount(() => {
  if (drawing.value) modes.stopMode()
})
</script>

<template>
  <section class="bench-form" aria-labelledby="blocks-title">
    <PanelHead title-id="blocks-title" title="Blocks" />
    <p class="quiet hint">
      Choose a shape and drag its base on any surface, then pull up its height and click. A click without a drag puts
      one down with these numbers.
    </p>
    <Segments
      v-model="kind"
      :options="BLOCK_KINDS.map(value => ({ value, name: BLOCK_NAMES[value] }))"
      label="Shape"
      :columns="3"
    />
    <section v-if="picked" class="picked" :aria-label="`Numbers of ${pickedName}`" data-test="picked-block">
      <p class="line">
        <span>Picked</span>
        <strong>{{ pickedName }}</strong>
      </p>
      <BlockNumbers :block="picked" />
    </section>
    <BlockFields v-else :shape="shape" :color="block.color" of="Block" @number="set" @color="block.color = $event" />
    <v-btn class="main" color="action" variant="flat" @click="drawing ? modes.stopMode() : drawBlocks()">
      {{ drawing ? 'Stop drawing' : `Draw a ${BLOCK_NAMES[block.kind].toLowerCase()}` }}
    </v-btn>
    <p class="quiet hint">
      While drawing:
      <KeyCap does="Type numbers instead" />
      types the numbers,
      <KeyCap does="Vertex snap while held" />
      makes it as high as the corner you point at, Ctrl leaves the grid.
    </p>
  </section>
</template>

<style scoped>
.picked {
  padding: 8px;
  border: 1px solid var(--line);
  border-left: 3px solid var(--picked);
  border-radius: 6px;
}
</style>
