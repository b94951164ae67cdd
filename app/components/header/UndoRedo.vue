<script setup lang="ts">
import { mdiRedoVariant, mdiUndoVariant } from '@mdi/js'
import { useLevel } from '~/stores/level'

const level = useLevel()
</script>

<template>
  <span class="steps">
    <IconButton :icon="mdiUndoVariant" label="Undo" keys="Ctrl+Z" :title="level.undoSteps.at(-1)?.label" :disabled="level.undoSteps.length === 0" @click="level.undo()" />
    <IconButton :icon="mdiRedoVariant" label="Redo" keys="Ctrl+Shift+Z" :title="level.redoSteps.at(-1)?.label" :disabled="level.redoSteps.length === 0" @click="level.redo()" />
    <LevelHistory />
  </span>
</template>

<style scoped>
.steps {
  display: flex;
}
</style>
