<script setup lang="ts">
import { useShaping } from '~/stores/shaping'

const shaping = useShaping()
</script>

<template>
  <div class="actions" role="group" aria-label="Transform">
    <button type="button" class="small-button" title="Copy position, turn and size (Ctrl+Shift+C)" @click="shaping.copyTransform()">Copy</button>
    <button type="button" class="small-button" :disabled="!shaping.copied" :title="shaping.copied ? `Paste the transform of ${shaping.copied.from} (Ctrl+Shift+V)` : 'Nothing copied yet'" @click="shaping.pasteTransform()">Paste</button>
    <button type="button" class="small-button" @click="shaping.bakeQuestion = { what: 'reset-turn' }">Reset turn</button>
    <button type="button" class="small-button" @click="shaping.bakeQuestion = { what: 'reset-size' }">Reset size</button>
    <button type="button" class="small-button" title="Fold size or turn into the shape" @click="shaping.bakeQuestion = { what: 'both' }">Bake …</button>
    <button type="button" class="small-button" title="Onto what is below (G)" @click="shaping.setDownPicked()">Set down</button>
  </div>
</template>

<style scoped>
.actions {
  display: grid;
  grid-template-columns: 1fr 1fr;
  align-content: start;
  gap: 5px;
  flex: none;
  width: 148px;
}

.small-button {
  padding: 0 4px;
}
</style>
