<script setup lang="ts">
import { mdiDownload } from '@mdi/js'
import { ref } from 'vue'
import { api, whatFailed } from '~/api/client'
import { saveFile } from '~/saving/save-file'
import { useLevel } from '~/stores/level'

const level = useLevel()
const preparing = ref(false)
const failed = ref('')
const instanced = ref(false)

/** The file is made by the server, so what waits here is sent first. */
async function handOver(): Promise<void> {
  failed.value = ''
  preparing.value = true
  try {
    await level.settled()
    if (level.saving.kind === 'away') failed.value = `${level.saving.reason} Your changes are kept; hand over when they are saved.`
    else if (level.summary) saveFile(await api.exportLevel(level.summary.id, instanced.value), `${level.summary.name}.glb`)
  }
  catch (error) {
    failed.value = whatFailed(error)
  }
  preparing.value = false
}
</script>

<template>
  <v-menu :close-on-content-click="false" location="bottom end">
    <template #activator="{ props }">
      <v-btn v-bind="props" color="action" variant="flat" size="small" rounded="lg" class="main">Hand over</v-btn>
    </template>
    <v-card width="300" class="sheet">
      <h2>Hand over</h2>
      <p class="quiet">A binary glTF 2.0 file: names, tree and materials, every part's mesh once.</p>
      <label class="tick"><input v-model="instanced" type="checkbox"> Copies as instances, without names <span class="quiet">(EXT_mesh_gpu_instancing)</span></label>
      <v-btn block color="action" variant="flat" :prepend-icon="mdiDownload" :loading="preparing" data-test="download-glb" @click="handOver">Download GLB</v-btn>
      <p v-if="failed" role="alert" class="error">{{ failed }}</p>
    </v-card>
  </v-menu>
</template>

<style scoped>
.sheet {
  padding: 14px;
  border: 1px solid var(--line);
}

.sheet h2 {
  font-size: 17px;
}

.sheet p {
  margin: 4px 0 12px;
  font-size: 13px;
}

.sheet .error {
  margin: 10px 0 0;
  color: rgb(var(--v-theme-error));
}

.main {
  height: 28px;
}
</style>
