<script setup lang="ts">
import { computed } from 'vue'
import { putValue, threeFields } from '~~/core/units/field'
import { useDuplicating } from './duplicating'
import { useEdits } from '~/editor/edits'
import { useLevel } from '~/editor/level'
import { differing } from '~/editor/presets/differing'
import { useSettings } from '~/editor/settings'
import { readSettings } from '~/editor/settings-schema'

const settings = useSettings()
const level = useLevel()
const duplicating = useDuplicating()
const edits = useEdits()
const choices = [
  { value: 'instance', says: 'It follows its part or block' },
  { value: 'copy', says: 'It has numbers of its own' },
  { value: 'baked', says: 'It is fixed as it stands' },
] as const
const kept = computed(() => settings.kept.duplicate)
const count = computed(() => level.selection.ids.size)
const shown = computed(() => duplicating.instancesPicked())

const BY = threeFields('Move it along', 'by', 'length').map((field, axis) => ({
  ...field,
  named: `Duplicate along ${'XYZ'[axis]}`,
}))

/** What was kept is as settings read it; what makes no sense of it would be another. */
const read = (values: object) => readSettings({ duplicate: values }).duplicate
const check = (values: object) =>
  differing(read(values), values).length === 0 ? null : 'something in it makes no sense.'
const apply = (values: object) => (settings.kept.duplicate = read(values))
</script>

<template>
  <div class="form">
    <p class="quiet hint">
      Duplicates {{ edits.nameOfPicked() ?? 'what is picked' }} where it is, or a way off; then the same step as often
      as wanted. Alt at the start of a drag leaves one behind as chosen here.
    </p>
    <PresetBar form="duplicate" :values="kept" :check="check" @apply="apply" />
    <Sentences v-model="kept.as" :options="choices" label="What a duplicate is" />
    <FieldRows :fields="BY" :of="kept" @set="(field, value) => (kept.by = putValue(kept, field.path, value).by)" />
    <Tick v-model="kept.stays" label="Stays kept to what the first is kept to" />
    <v-btn class="main" color="action" variant="flat" :disabled="count === 0" @click="duplicating.duplicatePicked()">
      Duplicate
    </v-btn>
    <v-btn :disabled="!duplicating.canRepeat()" title="Ctrl+Shift+D" @click="duplicating.duplicateAgain()">
      Again, the same step on
    </v-btn>
    <p v-if="count === 0" class="quiet hint">Pick something first.</p>
    <template v-else-if="shown.length > 0">
      <h3>Who shares what</h3>
      <div v-for="entry in shown" :key="entry.shape" class="line" data-test="instances">
        <span>{{ entry.name }}: {{ entry.picked }} of {{ entry.all }}</span>
        <v-btn class="link" variant="plain" @click="duplicating.pickInstancesOf(entry.shape)">Pick all</v-btn>
      </div>
      <div class="line">
        <v-btn title="A part or block of its own that nobody shares" @click="duplicating.makeIndependent()">
          {{ duplicating.copiesPicked() ? 'Release and make independent' : 'Make independent' }}
        </v-btn>
        <v-btn title="Shows what you touch next, where it is" @click="void duplicating.makeInstanceOf()">
          Instance of …
        </v-btn>
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
