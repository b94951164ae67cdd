<script setup lang="ts">
import { watchEffect } from 'vue'
import { useTheme } from 'vuetify'
import { api, onKeyNeeded } from '~/api/client'
import { useBringingIn } from '~/stores/bringing-in'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'

const settings = useSettings()
const theme = useTheme()
const level = useLevel()
const bringing = useBringingIn()
const router = useRouter()
watchEffect(() => theme.change(settings.kept.board))

// Beyond loopback nobody is let in without a key.
onKeyNeeded(() => {
  const { path, fullPath } = router.currentRoute.value
  if (path !== '/enter') void navigateTo({ path: '/enter', query: { to: fullPath } })
})
api.session().then(({ may, largestFile }) => {
  level.mayOnlyRead = may === 'read'
  bringing.largestFile = largestFile
}, () => {})
</script>

<template>
  <v-app>
    <NuxtPage />
  </v-app>
</template>
