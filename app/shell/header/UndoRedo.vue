<script setup lang="ts">
import { mdiRedoVariant, mdiUndoVariant } from '@mdi/js'
import { useLevel } from '~/editor/level'
import { useModes } from '~/editor/modes'
import LevelHistory from './LevelHistory.vue'
import StepQuestion from './StepQuestion.vue'

const level = useLevel()
const modes = useModes()
</script>

<template>
  <span class="steps">
    <IconButton
      :icon="mdiUndoVariant"
      label="Undo"
      does="Undo"
      :title="modes.undoable ?? undefined"
      :disabled="modes.undoable === null"
      @click="modes.undo()"
    />
    <IconButton
      :icon="mdiRedoVariant"
      label="Redo"
      does="Redo"
      :title="level.redoSteps.at(-1)?.label"
      :disabled="level.redoSteps.length === 0"
      @click="level.redo()"
    />
    <LevelHistory />
    <StepQuestion />
  </span>
</template>

<style scoped>
.steps {
  display: flex;
}
</style>
