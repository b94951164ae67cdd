<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { useLevel } from '~/stores/level'

const level = useLevel()

function again(): void {
  const redo = level.notice?.again
  level.notice = null
  redo?.run()
}
</script>

<template>
  <v-alert v-if="level.notice" class="notice" role="alert" data-test="notice" closable :close-icon="mdiClose" close-label="Close" :title="level.notice.title" @click:close="level.notice = null">
    <p v-for="line in level.notice.lines" :key="line">{{ line }}</p>
    <v-btn v-if="level.notice.again" color="action" variant="flat" @click="again">{{ level.notice.again.label }}</v-btn>
  </v-alert>
</template>

<style scoped>
.notice.notice {
  position: absolute;
  z-index: 10;
  top: 54px;
  left: 50%;
  width: min(460px, 90%);
  transform: translateX(-50%);
  background: rgb(var(--v-theme-surface));
  color: var(--ink);
  border: 1px solid var(--line);
  border-left: 4px solid rgb(var(--v-theme-error));
  border-radius: var(--round);
  box-shadow: 0 4px 18px rgb(0 0 0 / 18%);
  font-size: var(--body);
}

.notice :deep(.v-alert-title) {
  font: 600 var(--heading) var(--narrow);
}

p {
  margin: 3px 0 8px;
}
</style>
