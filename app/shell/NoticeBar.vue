<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { useLevel } from '~/editor/level'

const level = useLevel()

function again(): void {
  const redo = level.notice?.again
  level.notice = null
  redo?.run()
}
</script>

<template>
  <v-alert
    v-if="level.notice"
    class="notice-box"
    role="alert"
    data-test="notice"
    closable
    :close-icon="mdiClose"
    close-label="Close"
    :title="level.notice.title"
    @click:close="level.notice = null"
  >
    <p v-for="line in level.notice.lines" :key="line">{{ line }}</p>
    <v-btn v-if="level.notice.again" color="action" variant="flat" @click="again">{{ level.notice.again.label }}</v-btn>
  </v-alert>
</template>
