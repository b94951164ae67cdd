<script setup lang="ts">
import { useElementSize, useParentElement } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { fixtureBoxes } from './fixture-boxes'
import type { ScreenBox } from '~/stage/label-place'
import { placeLabel } from '~/stage/label-place'
import type { Readout } from '~/editor/tools/gesture'
import { useKeys } from '~/editor/keys/keys'

const keys = useKeys()

const props = defineProps<{ readout: Readout }>()
const label = ref<HTMLElement>()
const stage = useParentElement()
const room = useElementSize(stage)
const size = useElementSize(label, undefined, { box: 'border-box' })
const fixtures = shallowRef<ScreenBox[]>([])
onMounted(() => {
  fixtures.value = fixtureBoxes(stage.value!)
})
/** On the freer side of the pointer, over nothing that matters. */
const place = computed(() => {
  const { x, y } = placeLabel(
    props.readout.at,
    { width: size.width.value, height: size.height.value },
    { width: room.width.value, height: room.height.value },
    [...(props.readout.avoid ?? []), ...fixtures.value],
  )
  return { left: `${x}px`, top: `${y}px` }
})
</script>

<template>
  <div ref="label" class="readout" :style="place" role="status" data-test="readout">
    <p>
      <strong>{{ readout.title }}</strong>
      {{ ' ' }}
      <span class="mono value">{{ readout.value }}</span>
    </p>
    <p v-for="note in readout.notes" :key="note" class="note">{{ keys.said(note) }}</p>
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
  background: rgb(var(--v-theme-slate));
  color: rgb(var(--v-theme-on-slate));
  font-size: var(--body);
  pointer-events: none;
}

.readout p {
  margin: 0;
}

.value {
  margin-left: 6px;
  color: rgb(var(--v-theme-action));
}

.note {
  font-size: var(--small);
  color: rgb(var(--v-theme-quiet-on-slate));
}
</style>
