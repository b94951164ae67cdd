<script setup lang="ts">
import { computed } from 'vue'
import type { Block } from '~~/core/level/schema'
import { blockFields, blockNumber, walkingWarnings, withNumber } from '~/composables/use-block-fields'
import { useBlocks } from '~/composables/use-blocks'
import { useDuplicating } from '~/stores/duplicating'
import { useSettings } from '~/stores/settings'

const props = defineProps<{ block: Block }>()
const settings = useSettings()
const blocks = useBlocks()
const duplicating = useDuplicating()
const warnings = computed(() => walkingWarnings(props.block.shape))
const check = (key: string) => (value: number) => {
  const next = withNumber(props.block.shape, key, value)
  return next.ok ? null : next.error
}
</script>

<template>
  <div class="block" role="group" aria-label="Block">
    <div class="fields">
      <label v-for="field in blockFields(block.shape)" :key="field.key" class="line"><span>{{ field.label }}</span>
        <QuantityField
          :label="field.label" :quantity="field.isCount ? 'factor' : 'length'" :unit="field.isCount ? undefined : settings.kept.unit"
          :decimals="field.isCount ? 0 : settings.decimals" :suffix="field.isCount ? '' : settings.kept.unit" :value="blockNumber(block.shape, field.key)" :check="check(field.key)"
          operators="+*/" steps @commit="(value, entry) => blocks.setNumber(block, field.key, entry)" @step="blocks.stepNumber(block, field.key, $event, field.isCount)"
        />
      </label>
      <label class="line"><span>Colour</span><input :value="block.color" type="color" aria-label="Colour" @change="blocks.setColor(block, ($event.target as HTMLInputElement).value)"></label>
    </div>
    <p v-if="warnings.length > 0" class="warning" :title="warnings.join('\n')" data-test="stair-warning">{{ warnings[0] }}</p>
    <p v-if="blocks.instances(block) > 1" class="quiet">{{ blocks.instances(block) }} instances share this. <button type="button" class="link" @click="duplicating.makeIndependent()">Make this one independent</button></p>
  </div>
</template>

<style scoped>
.block {
  flex: none;
  width: 176px;
  overflow: hidden auto;
  font-size: 12.5px;
  scrollbar-width: thin;
}

.fields {
  display: flex;
  flex-direction: column;
  gap: 3px;
}

.line > .field {
  height: 24px;
}

input[type='color'] {
  width: 40px;
  height: 22px;
}

.warning {
  margin-top: 4px;
  padding-left: 6px;
  border-left: 3px solid rgb(var(--v-theme-action));
  font-size: 12px;
  line-height: 1.3;
}
</style>
