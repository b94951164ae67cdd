<script setup lang="ts">
import { computed } from 'vue'
import { useCommands } from '~/editor/commands'
import { useSettings } from '~/editor/settings'
import HandbookView from './HandbookView.vue'
import { useHandbook } from './handbook'
import { handbook as help } from './index'
import WhatIsThis from './WhatIsThis.vue'

/** A page with the handbook beside it; while a dialog asks something, over that. */
defineProps<{
  cleared?: boolean
  /** On a page that has no commands with keys. */
  isAlone?: boolean
}>()
const handbook = useHandbook()
const settings = useSettings()
const commands = useCommands()
// Where no level was open yet, nothing else can be done by name.
if (commands.all.length === 0) commands.begin([{ group: help.name, commands: help.commands() }])
const isOver = computed({ get: () => handbook.isOpen && handbook.isOver, set: () => handbook.close() })
</script>

<template>
  <SideSplit
    v-model:width="settings.panels.handbookWidth"
    side="right"
    :open="handbook.isOpen && !handbook.isOver && !cleared"
    :least="260"
    :most="560"
    label="Width of the handbook"
  >
    <template #panel><HandbookView v-if="!handbook.isOver" /></template>
    <slot />
  </SideSplit>
  <v-dialog v-model="isOver" aria-label="Handbook" max-width="680">
    <div class="sheet over"><HandbookView /></div>
  </v-dialog>
  <WhatIsThis :is-alone="isAlone" />
</template>

<style scoped>
.over {
  height: 80vh;
  padding: 0;
  overflow: hidden;
}
</style>
