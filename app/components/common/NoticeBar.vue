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
  <section v-if="level.notice" class="notice" role="alert" data-test="notice">
    <div class="text">
      <h2>{{ level.notice.title }}</h2>
      <p v-for="line in level.notice.lines" :key="line">{{ line }}</p>
      <v-btn v-if="level.notice.again" size="small" color="action" variant="flat" @click="again">{{ level.notice.again.label }}</v-btn>
    </div>
    <v-btn :icon="mdiClose" size="x-small" variant="text" aria-label="Close" @click="level.notice = null" />
  </section>
</template>

<style scoped>
.notice {
  position: absolute;
  z-index: 10;
  top: 54px;
  left: 50%;
  display: flex;
  gap: 8px;
  width: min(460px, 90%);
  padding: 10px 8px 12px 14px;
  transform: translateX(-50%);
  background: rgb(var(--v-theme-surface));
  border: 1px solid var(--line);
  border-left: 4px solid rgb(var(--v-theme-error));
  border-radius: 8px;
  box-shadow: 0 4px 18px rgb(0 0 0 / 18%);
}

.text {
  flex: 1;
}

h2 {
  font-size: 16px;
}

p {
  margin: 3px 0 8px;
  font-size: 13px;
}
</style>
