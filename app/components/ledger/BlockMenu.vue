<script setup lang="ts">
import { mdiCubeOutline } from '@mdi/js'
import { computed } from 'vue'
import type { Block } from '~~/core/level/schema'
import { blockFields, blockName, blockNumber, walkingWarnings, withNumber } from '~/composables/use-block-fields'
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
  <v-menu :close-on-content-click="false" location="top end">
    <template #activator="{ props: activator }">
      <IconButton v-bind="activator" :icon="mdiCubeOutline" :class="{ warned: warnings.length > 0 }" label="Numbers of the block" />
    </template>
    <section class="sheet" aria-label="Block">
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
      <p v-if="blocks.instances(block) > 1" class="quiet">{{ blocks.instances(block) }} instances share this. <v-btn class="link" variant="plain" @click="duplicating.makeIndependent()">Make this one independent</v-btn></p>
    </section>
  </v-menu>
</template>

<style scoped>
.sheet {
  width: 236px;
}

.warned {
  box-shadow: inset 0 -2px rgb(var(--v-theme-action));
}

.warning {
  padding-left: 6px;
  border-left: 3px solid rgb(var(--v-theme-action));
  font-size: var(--small);
  line-height: 1.3;
}
</style>
