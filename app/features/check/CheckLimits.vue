<script setup lang="ts">
import { computed } from 'vue'
import type { CheckName } from '~~/core/check/kinds'
import { checkOf } from '~~/core/check/kinds'
import { numberField } from '~~/core/units/field'
import { useChecking } from './checking'

/** What is asked of one kind of finding in this level, and what it means. */
const props = defineProps<{ of: CheckName }>()
const checking = useChecking()
const now = computed(() => checking.limitsOf(props.of))
const fields = computed(() =>
  Object.entries(checkOf(props.of).limits).map(([key, { label, ...limit }]) =>
    numberField(label, [key], limit.quantity, {
      ...limit,
      named: `${label} of ${checkOf(props.of).name}`,
      decimals: limit.quantity === 'length' ? 3 : 2,
      suffix: '',
    }),
  ),
)
</script>

<template>
  <div class="limits">
    <p class="quiet hint">{{ checkOf(of).explains }}</p>
    <Tick :model-value="!now.off" label="Look for it" @update:model-value="checking.setLimits(of, { off: !$event })" />
    <FieldRows
      :fields="fields"
      :of="now.values"
      @set="({ path: [key] }, value) => checking.setLimits(of, { values: { [key!]: Number(value) } })"
    />
  </div>
</template>

<style scoped>
.limits {
  display: flex;
  flex-direction: column;
  gap: 5px;
  padding: 4px 8px 8px;
  background: rgb(var(--v-theme-background));
}
</style>
