<script setup lang="ts">
import { computed } from 'vue'
import { printCounts } from '~/ui/print-report'
import type { Whereto } from './file-import'
import { useFileImport } from './file-import'
import TableMapping from './TableMapping.vue'

/** What a file is and what would happen, before it does: a level, or a table of placements. */
const fileImport = useFileImport()
const NAMES = { glb: 'A glTF file, taken as a level', level: 'A level file', table: 'A table of things' }
const wheres = computed(() => [
  { value: 'new' as Whereto, name: 'A new level' },
  { value: 'here' as Whereto, name: 'Into this level' },
])
const counts = computed(() =>
  Object.fromEntries(Object.entries(fileImport.dry?.counts ?? {}).filter(([, count]) => count > 0)),
)

async function bring(): Promise<void> {
  const id = await fileImport.bring()
  if (id !== null) await navigateTo(`/levels/${id}`)
}
</script>

<template>
  <FormDialog
    page="handing-over"
    :model-value="fileImport.isOpen"
    :title="`Bring in ${fileImport.file?.name ?? ''}`"
    :max-width="fileImport.table ? 1000 : 520"
    @update:model-value="fileImport.close()"
  >
    <p v-if="fileImport.dry" data-test="receive-what">
      <strong>{{ NAMES[fileImport.dry.format] }}:</strong>
      {{ printCounts(counts) }}
    </p>
    <p v-else-if="fileImport.isWorking" role="status" class="quiet">Being looked at</p>
    <FormLine v-if="fileImport.hasLevel" label="As">
      <Segments
        :model-value="fileImport.where"
        :options="wheres"
        label="Where it goes"
        @update:model-value="fileImport.choose($event)"
      />
    </FormLine>
    <TableMapping v-if="fileImport.table && fileImport.mapping" />
    <div
      v-if="fileImport.dry && (fileImport.dry.notes.length > 0 || fileImport.dry.errorCount > 0)"
      class="told"
      data-test="receive-told"
    >
      <p v-for="(error, i) in fileImport.dry.errors" :key="i" class="error">
        Line {{ error.line }}{{ error.column ? `, column ${error.column} (${error.heading})` : '' }}:
        {{ error.message }}
      </p>
      <p v-if="fileImport.dry.errorCount > fileImport.dry.errors.length" class="error">
        and {{ (fileImport.dry.errorCount - fileImport.dry.errors.length).toLocaleString('en') }} more
      </p>
      <p v-for="note in fileImport.dry.notes" :key="note">{{ note }}</p>
    </div>
    <ProgressLine
      v-if="fileImport.progress.isGoing"
      :share="fileImport.progress.share"
      :seconds-left="fileImport.progress.secondsLeft"
      before="The file is read"
      label="How far it is"
    />
    <p v-if="fileImport.failed" role="alert" class="error" data-test="receive-failed">{{ fileImport.failed }}</p>
    <template #buttons>
      <v-btn @click="fileImport.close()">Cancel</v-btn>
      <v-btn
        color="action"
        variant="flat"
        :disabled="!fileImport.canBring"
        :loading="fileImport.isWorking"
        data-test="receive"
        @click="bring"
      >
        Bring in
      </v-btn>
    </template>
  </FormDialog>
</template>
