<script setup lang="ts">
import { computed } from 'vue'
import type { CheckName } from '~~/core/check/kinds'
import { checkOf } from '~~/core/check/kinds'
import type { LimitSpec } from '~~/core/check/definition'
import { useChecking } from './checking'
import { useSettings } from '~/editor/settings'

/** What is asked of one kind of finding in this level, and what it means. */
const props = defineProps<{ of: CheckName }>()
const checking = useChecking()
const settings = useSettings()
const now = computed(() => checking.limitsOf(props.of))
const specs = computed(() => Object.entries(checkOf(props.of).limits))
const problem =
  ({ least = -Infinity, most = Infinity }: LimitSpec) =>
  (value: number) =>
    value < least ? 'This is too small.' : value > most ? 'This is too large.' : null
</script>

<template>
  <div class="limits">
    <p class="quiet hint">{{ checkOf(of).explains }}</p>
    <Tick :model-value="!now.off" label="Look for it" @update:model-value="checking.setLimits(of, { off: !$event })" />
    <FormLine v-for="[key, spec] in specs" :key="key" :label="spec.label">
      <QuantityField
        :label="`${spec.label} of ${checkOf(of).name}`"
        :quantity="spec.quantity"
        :unit="spec.quantity === 'length' ? settings.kept.unit : undefined"
        :decimals="spec.quantity === 'length' ? Math.max(settings.decimals, 3) : 2"
        :suffix="spec.quantity === 'length' ? settings.suffix : spec.quantity === 'angle' ? '°' : ''"
        :value="now.values[key]!"
        :check="problem(spec)"
        @commit="checking.setLimits(of, { values: { [key]: $event } })"
      />
    </FormLine>
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
