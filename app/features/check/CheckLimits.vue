<script setup lang="ts">
import { computed } from 'vue'
import type { CheckName } from '~~/core/check/kinds'
import { checkOf } from '~~/core/check/kinds'
import type { LimitSpec } from '~~/core/check/definition'
import type { Field } from '~~/core/units/field'
import { numberField } from '~~/core/units/field'
import { useChecking } from './checking'

/** What is asked of one kind of finding in this level, and what it means. */
const props = defineProps<{ of: CheckName }>()
const checking = useChecking()
const now = computed(() => checking.limitsOf(props.of))
const fields = computed(() =>
  Object.entries(checkOf(props.of).limits).map(([key, { label, quantity }]) =>
    numberField(label, [key], quantity, {
      named: `${label} of ${checkOf(props.of).name}`,
      decimals: quantity === 'length' ? 3 : 2,
      suffix: '',
    }),
  ),
)
function check({ path: [key] }: Field, value: unknown): string | null {
  const limits: Readonly<Record<string, LimitSpec>> = checkOf(props.of).limits
  const { least = -Infinity, most = Infinity } = limits[key!]!
  if (Number(value) < least) return 'This is too small.'
  return Number(value) > most ? 'This is too large.' : null
}
</script>

<template>
  <div class="limits">
    <p class="quiet hint">{{ checkOf(of).explains }}</p>
    <Tick :model-value="!now.off" label="Look for it" @update:model-value="checking.setLimits(of, { off: !$event })" />
    <FieldRows
      :fields="fields"
      :of="now.values"
      :check="check"
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
