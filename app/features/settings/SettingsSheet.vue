<script setup lang="ts">
import { mdiMagnify, mdiRestore } from '@mdi/js'
import { useFileDialog } from '@vueuse/core'
import type { Field } from '~~/core/units/field'
import { initialsSchema } from '~~/core/api/people'
import { nameSchema } from '~~/core/level/fields'
import { firstIssue } from '~~/core/units/issue'
import { useCommands } from '~/editor/commands'
import { saveFile } from '~/editor/saving/save-file'
import { useSettings } from '~/editor/settings'
import { useSetting } from './setting'
import { useWithPerson } from './with-person'
import type { Section, SettingRow } from './sections'
import { SETTINGS_FILE } from './settings-file'

/** All settings on one page: looked for, set, put back, and taken along. */
const setting = useSetting()
const settings = useSettings()
const commands = useCommands()
const withPerson = useWithPerson()

const { open: chooseFile, onChange } = useFileDialog({ multiple: false, accept: '.json', reset: true })
onChange(files => {
  const file = files?.[0]
  if (file) void setting.takeFile(file)
})
const save = () => saveFile(new Blob([setting.asFile()], { type: 'application/json' }), SETTINGS_FILE)

/** What can be chosen of favourites is what is one: they come from menus. */
const fieldOf = ({ field }: SettingRow): Field =>
  field.type === 'several' ? { ...field, options: settings.kept.favouriteActions } : field

const check = (field: Field, value: unknown) => {
  if (field.type !== 'text') return null
  const [read, what] =
    field.path[0] === 'initials' ? [initialsSchema.safeParse(value), 'They'] : [nameSchema.safeParse(value), 'A name']
  return read.success ? null : `${what} ${firstIssue(read.error).message}.`
}

function more({ opens }: Section): void {
  setting.isOpen = false
  commands.find(opens!.name)!.run()
}
</script>

<template>
  <FormDialog v-model="setting.isOpen" title="Settings" page="making-it-yours" max-width="620" data-test="settings">
    <v-text-field
      v-model="setting.text"
      :prepend-inner-icon="mdiMagnify"
      placeholder="What to set"
      aria-label="Look for a setting"
      autofocus
      clearable
      @update:model-value="setting.text = $event ?? ''"
    />
    <p v-if="setting.failed" role="alert" class="error">{{ setting.failed }}</p>
    <p v-if="setting.told" role="status">{{ setting.told }}</p>
    <p class="quiet hint" :class="{ error: withPerson.failed }" data-test="kept-with">{{ withPerson.says }}</p>
    <div class="sections">
      <section v-for="section in setting.sections" :key="section.name" :aria-label="section.name">
        <div class="head">
          <h3>{{ section.name }}</h3>
          <IconButton
            :icon="mdiRestore"
            :size="15"
            :label="`${section.name}: as it was at first`"
            @click="setting.back(section)"
          />
        </div>
        <div v-for="row in section.rows" :key="row.field.label" class="row" :data-setting="row.field.label">
          <FieldRows
            :fields="[fieldOf(row)]"
            :of="setting.values"
            :check="check"
            @set="(field, value) => setting.set(field.path, value)"
          />
          <p class="quiet hint">{{ row.says }}</p>
        </div>
        <div v-if="section.opens && commands.find(section.opens.name)" class="row">
          <v-btn @click="more(section)">{{ section.opens.name }}</v-btn>
          <p class="quiet hint">{{ section.opens.says }}</p>
        </div>
      </section>
      <p v-if="setting.sections.length === 0" class="quiet">Nothing that can be set is called that.</p>
    </div>
    <template #buttons>
      <v-btn @click="setting.back()">All as it was at first</v-btn>
      <v-btn @click="chooseFile()">From a file …</v-btn>
      <v-btn @click="save">As a file</v-btn>
      <v-btn color="action" variant="flat" @click="setting.isOpen = false">Done</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.sections {
  height: 60vh;
  padding-right: 8px;
  overflow-y: auto;
  scrollbar-width: thin;
}

.head {
  display: flex;
  align-items: center;
  justify-content: space-between;
  margin-top: 10px;
  border-bottom: 1px solid var(--line);
}

.row {
  padding: 6px 0 2px;
}

.row :deep(.line > :is(.choice, .text-box)) {
  width: calc(220px * var(--scale));
}
</style>
