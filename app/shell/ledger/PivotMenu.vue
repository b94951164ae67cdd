<script setup lang="ts">
import { mdiCrosshairs } from '@mdi/js'
import { computed } from 'vue'
import { pivotPlaceName, usePivotPlaces } from '~/ui/use-pivot-places'
import { useTools } from '~/editor/tools'
import { useBorrowing } from '~/features/transform/borrowing'
import { useKeys } from '~/editor/keys/keys'

const keys = useKeys()

const tools = useTools()
const borrowing = useBorrowing()
const { current, instances, canGive } = usePivotPlaces()
const name = computed(() => (current.value ? pivotPlaceName(current.value) : 'custom'))
</script>

<template>
  <v-menu :close-on-content-click="false" location="top end">
    <template #activator="{ props }">
      <v-btn
        v-bind="props"
        variant="text"
        :prepend-icon="mdiCrosshairs"
        aria-label="Pivot menu"
        :title="`Pivot: ${name}`"
      >
        <span class="word">Pivot</span>
      </v-btn>
    </template>
    <section class="sheet" aria-label="Pivot">
      <h3>
        Pivot
        <span class="quiet">{{ name }}</span>
      </h3>
      <PivotPlaces :current="current" @pick="borrowing.setPivotPlace" />
      <div class="line">
        <v-btn :title="keys.said('Drag the pivot on the stage ({Edit the pivot})')" @click="tools.togglePivotEditing()">
          Edit
        </v-btn>
        <v-btn
          :disabled="!canGive"
          :title="`Give this pivot to all ${instances} instances of the part in this level, and to new ones; nothing moves`"
          @click="borrowing.givePivotToPart()"
        >
          For the part
        </v-btn>
      </div>
    </section>
  </v-menu>
</template>

<style scoped>
@container ledger (max-width: 80.8em) {
  .word {
    display: none;
  }
}
</style>
