<script setup lang="ts">
import { mdiRedoVariant, mdiUndoVariant } from '@mdi/js'
import { computed } from 'vue'
import { useEditor } from '~/stores/editor'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'

const editor = useEditor()
const level = useLevel()
const settings = useSettings()
/** The pointer's place on the level, or where the view looks while it is elsewhere. */
const place = computed(() => editor.pointer ?? editor.stats?.target ?? [0, 0, 0])
const checkStep = (value: number) => value > 0 ? null : 'A step has to be more than 0.'
</script>

<template>
  <div class="rail" role="toolbar" aria-label="Rail">
    <v-btn :icon="mdiUndoVariant" size="x-small" variant="text" aria-label="Undo" :title="`Undo ${level.undoSteps.at(-1)?.label ?? ''}`" :disabled="level.undoSteps.length === 0" @click="level.undo()" />
    <v-btn :icon="mdiRedoVariant" size="x-small" variant="text" aria-label="Redo" :title="`Redo ${level.redoSteps.at(-1)?.label ?? ''}`" :disabled="level.redoSteps.length === 0" @click="level.redo()" />
    <span class="part">
      <button type="button" class="switch" :aria-pressed="settings.kept.gridOn" title="Snap to the grid; hold Ctrl for the opposite" @click="settings.kept.gridOn = !settings.kept.gridOn">Grid</button>
      <QuantityField
        class="step" label="Grid step" quantity="length" :unit="settings.kept.unit" :decimals="settings.decimals" :suffix="settings.kept.unit"
        :value="settings.kept.gridStep" :check="checkStep" @commit="settings.kept.gridStep = $event"
      />
    </span>
    <span class="part">
      <span>Turn step</span>
      <QuantityField
        class="step narrow-step" label="Turn step" quantity="angle" :decimals="1" suffix="°"
        :value="settings.kept.turnStep" :check="checkStep" @commit="settings.kept.turnStep = $event"
      />
    </span>
    <label class="part">
      <span>Units</span>
      <select v-model="settings.kept.unit" class="mono">
        <option v-for="unit in settings.units" :key="unit">{{ unit }}</option>
      </select>
    </label>
    <span class="gap" />
    <span class="place" role="group" aria-label="Position" title="Where the pointer is. Type a number to look there, or +30 to shift the view by 30" data-test="pointer-position">
      <QuantityField
        v-for="axis in [0, 1, 2] as const" :key="axis" class="spot" :label="`Go to ${'XYZ'[axis]}`" :axis="axis" quantity="length" :unit="settings.kept.unit"
        :decimals="settings.decimals" :value="place[axis]!" relative @commit="(value, by) => editor.goTo(axis, value, by)"
      />
    </span>
  </div>
</template>

<style scoped>
.rail {
  display: flex;
  align-items: center;
  gap: 6px;
  flex: none;
  height: 36px;
  padding: 0 12px 0 8px;
  background: rgb(var(--v-theme-rail));
  border-top: 1px solid var(--line);
  font-size: 13px;
}

.part {
  display: flex;
  align-items: center;
  gap: 6px;
  margin-left: 8px;
}

.switch {
  height: 24px;
  padding: 0 11px;
  border: 1px solid var(--line);
  border-radius: 12px;
  background: rgb(var(--v-theme-surface));
  font-weight: 600;
}

.switch[aria-pressed='true'] {
  background: var(--petrol);
  border-color: var(--petrol);
  color: rgb(var(--v-theme-on-primary));
}

.step {
  width: 96px;
  height: 24px;
}

.narrow-step {
  width: 72px;
}

select {
  height: 24px;
  padding: 0 6px;
  background: rgb(var(--v-theme-field));
  color: var(--ink);
  border: 1px solid var(--line);
  border-radius: 5px;
}

.gap {
  flex: 1;
}

.place {
  display: flex;
  gap: 4px;
}

.spot {
  width: 84px;
  height: 24px;
}
</style>
