<script setup lang="ts">
import { useLevel } from '~/editor/level'
import type { SetApart } from '~/editor/saving/set-apart'
import { saveFile } from '~/editor/saving/save-file'

const level = useLevel()

function keepAsFile(each: SetApart): void {
  saveFile(
    new Blob([JSON.stringify(each, null, 2)], { type: 'application/json' }),
    `${each.change.label.replace(/[^\p{L}\p{N} -]/gu, '')}.json`,
  )
}
</script>

<template>
  <v-menu v-if="level.apart.length > 0" :close-on-content-click="false" location="bottom start">
    <template #activator="{ props }">
      <v-btn v-bind="props" variant="flat" color="surface">{{ level.apart.length }} set apart</v-btn>
    </template>
    <section class="sheet apart" aria-label="Set apart" data-test="set-apart">
      <h2>Set apart</h2>
      <p class="quiet">
        The server did not take these changes. They are kept on this device and undone in the level; all else went on.
      </p>
      <ul>
        <li v-for="each in level.apart" :key="each.change.id">
          <h3>{{ each.change.label }}</h3>
          <p class="quiet">{{ each.reason }}</p>
          <v-btn @click="level.tryApart(each)">Try again</v-btn>
          <v-btn @click="keepAsFile(each)">Keep as a file</v-btn>
          <v-btn @click="level.removeApart(each)">Drop</v-btn>
        </li>
      </ul>
    </section>
  </v-menu>
</template>

<style scoped>
.apart {
  width: 390px;
  max-height: 70vh;
  overflow-y: auto;
}

ul {
  padding: 0;
  list-style: none;
}

li {
  padding: 8px 0;
  border-top: 1px solid var(--line);
}

li p {
  margin: 2px 0 6px;
}

li .v-btn {
  margin-right: 6px;
}
</style>
