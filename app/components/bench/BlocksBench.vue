<script setup lang="ts">
import { computed, onBeforeUnmount } from 'vue'
import type { BlockKind } from '~~/core/kit/block'
import { BLOCK_KINDS } from '~~/core/kit/block'
import { blockFields, blockName, blockNumber, walkingWarnings, withNumber } from '~/composables/use-block-fields'
import { useEditor } from '~/stores/editor'
import { useSettings } from '~/stores/settings'

const editor = useEditor()
const settings = useSettings()
const block = computed(() => settings.kept.block)
const shape = computed(() => block.value.shapes[block.value.kind])
const drawing = computed(() => editor.mode?.drawsBlocks === true)

function choose(kind: BlockKind): void {
  block.value.kind = kind
  editor.startDrawingBlocks()
}

function set(key: string, value: number): void {
  const next = withNumber(shape.value, key, value)
  if (next.ok) block.value.shapes = { ...block.value.shapes, [block.value.kind]: next.shape }
  // The tool reads the numbers anew.
  if (drawing.value) editor.startDrawingBlocks()
}

const check = (key: string) => (value: number) => {
  const next = withNumber(shape.value, key, value)
  return next.ok ? null : next.error
}

onBeforeUnmount(() => {
  if (drawing.value) editor.stopMode()
})
</script>

<template>
  <section class="bench-form" aria-labelledby="blocks-title">
    <h2 id="blocks-title">Blocks</h2>
    <p class="quiet hint">Choose a shape and drag its base on any surface, then pull up its height and click. A click without a drag puts one down with these numbers.</p>
    <div class="shapes" role="group" aria-label="Shape">
      <button v-for="kind in BLOCK_KINDS" :key="kind" type="button" class="small-button" :aria-pressed="block.kind === kind" :data-block="kind" @click="choose(kind)">{{ blockName(kind) }}</button>
    </div>
    <label v-for="field in blockFields(shape)" :key="`${block.kind} ${field.key}`" class="line"><span>{{ field.label }}</span>
      <QuantityField
        :label="`Block ${field.label.toLowerCase()}`" :quantity="field.isCount ? 'factor' : 'length'" :unit="field.isCount ? undefined : settings.kept.unit"
        :decimals="field.isCount ? 0 : settings.decimals" :suffix="field.isCount ? '' : settings.kept.unit" :value="blockNumber(shape, field.key)" :check="check(field.key)" @commit="set(field.key, $event)"
      />
    </label>
    <label class="line"><span>Colour</span><input v-model="block.color" type="color" aria-label="Block colour"></label>
    <p v-for="warning in walkingWarnings(shape)" :key="warning" class="warning">{{ warning }}</p>
    <button type="button" class="main-button" @click="drawing ? editor.stopMode() : editor.startDrawingBlocks()">{{ drawing ? 'Stop drawing' : `Draw a ${blockName(block.kind).toLowerCase()}` }}</button>
    <p class="quiet hint">While drawing: <kbd class="mono">=</kbd> types the numbers, <kbd class="mono">N</kbd> makes it as high as the corner you point at, Ctrl leaves the grid.</p>
  </section>
</template>

<style scoped>
.shapes {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 5px;
}

.shapes button {
  height: 34px;
}

.shapes [aria-pressed='true'] {
  background: var(--petrol);
  border-color: var(--petrol);
  color: rgb(var(--v-theme-on-primary));
}

input[type='color'] {
  width: 60px;
  height: 26px;
}

.warning {
  padding: 5px 8px;
  border-left: 3px solid rgb(var(--v-theme-action));
  background: rgba(var(--v-theme-action), 0.14);
  font-size: 12.5px;
}
</style>
