<script setup lang="ts">
import { computed } from 'vue'
import { instancesOf } from '~~/core/level/find'
import type { Block } from '~~/core/level/schema'
import { BLOCK_NAMES } from '~~/core/mesh/block'
import { withNumber } from './block-fields'
import { useCommands } from '~/editor/commands'
import { useLevel } from '~/editor/level'
import BlockFields from './BlockFields.vue'

/** The numbers of a block that is in the level; all instances follow. */
const props = defineProps<{ block: Block }>()
const level = useLevel()
const commands = useCommands()
const name = computed(() => BLOCK_NAMES[props.block.shape.type])
const instances = computed(() => instancesOf(level.view, props.block.id).length)

function setNumber(key: string, value: number, isStep: boolean): void {
  const { id, shape } = props.block
  const next = withNumber(shape, key, value)
  if (next.ok)
    level.change(
      `Change the ${key} of the ${name.value.toLowerCase()}`,
      [{ do: 'put-block', id, fields: { shape: next.shape } }],
      isStep ? `step ${id} ${key}` : undefined,
    )
  else level.notify('This number does not fit', [next.error])
}

const setColor = (color: string) =>
  level.change('Change the colour of a block', [{ do: 'put-block', id: props.block.id, fields: { color } }])
</script>

<template>
  <div class="numbers">
    <h3>{{ name }}</h3>
    <BlockFields :shape="block.shape" :color="block.color" @number="setNumber" @color="setColor" />
    <p v-if="instances > 1" class="quiet">
      {{ instances }} instances share this.
      <v-btn class="link" variant="plain" @click="commands.run('Make independent')">Make this one independent</v-btn>
    </p>
  </div>
</template>

<style scoped>
.numbers {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
</style>
