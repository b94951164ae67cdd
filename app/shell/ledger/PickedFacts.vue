<script setup lang="ts">
import { computed } from 'vue'
import { walkingWarnings } from '~/features/blocks/block-fields'
import { useKeeping } from '~/editor/keeping'
import { useResting } from './use-resting'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'

const props = defineProps<{ picked: readonly string[]; lastId: string }>()
const level = useLevel()
const settings = useSettings()
const keeping = useKeeping()
const { restsOn, skewed } = useResting()
const worldSize = computed(() => print(level.view && level.index.extents.sizeOf(props.picked)))
const localSize = computed(() =>
  props.picked.length === 1 ? print(level.view && level.index.extents.localSizeOf(props.lastId)) : null,
)

const warnings = computed(() => {
  const { blockId } = level.view.need(props.lastId)
  const block = blockId === null ? undefined : level.view.blocks.get(blockId)
  return block ? walkingWarnings(block.shape) : []
})

const kept = computed(() =>
  keeping.held !== props.lastId || keeping.own.length === 0 ? null : `Kept ${keeping.own.map(keeping.say).join(', ')}`,
)

function print(size: readonly number[] | null): string | null {
  return size && settings.sizes(size)
}
</script>

<template>
  <div class="facts">
    <p v-if="localSize" title="Width, height and depth along its own axes">
      <span class="quiet">Size</span>
      {{ ' ' }}
      <span class="mono" data-test="local-size">{{ localSize }}</span>
    </p>
    <p
      v-if="worldSize && worldSize !== localSize"
      title="Width, height and depth of the box around what is picked, along the world's axes"
    >
      <span class="quiet">Box</span>
      {{ ' ' }}
      <span class="mono" data-test="world-size">{{ worldSize }}</span>
    </p>
    <p v-if="warnings.length > 0" class="warning" :title="warnings.join('\n')" data-test="stair-warning">
      {{ warnings[0] }}
    </p>
    <p
      v-else-if="skewed"
      class="error"
      title="Turned inside something sized unevenly; bake it, or size its parent evenly"
    >
      Skewed by what it hangs from
    </p>
    <p v-else-if="kept" class="kept" :title="kept" data-test="kept">{{ kept }}</p>
    <p v-else-if="restsOn" class="quiet">{{ restsOn }}</p>
  </div>
</template>

<style scoped>
.facts {
  flex: 0 1 176px;
  min-width: 0;
}

p {
  overflow: hidden;
  font-size: var(--note);
  line-height: 1.45;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.warning {
  box-shadow: inset 2px 0 rgb(var(--v-theme-action));
  padding-left: 6px;
}

.kept {
  padding-left: 5px;
  border-left: 3px double var(--petrol);
}

.mono {
  font-size: calc(10.5px * var(--scale));
  letter-spacing: -0.07em;
}
</style>
