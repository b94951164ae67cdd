<script setup lang="ts">
import { useEditor } from '~/stores/editor'

const editor = useEditor()
</script>

<template>
  <div v-if="editor.modes.length > 0" class="banner" role="status" data-test="modes">
    <span>{{ editor.modes.join(' · ') }}</span>
    <button type="button" @click="editor.escape()">End <kbd class="mono">Esc</kbd></button>
  </div>
</template>

<style scoped>
.banner {
  position: absolute;
  z-index: 4;
  bottom: 46px;
  left: 50%;
  display: flex;
  gap: 14px;
  padding: 5px 8px 5px 14px;
  transform: translateX(-50%);
  border-radius: 16px;
  background: var(--picked);
  color: rgb(var(--v-theme-on-picked));
  font-weight: 600;
  font-size: 13px;
  white-space: nowrap;
}

button {
  padding: 0 8px;
  border: 1px solid currentcolor;
  border-radius: 10px;
}
</style>
