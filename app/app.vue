<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { watch } from 'vue'
import { onKeyNeeded } from './api/client'
import { orNothing } from './errors/or-nothing'
import { filesDropped } from '~/features/kit/import/files-dropped'
import { useAuth } from '~/editor/auth'
import { keepsNothing } from './editor/kept-here'
import { useLevel } from './editor/level'
import { useFileImport } from '~/features/kit/import/file-import'
import ErrorNotice from './shell/ErrorNotice.vue'
import { useWithPerson } from '~/features/settings/with-person'
import SettingsSheet from '~/features/settings/SettingsSheet.vue'
import { useLook } from '~/ui/use-look'
import FileImportDialog from '~/features/kit/import/FileImportDialog.vue'

const level = useLevel()
const auth = useAuth()
const fileImport = useFileImport()
const router = useRouter()
const route = useRoute()
useLook()
useWithPerson().begin()

// Files may be dropped anywhere; what is dragged within the page is none.
useEventListener(window, 'dragover', (event: DragEvent) => event.preventDefault())
useEventListener(window, 'drop', async (event: DragEvent) => {
  event.preventDefault()
  const onStage = event.target instanceof Element && event.target.closest('.stage') !== null
  const files = await filesDropped(event.dataTransfer)
  if (files.length === 0) return
  if (auth.mayOnlyRead) level.notify('You may only look here', ['Nothing was brought in.'])
  else await fileImport.take(files, onStage)
})

watch(
  keepsNothing,
  nothing =>
    nothing
    && level.notify('What you set lasts as long as this page', [
      'This browser keeps nothing: its storage is full, or forbidden as in a private window. Levels are saved all the same.',
    ]),
  { immediate: true },
)

// Beyond loopback nobody is let in without a key.
onKeyNeeded(() => {
  const { path, fullPath } = router.currentRoute.value
  if (path !== '/enter') void navigateTo({ path: '/enter', query: { to: fullPath } })
})
// A server that is away, or a key that is needed, is told by what the page asks next.
watch(
  () => ('id' in route.params ? String(route.params.id) : undefined),
  id => void auth.ask(id).catch(orNothing),
  { immediate: true },
)
</script>

<template>
  <v-app>
    <NuxtPage />
    <FileImportDialog />
    <SettingsSheet />
    <ErrorNotice />
  </v-app>
</template>
