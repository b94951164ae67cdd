<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { pivotPlaceName, usePivotPlaces } from '~/composables/use-pivot-places'
import { useEditor } from '~/stores/editor'
import { useShaping } from '~/stores/shaping'

const editor = useEditor()
const shaping = useShaping()
const { current, instances, canGive } = usePivotPlaces()
/** Low, middle or high: the layer of the box that is shown, as seen from above with its front below. */
const layer = ref<-1 | 0 | 1>(-1)
watch(current, (place) => {
  if (place) layer.value = place[1]
}, { immediate: true })
const layers = [{ y: 1, name: 'high' }, { y: 0, name: 'middle' }, { y: -1, name: 'low' }] as const
const cells = computed(() => ([-1, 0, 1] as const).flatMap(z => ([-1, 0, 1] as const).map(x => [x, layer.value, z] as const)))
const isCurrent = (place: readonly number[]) => current.value?.every((value, i) => value === place[i]) ?? false
</script>

<template>
  <div class="pivot" role="group" aria-label="Pivot">
    <p class="title"><span>Pivot</span> <span class="quiet">{{ current ? pivotPlaceName(current) : 'custom' }}</span></p>
    <div class="both">
      <div class="cells">
        <button
          v-for="place in cells" :key="place.join()" type="button" class="cell" :class="{ current: isCurrent(place) }" :aria-pressed="isCurrent(place)"
          :aria-label="`Pivot ${pivotPlaceName(place)}`" :title="pivotPlaceName(place)" @click="shaping.setPivotPlace(place)"
        />
      </div>
      <div class="layers" role="group" aria-label="Height of the pivot">
        <button v-for="entry in layers" :key="entry.y" type="button" :aria-pressed="layer === entry.y" @click="layer = entry.y">{{ entry.name }}</button>
      </div>
    </div>
    <div class="line">
      <button type="button" class="small-button" title="Drag the pivot on the stage (P)" @click="editor.togglePivotEditing()">Edit</button>
      <button type="button" class="small-button" :disabled="!canGive" :title="`Give this pivot to all ${instances} instances of the part in this level, and to new ones; nothing moves`" @click="shaping.givePivotToPart()">For the part</button>
    </div>
  </div>
</template>

<style scoped>
.pivot {
  flex: none;
  width: 136px;
  font-size: 12px;
}

.title {
  margin-bottom: 3px;
}

.both {
  display: flex;
  gap: 8px;
  margin-bottom: 5px;
}

.cells {
  display: grid;
  grid-template-columns: repeat(3, 20px);
  gap: 3px;
}

.cell {
  width: 20px;
  height: 20px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: rgb(var(--v-theme-field));
}

.cell:hover {
  border-color: var(--petrol);
}

.current {
  background: var(--picked);
  border-color: var(--picked);
}

.layers {
  display: flex;
  flex-direction: column;
  gap: 3px;
}

.layers button {
  height: 20px;
  padding: 0 7px;
  border-radius: 4px;
  font-size: 11.5px;
  text-align: left;
}

.layers [aria-pressed='true'] {
  background: rgba(var(--v-theme-primary), 0.14);
  font-weight: 600;
}

.line {
  gap: 5px;
}

.small-button {
  height: 23px;
  padding: 0 7px;
}
</style>
