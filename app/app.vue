<script setup lang="ts">
import { watchEffect } from 'vue'
import { useTheme } from 'vuetify'
import { useSettings } from '~/stores/settings'

const settings = useSettings()
const theme = useTheme()
watchEffect(() => theme.change(settings.kept.board))
</script>

<template>
  <v-app>
    <NuxtPage />
  </v-app>
</template>
