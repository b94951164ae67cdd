<script setup lang="ts">
import { useLevel } from '~/stores/level'
import type { SetApart } from '~/saving/set-apart'
import { saveFile } from '~/saving/save-file'

const level = useLevel()

function keepAsFile(each: SetApart): void {
  saveFile(new Blob([JSON.stringify(each, null, 2)], { type: 'application/json' }), `${each.change.label.replace(/[^\p{L}\p{N} -]/gu, '')}.json`)
}
</script>

<template>
  <v-menu v-if="level.apart.length > 0" :close-on-content-click="false" location="bottom start">
    <template #activator="{ props }">
      <v-btn v-bind="props" class="chip" variant="flat" size="small" rounded="lg" color="surface">{{ level.apart.length }} set apart</v-btn>
    </template>
    <v-card width="380" class="sheet" data-test="set-apart">
      <h2>Set apart</h2>
      <p class="quiet">The server did not take these changes. They are kept on this device and undone in the level; all else went on.</p>
      <ul>
        <li v-for="each in level.apart" :key="each.change.id">
          <h3>{{ each.change.label }}</h3>
          <p class="quiet">{{ each.reason }}</p>
          <v-btn size="small" variant="flat" color="primary" @click="level.tryApart(each)">Try again</v-btn>
          <v-btn size="small" variant="text" @click="keepAsFile(each)">Keep as a file</v-btn>
          <v-btn size="small" variant="text" @click="level.removeApart(each)">Drop</v-btn>
        </li>
      </ul>
    </v-card>
  </v-menu>
</template>

<style scoped>
.chip {
  height: 24px;
}

.sheet {
  max-height: 70vh;
  padding: 14px;
  overflow-y: auto;
  border: 1px solid var(--line);
}

h2 {
  font-size: 17px;
}

h3 {
  font-size: 14px;
}

p {
  margin: 2px 0 6px;
  font-size: 13px;
}

ul {
  padding: 0;
  list-style: none;
}

li {
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
</style>
