<script setup lang="ts">
import { computed } from 'vue'
import type { PickFrame } from '~/editor/tools/gesture'

const props = defineProps<{ frame: PickFrame }>()
const box = computed(() => {
  const { a, b } = props.frame
  return {
    left: `${Math.min(a.x, b.x)}px`,
    top: `${Math.min(a.y, b.y)}px`,
    width: `${Math.abs(a.x - b.x)}px`,
    height: `${Math.abs(a.y - b.y)}px`,
  }
})
</script>

<template>
  <div class="frame" :class="frame.rule" :style="box" />
  <p
    class="count mono"
    :style="{ left: `${frame.b.x + 14}px`, top: `${frame.b.y + 10}px` }"
    role="status"
    data-test="frame-count"
  >
    {{ frame.count }} {{ frame.rule === 'touch' ? 'touched' : 'inside' }}
  </p>
</template>

<style scoped>
.frame {
  position: absolute;
  pointer-events: none;
  border: 1px solid var(--picked);
}

.touch {
  background: rgba(var(--v-theme-picked), 0.16);
}

.inside {
  border: 4px double var(--picked);
}

.count {
  position: absolute;
  padding: 2px 8px;
  border-radius: 5px;
  background: rgb(var(--v-theme-slate));
  color: rgb(var(--v-theme-on-slate));
  font-size: var(--small);
  pointer-events: none;
}
</style>
