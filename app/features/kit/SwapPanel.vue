<script setup lang="ts">
import { computed, onBeforeUnmount } from 'vue'
import { useKit } from '~/editor/kit'
import { useSwapping } from './swapping'
import { counted } from '~~/core/units/plural'

const swapping = useSwapping()
const kit = useKit()
const partName = computed(() => (swapping.partId === null ? null : (kit.part(swapping.partId)?.name ?? 'the part')))
const scopes = computed(
  () =>
    [
      { value: 'picked', name: 'Picked' },
      ...(partName.value === null ? [] : [{ value: 'instances', name: 'All instances' }]),
      { value: 'found', name: 'Found' },
    ] as const,
)
const fits = [
  { value: false, name: 'Keep the size' },
  { value: true, name: 'Fit the box' },
] as const
const ways = [
  { value: 'pivot', name: 'By pivot' },
  { value: 'middle', name: 'By middle' },
] as const
onBeforeUnmount(() => swapping.stop())
</script>

<template>
  <div class="swap" role="group" aria-label="Swap for another part" data-test="swap">
    <p>
      <strong>Swap {{ counted(swapping.ids.length, 'thing') }} for …</strong>
      {{ ' ' }}
      <span class="quiet">point at a part to see it, click it to do it</span>
    </p>
    <Segments v-model="swapping.scope" :options="scopes" label="What is swapped" />
    <v-text-field
      v-if="swapping.scope === 'found'"
      v-model="swapping.text"
      placeholder="Name, part or tag"
      aria-label="Find what to swap"
    />
    <Segments
      :model-value="swapping.rule.fit"
      :options="fits"
      label="Size"
      @update:model-value="swapping.rule = { ...swapping.rule, fit: $event }"
    />
    <Segments
      :model-value="swapping.rule.by"
      :options="ways"
      label="What stands where it stood"
      @update:model-value="swapping.rule = { ...swapping.rule, by: $event }"
    />
    <v-btn @click="swapping.stop()">Cancel</v-btn>
  </div>
</template>

<style scoped>
.swap {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 8px;
  border: 1px solid var(--picked);
  border-radius: var(--round-small);
}
</style>
