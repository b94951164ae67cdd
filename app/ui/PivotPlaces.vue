<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { pivotPlaceName } from './use-pivot-places'

/** The 27 places of a box, a layer of nine at a time, as seen from above with its front below. */
type Place = readonly [-1 | 0 | 1, -1 | 0 | 1, -1 | 0 | 1]
const props = defineProps<{ /** Null while it is none of them. */ current: Place | null }>()
const emit = defineEmits<{ pick: [place: Place] }>()
/** Low, middle or high. */
const layer = ref<-1 | 0 | 1>(-1)
watch(
  () => props.current,
  place => {
    if (place) layer.value = place[1]
  },
  { immediate: true },
)
const layers = [
  { value: 1, name: 'high' },
  { value: 0, name: 'middle' },
  { value: -1, name: 'low' },
] as const
const cells = computed(() =>
  ([-1, 0, 1] as const).flatMap(z => ([-1, 0, 1] as const).map(x => [x, layer.value, z] as const)),
)
const isCurrent = (place: readonly number[]) => props.current?.every((value, i) => value === place[i]) ?? false
</script>

<template>
  <div class="both">
    <div class="cells">
      <v-btn
        v-for="place in cells"
        :key="place.join()"
        class="cell"
        :class="{ current: isCurrent(place) }"
        :aria-pressed="isCurrent(place)"
        :aria-label="`Pivot ${pivotPlaceName(place)}`"
        :title="pivotPlaceName(place)"
        @click="emit('pick', place)"
      />
    </div>
    <Segments v-model="layer" :options="layers" label="Height of the pivot" :columns="1" />
  </div>
</template>

<style scoped>
.both {
  display: flex;
  gap: 10px;
}

.cells {
  display: grid;
  grid-template-columns: repeat(3, 27px);
  gap: 3px;
}

.cell.cell {
  --v-btn-height: max(calc(27px * var(--scale)), var(--target));

  width: 27px;
  padding: 0;
  background: rgb(var(--v-theme-field));
}

.current.current {
  background: var(--picked);
  border-color: var(--picked);
}
</style>
