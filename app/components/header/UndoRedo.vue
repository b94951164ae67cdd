<script setup lang="ts">
import { mdiRedoVariant, mdiUndoVariant } from '@mdi/js'
import { useLevel } from '~/stores/level'

const level = useLevel()
</script>

<template>
  <span>
    <v-btn :icon="mdiUndoVariant" size="x-small" variant="text" aria-label="Undo" :title="`Undo ${level.undoSteps.at(-1)?.label ?? ''}`" :disabled="level.undoSteps.length === 0" @click="level.undo()" />
    <v-btn :icon="mdiRedoVariant" size="x-small" variant="text" aria-label="Redo" :title="`Redo ${level.redoSteps.at(-1)?.label ?? ''}`" :disabled="level.redoSteps.length === 0" @click="level.redo()" />
    <LevelHistory />
  </span>
</template>
