<script setup lang="ts">
import { mdiChevronDown } from '@mdi/js'
import { ref } from 'vue'
import { api, whatFailed } from '~/api/client'
import { useLevel } from '~/editor/level'

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
  } catch (failure) {
    error.value = `${whatFailed(failure)} The name is as it was.`
  }
}
</script>

<template>
  <v-menu>
    <template #activator="{ props }">
      <v-btn v-bind="props" class="pill" variant="flat" :append-icon="mdiChevronDown">{{ level.summary?.name }}</v-btn>
    </template>
    <MenuList label="Level">
      <MenuItem title="Rename level" @click="startRenaming" />
      <MenuItem title="All levels" to="/" />
    </MenuList>
  </v-menu>
  <FormDialog v-model="renaming" title="Rename level" max-width="420">
    <v-text-field v-model="name" aria-label="Name" autofocus :error="Boolean(error)" @keydown.enter="rename" />
    <p v-if="error" role="alert" class="error">{{ error }}</p>
    <template #buttons>
      <v-btn @click="renaming = false">Cancel</v-btn>
      <v-btn color="action" variant="flat" @click="rename">Rename</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.pill.pill {
  --v-btn-height: 28px;

  max-width: 260px;
  border-radius: 14px;
  background: rgba(var(--v-theme-on-slate), 0.14);
  color: inherit;
}
</style>
