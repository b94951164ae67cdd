<script setup lang="ts">
import { mdiChevronDown } from '@mdi/js'
import { ref } from 'vue'
import { api, whatFailed } from '~/api/client'
import { useLevel } from '~/stores/level'

const level = useLevel()
const renaming = ref(false)
const name = ref('')
const error = ref('')

function startRenaming(): void {
  name.value = level.summary?.name ?? ''
  error.value = ''
  renaming.value = true
}

async function rename(): Promise<void> {
  if (!level.summary) return
  try {
    level.summary = await api.patchLevel(level.summary.id, { name: name.value })
    renaming.value = false
  }
  catch (failure) {
    error.value = `${whatFailed(failure)} The name is as it was.`
  }
}
</script>

<template>
  <v-menu>
    <template #activator="{ props }">
      <v-btn v-bind="props" class="pill" variant="flat" size="small" rounded="lg" :append-icon="mdiChevronDown">{{ level.summary?.name }}</v-btn>
    </template>
    <v-list density="compact">
      <v-list-item title="Rename level" @click="startRenaming" />
      <v-list-item title="All levels" to="/" />
    </v-list>
  </v-menu>
  <v-dialog v-model="renaming" max-width="420">
    <v-card title="Rename level">
      <v-card-text>
        <v-text-field v-model="name" label="Name" autofocus variant="outlined" density="comfortable" :error-messages="error" @keydown.enter="rename" />
      </v-card-text>
      <v-card-actions>
        <v-btn variant="text" @click="renaming = false">Cancel</v-btn>
        <v-btn color="action" variant="flat" @click="rename">Rename</v-btn>
      </v-card-actions>
    </v-card>
  </v-dialog>
</template>

<style scoped>
.pill {
  background: rgb(255 255 255 / 14%);
  color: inherit;
}
</style>
