<script setup lang="ts">
import { mdiCrosshairs } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import { pivotPlaceName, usePivotPlaces } from '~/composables/use-pivot-places'
import { useTools } from '~/stores/tools'
import { useBorrowing } from '~/stores/borrowing'

const tools = useTools()
const borrowing = useBorrowing()
const { current, instances, canGive } = usePivotPlaces()
/** Low, middle or high: the layer of the box that is shown, as seen from above with its front below. */
const layer = ref<-1 | 0 | 1>(-1)
watch(current, (place) => {
  if (place) layer.value = place[1]
}, { immediate: true })
const layers = [{ value: 1, name: 'high' }, { value: 0, name: 'middle' }, { value: -1, name: 'low' }] as const
const cells = computed(() => ([-1, 0, 1] as const).flatMap(z => ([-1, 0, 1] as const).map(x => [x, layer.value, z] as const)))
const isCurrent = (place: readonly number[]) => current.value?.every((value, i) => value === place[i]) ?? false
const name = computed(() => current.value ? pivotPlaceName(current.value) : 'custom')
</script>

<template>
  <v-menu :close-on-content-click="false" location="top end">
    <template #activator="{ props }">
      <v-btn v-bind="props" variant="text" :prepend-icon="mdiCrosshairs" aria-label="Pivot menu" :title="`Pivot: ${name}`"><span class="word">Pivot</span></v-btn>
    </template>
    <section class="sheet" aria-label="Pivot">
      <h3>Pivot <span class="quiet">{{ name }}</span></h3>
      <div class="both">
        <div class="cells">
          <v-btn v-for="place in cells" :key="place.join()" class="cell" :class="{ current: isCurrent(place) }" :aria-pressed="isCurrent(place)" :aria-label="`Pivot ${pivotPlaceName(place)}`" :title="pivotPlaceName(place)" @click="borrowing.setPivotPlace(place)" />
        </div>
        <Segments v-model="layer" :options="layers" label="Height of the pivot" :columns="1" />
      </div>
      <div class="line">
        <v-btn title="Drag the pivot on the stage (P)" @click="tools.togglePivotEditing()">Edit</v-btn>
        <v-btn :disabled="!canGive" :title="`Give this pivot to all ${instances} instances of the part in this level, and to new ones; nothing moves`" @click="borrowing.givePivotToPart()">For the part</v-btn>
      </div>
    </section>
  </v-menu>
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
  --v-btn-height: 27px;

  width: 27px;
  padding: 0;
  background: rgb(var(--v-theme-field));
}

.current.current {
  background: var(--picked);
  border-color: var(--picked);
}

@container ledger (max-width: 1050px) {
  .word { display: none; }
}
</style>
