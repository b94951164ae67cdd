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
      <v-btn v-bind="props" color="action" variant="flat">Hand over</v-btn>
    </template>
    <section class="sheet" :style="{ width: '310px' }" aria-label="Hand over">
      <h2>Hand over</h2>
      <p class="quiet">A binary glTF 2.0 file: names, tree and materials, every part's mesh once.</p>
      <Tick v-model="instanced" label="Copies as instances, without names (EXT_mesh_gpu_instancing)" />
      <v-btn class="main" block color="action" variant="flat" :prepend-icon="mdiDownload" :loading="preparing" data-test="download-glb" @click="handOver">Download GLB</v-btn>
      <p v-if="failed" role="alert" class="error">{{ failed }}</p>
    </section>
  </v-menu>
</template>
