<script setup lang="ts">
import { computed } from 'vue'
import type { Block } from '~~/core/level/schema'
import { blockFields, blockName, blockNumber, walkingWarnings, withNumber } from '~/composables/use-block-fields'
import { useBlocks } from '~/composables/use-blocks'
import { useDuplicating } from '~/stores/duplicating'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'

/** The numbers of a block that is in the level; all instances follow. */
const props = defineProps<{ block: Block }>()
const level = useLevel()
const settings = useSettings()
const blocks = useBlocks()
const duplicating = useDuplicating()
const warnings = computed(() => walkingWarnings(props.block.shape))
const instances = computed(() => level.view && blocks.instances(props.block))
const check = (key: string) => (value: number) => {
  const next = withNumber(props.block.shape, key, value)
  return next.ok ? null : next.error
}
</script>

<template>
  <div class="numbers" @focusout="level.endJoining()">
    <h3>{{ blockName(block.shape.type) }}</h3>
    <FormLine v-for="field in blockFields(block.shape)" :key="field.key" :label="field.label">
      <QuantityField
        :label="field.label" :quantity="field.isCount ? 'factor' : 'length'" :unit="field.isCount ? undefined : settings.kept.unit"
        :decimals="field.isCount ? 0 : settings.decimals" :suffix="field.isCount ? '' : settings.suffix" :value="blockNumber(block.shape, field.key)" :check="check(field.key)"
        operators="+*/" steps @commit="(value, entry) => blocks.setNumber(block, field.key, entry)" @step="blocks.stepNumber(block, field.key, $event, field.isCount)"
      />
    </FormLine>
    <FormLine label="Colour"><ColorBox :value="block.color" label="Colour" @commit="blocks.setColor(block, $event)" /></FormLine>
    <p v-if="warnings.length > 0" class="warning" :title="warnings.join('\n')">{{ warnings[0] }}</p>
    <p v-if="instances > 1" class="quiet">{{ instances }} instances share this. <v-btn class="link" variant="plain" @click="duplicating.makeIndependent()">Make this one independent</v-btn></p>
  </div>
</template>

<style scoped>
.numbers {
  display: flex;
  flex-direction: column;
  gap: 6px;
}

.warning {
  padding-left: 6px;
  border-left: 3px solid rgb(var(--v-theme-action));
  font-size: var(--small);
  line-height: 1.3;
}
</style>
