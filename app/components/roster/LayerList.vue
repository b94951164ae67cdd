<script setup lang="ts">
import { mdiClose, mdiEyeOff, mdiEyeOutline, mdiLock, mdiLockOpenVariantOutline, mdiPlus, mdiTrayArrowDown } from '@mdi/js'
import { computed } from 'vue'
import { nameSchema } from '~~/core/level/schema'
import { useEdits } from '~/stores/edits'
import { useLevel } from '~/stores/level'

const level = useLevel()
const edits = useEdits()
const layers = computed(() => {
  void level.version
  return [...level.document.layers.values()].sort((a, b) => a.order - b.order)
})

function rename(id: string, event: Event): void {
  const input = event.target as HTMLInputElement
  const name = input.value.trim()
  if (nameSchema.safeParse(name).success) edits.changeLayer(id, { name })
  else input.value = level.document.layers.get(id)!.name
}
</script>

<template>
  <section class="layers" aria-labelledby="layers-title">
    <h2 id="layers-title">Layers <button type="button" aria-label="Add a layer" @click="edits.addLayer()"><PathIcon :path="mdiPlus" :size="17" /></button></h2>
    <div v-for="layer in layers" :key="layer.id" class="row">
      <input type="color" :value="layer.color" :aria-label="`Colour of ${layer.name}`" @change="edits.changeLayer(layer.id, { color: ($event.target as HTMLInputElement).value })">
      <input class="name" :value="layer.name" :aria-label="`Name of ${layer.name}`" @change="rename(layer.id, $event)" @keydown.enter="($event.target as HTMLInputElement).blur()">
      <button type="button" :disabled="level.selection.ids.size === 0" :aria-label="`Put what is picked on ${layer.name}`" title="Put what is picked here" @click="edits.putOnLayer(layer.id)"><PathIcon :path="mdiTrayArrowDown" :size="15" /></button>
      <button type="button" :aria-label="`${layer.visible ? 'Hide' : 'Show'} layer ${layer.name}`" @click="edits.changeLayer(layer.id, { visible: !layer.visible })"><PathIcon :path="layer.visible ? mdiEyeOutline : mdiEyeOff" :size="15" /></button>
      <button type="button" :aria-label="`${layer.locked ? 'Unlock' : 'Lock'} layer ${layer.name}`" @click="edits.changeLayer(layer.id, { locked: !layer.locked })"><PathIcon :path="layer.locked ? mdiLock : mdiLockOpenVariantOutline" :size="15" /></button>
      <button type="button" :aria-label="`Remove layer ${layer.name}`" @click="edits.removeLayer(layer.id)"><PathIcon :path="mdiClose" :size="15" /></button>
    </div>
    <p v-if="layers.length === 0" class="quiet">None yet.</p>
  </section>
</template>

<style scoped>
.layers {
  flex: none;
  max-height: 34%;
  padding: 6px 10px 8px 12px;
  overflow: auto;
  border-top: 1px solid var(--line);
  font-size: 13px;
}

h2 {
  display: flex;
  justify-content: space-between;
  font-size: 15px;
}

.row {
  display: flex;
  align-items: center;
  gap: 4px;
  height: 25px;
}

input[type='color'] {
  flex: none;
  width: 14px;
  height: 14px;
  padding: 0;
}

input[type='color']::-webkit-color-swatch-wrapper {
  padding: 0;
}

.name {
  flex: 1;
  min-width: 0;
  padding: 0 3px;
}

button:disabled {
  opacity: 0.35;
}
</style>
