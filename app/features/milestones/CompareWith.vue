<script setup lang="ts">
import { useFileDialog } from '@vueuse/core'
import { computed } from 'vue'
import { api } from '~/api/client'
import { useLevel } from '~/editor/level'
import { whenInWords } from '~/ui/when-in-words'
import { useMilestones } from './milestones'

/** What the level is to be compared with. */
const here = useMilestones()
const level = useLevel()

const isNear = (id: string, variantOf: string | null) =>
  variantOf === level.summary?.id || id === level.summary?.variantOf
/** The level this one is a variant of, its variants, and then the others. */
const levels = computed(() =>
  here.levels.toSorted((a, b) => Number(isNear(b.id, b.variantOf)) - Number(isNear(a.id, a.variantOf))),
)
const relationOf = (id: string, variantOf: string | null) =>
  variantOf === level.summary?.id
    ? 'a variant of this level'
    : id === level.summary?.variantOf
      ? 'this began from it'
      : ''

/** Where this variant began, as a milestone of the level that it began from. */
const began = computed(() => level.summary?.beganAt ?? null)

const { open: chooseFile, onChange } = useFileDialog({ multiple: false, accept: '.handygrid,.glb', reset: true })
onChange(files => {
  const [file] = files ?? []
  if (file)
    void here.attempt(async () => {
      // It comes in by the door for all files, as a level beside this one.
      const { levelId, name } = await api.importFile(file, {})
      if (levelId !== null) here.compare({ what: 'level', id: levelId, name, base: null, reading: 'towards' })
    })
})
</script>

<template>
  <FormDialog
    page="going-back"
    v-model="here.isComparingOpen"
    title="Compare with"
    max-width="480"
    data-test="compare-with"
  >
    <p v-if="here.failed" role="alert" class="error">{{ here.failed }}</p>
    <v-list class="list" aria-label="What to compare with" role="menu">
      <MenuItem
        v-if="began !== null"
        title="Where this variant began"
        @click="here.compare({ what: 'milestone', id: began, name: 'where it began', base: null, reading: 'since' })"
      />
      <template v-if="here.all && here.all.length > 0">
        <v-list-subheader>Milestones of this level</v-list-subheader>
        <MenuItem
          v-for="milestone in here.all"
          :key="milestone.id"
          :title="milestone.name"
          :subtitle="`${milestone.by} · ${whenInWords(milestone.madeAt)}`"
          @click="here.compare(here.asOther(milestone))"
        />
      </template>
      <template v-if="levels.length > 0">
        <v-list-subheader>Levels</v-list-subheader>
        <MenuItem
          v-for="each in levels"
          :key="each.id"
          :title="each.name"
          :subtitle="relationOf(each.id, each.variantOf) || whenInWords(each.changedAt)"
          @click="here.compare(here.levelAsOther(each))"
        />
      </template>
    </v-list>
    <p v-if="levels.length === 0 && here.all?.length === 0 && !here.failed" class="quiet">
      There is nothing to compare with yet. Set a milestone (Ctrl S), and compare with it later.
    </p>
    <template #buttons>
      <v-btn :loading="here.isWorking" @click="chooseFile()">A file …</v-btn>
      <v-btn @click="here.isComparingOpen = false">Cancel</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.list {
  max-height: 55vh;
  overflow-y: auto;
}
</style>
