<script setup lang="ts">
import { useParentElement, useElementSize } from '@vueuse/core'
import { computed } from 'vue'
import type { Readout } from '~/tools/gesture'

const props = defineProps<{ readout: Readout }>()
const { width } = useElementSize(useParentElement())
/** Beside the pointer, to the right and above where there is room. */
const place = computed(() => {
  const { x, y } = props.readout.at
  return { left: `${x}px`, top: `${y}px`, transform: `translate(${x > width.value - 410 ? 'calc(-100% - 18px)' : '18px'}, ${y > 120 ? 'calc(-100% - 14px)' : '18px'})` }
})
</script>

<template>
  <div class="readout" :style="place" role="status" data-test="readout">
    <p><strong>{{ readout.title }}</strong> <span class="mono value">{{ readout.value }}</span></p>
    <p v-for="note in readout.notes" :key="note" class="note">{{ note }}</p>
  </div>
</template>

<style scoped>
.readout {
  position: absolute;
  z-index: 5;
  width: max-content;
  max-width: 420px;
  padding: 6px 11px 7px;
  border-radius: 6px;
  background: #22303a;
  color: #fbf8f1;
  font-size: 13px;
  pointer-events: none;
}

.readout p {
  margin: 0;
}

.value {
  margin-left: 6px;
  color: #f2b441;
}

.note {
  font-size: 12px;
  color: #c9d2d4;
}
</style>
