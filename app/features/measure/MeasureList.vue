<script setup lang="ts">
import { mdiEyeOff, mdiEyeOutline } from '@mdi/js'
import { MEASURES } from '~~/core/measure/measures'
import { useMeasuring } from './measuring'
import { useSettings } from '~/editor/settings'

const measuring = useMeasuring()
const settings = useSettings()
</script>

<template>
  <section v-if="measuring.measures.length > 0" class="measures" aria-labelledby="measures-title">
    <h3 id="measures-title">
      Measures
      <IconButton
        :size="15"
        :icon="settings.kept.show.measures ? mdiEyeOutline : mdiEyeOff"
        :label="settings.kept.show.measures ? 'Hide all measures' : 'Show measures'"
        @click="settings.kept.show.measures = !settings.kept.show.measures"
      />
    </h3>
    <div
      v-for="measure in measuring.measures"
      :key="measure.id"
      class="row"
      @pointerenter="measuring.chosen = measure.id"
      @pointerleave="measuring.chosen = null"
    >
      <v-btn class="link" variant="plain" :title="`Look at ${measure.name}`" @click="measuring.lookAt(measure.id)">
        <PathIcon :path="MEASURES[measure.kind].icon" :size="14" />
        {{ measure.name }}
      </v-btn>
      <IconButton
        :size="15"
        :icon="measure.hidden ? mdiEyeOff : mdiEyeOutline"
        :label="`${measure.hidden ? 'Show' : 'Hide'} measure ${measure.name}`"
        @click="measuring.change(measure, { hidden: !measure.hidden }, measure.hidden ? 'Show' : 'Hide')"
      />
    </div>
  </section>
</template>

<style scoped>
.measures {
  flex: none;
  max-height: 24%;
  padding: 6px 10px 8px 12px;
  overflow: auto;
  border-top: 1px solid var(--line);
}

h3,
.row {
  display: flex;
  align-items: center;
  justify-content: space-between;
}

.row {
  height: 24px;
}

.row .link :deep(.v-btn__content) {
  gap: 5px;
}

.row .link {
  min-width: 0;
  overflow: hidden;
  font-size: var(--small);
}
</style>
