<script setup lang="ts">
import { computed } from 'vue'
import { printBytes } from './print-report'

/** How far something is, and how long the rest of it takes, as far as that is known. */
const { share, bytes, secondsLeft, before, label } = defineProps<{
  /** From 0 to 1. */
  share: number | null
  /** Written so far. */
  bytes?: number | null
  secondsLeft?: number | null
  /** What is done until it is known how much there is to do. */
  before: string
  label: string
}>()
const words = computed(() =>
  [
    share === null ? before : `${Math.floor(share * 100)} %`,
    ...(bytes ? [printBytes(bytes)] : []),
    ...(secondsLeft === null || secondsLeft === undefined ? [] : [`about ${Math.ceil(secondsLeft)} s left`]),
  ].join(' · '),
)
</script>

<template>
  <div class="progress">
    <v-progress-linear
      :indeterminate="share === null"
      :model-value="(share ?? 0) * 100"
      color="primary"
      :aria-label="label"
    />
    <span class="mono quiet" data-test="progress">{{ words }}</span>
  </div>
</template>

<style scoped>
.progress {
  display: flex;
  flex-direction: column;
  gap: 3px;
  min-height: 24px;
  font-size: var(--note);
}
</style>
