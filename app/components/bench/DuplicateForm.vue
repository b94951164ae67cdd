<script setup lang="ts">
import { computed } from 'vue'
import { useDuplicating } from '~/stores/duplicating'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'

const settings = useSettings()
const level = useLevel()
const duplicating = useDuplicating()
const choices = [{ value: 'instance', name: 'Instance' }, { value: 'copy', name: 'Copy' }, { value: 'baked', name: 'Baked copy' }] as const
const ABOUT = {
  instance: 'Shares its part or block: what is changed there changes both.',
  copy: 'Has block numbers of its own; parts of the kit are shared.',
  baked: 'Plain geometry of its own, with turn and size folded in.',
}
const kept = computed(() => settings.kept.duplicate)
const count = computed(() => level.selection.ids.size)
const shown = computed(() => duplicating.instancesPicked())

function setBy(axis: 0 | 1 | 2, value: number): void {
  kept.value.by = kept.value.by.with(axis, value) as [number, number, number]
}
</script>

<template>
  <div class="form">
  <p class="quiet hint">Duplicates what is picked where it is, or a way off; then the same step as often as wanted. Alt at the start of a drag leaves one behind as chosen here.</p>
  <Segments v-model="kept.as" :options="choices" label="Duplicate as" />
  <p class="quiet hint">{{ ABOUT[kept.as] }}</p>
  <FormLine v-for="axis in [0, 1, 2] as const" :key="axis" :label="`Move it along ${'XYZ'[axis]}`">
    <QuantityField
      :label="`Duplicate along ${'XYZ'[axis]}`" quantity="length" :axis="axis" :unit="settings.kept.unit" :decimals="settings.decimals" :suffix="settings.suffix"
      :value="kept.by[axis]" operators="+*/" @commit="setBy(axis, $event)"
    />
  </FormLine>
  <v-btn class="main" color="action" variant="flat" :disabled="count === 0" @click="duplicating.duplicatePicked()">Duplicate</v-btn>
  <v-btn :disabled="!duplicating.canRepeat()" title="Ctrl+Shift+D" @click="duplicating.duplicateAgain()">Again, the same step on</v-btn>
  <p v-if="count === 0" class="quiet hint">Pick something first.</p>
  <template v-else-if="shown.length > 0">
    <h3>Who shares what</h3>
    <div v-for="entry in shown" :key="entry.shape" class="line" data-test="instances">
      <span>{{ entry.name }}: {{ entry.picked }} of {{ entry.all }}</span>
      <v-btn class="link" variant="plain" @click="duplicating.pickInstancesOf(entry.shape)">Pick all</v-btn>
    </div>
    <div class="line">
      <v-btn title="A part or block of its own that nobody shares" @click="duplicating.makeIndependent()">Make independent</v-btn>
      <v-btn title="Shows what you touch next, where it is" @click="duplicating.makeInstanceOf()">Instance of …</v-btn>
    </div>
  </template>
  </div>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
</style>
