<script setup lang="ts">
import { computed } from 'vue'
import { printCounts } from './print-report'
import type { Whereto } from './receiving'
import { useReceiving } from './receiving'
import TableMapping from './TableMapping.vue'

/** What a file is and what would happen, before it does: a level, or a table of placements. */
const receiving = useReceiving()
const NAMES = { glb: 'A glTF file, taken as a level', level: 'A level file', table: 'A table of things' }
const wheres = computed(() => [{ value: 'new' as Whereto, name: 'A new level' }, { value: 'here' as Whereto, name: 'Into this level' }])
const counts = computed(() => Object.fromEntries(Object.entries(receiving.dry?.counts ?? {}).filter(([, count]) => count > 0)))

async function bring(): Promise<void> {
  const id = await receiving.bring()
  if (id !== null) await navigateTo(`/levels/${id}`)
}
</script>

<template>
  <FormDialog :model-value="receiving.isOpen" :title="`Bring in ${receiving.file?.name ?? ''}`" :max-width="receiving.table ? 1000 : 520" @update:model-value="receiving.close()">
    <p v-if="receiving.dry" data-test="receive-what"><strong>{{ NAMES[receiving.dry.format] }}</strong>: {{ printCounts(counts) }}</p>
    <p v-else-if="receiving.isWorking" role="status" class="quiet">Being looked at …</p>
    <FormLine v-if="receiving.hasLevel" label="As"><Segments :model-value="receiving.where" :options="wheres" label="Where it goes" @update:model-value="receiving.choose($event)" /></FormLine>
    <TableMapping v-if="receiving.table && receiving.mapping" />
    <div v-if="receiving.dry && (receiving.dry.notes.length > 0 || receiving.dry.errorCount > 0)" class="told" data-test="receive-told">
      <p v-for="(error, i) in receiving.dry.errors" :key="i" class="error">Line {{ error.line }}<template v-if="error.column">, column {{ error.column }} ({{ error.heading }})</template>: {{ error.message }}</p>
      <p v-if="receiving.dry.errorCount > receiving.dry.errors.length" class="error">and {{ (receiving.dry.errorCount - receiving.dry.errors.length).toLocaleString('en') }} more</p>
      <p v-for="note in receiving.dry.notes" :key="note">{{ note }}</p>
    </div>
    <p v-if="receiving.failed" role="alert" class="error" data-test="receive-failed">{{ receiving.failed }}</p>
    <template #buttons>
      <v-btn @click="receiving.close()">Cancel</v-btn>
      <v-btn color="action" variant="flat" :disabled="!receiving.canBring" :loading="receiving.isWorking" data-test="receive" @click="bring">Bring in</v-btn>
    </template>
  </FormDialog>
</template>
