<script setup lang="ts">
import { computed } from 'vue'
import { useReserved } from '~/editor/reserved'

/** Asks before something is done to what others have reserved. */
const reserved = useReserved()
/** Lines for which there is room. */
const SHOWN = 6
const isOpen = computed({
  get: () => reserved.question !== null,
  set: () => (reserved.question = null),
})
const found = computed(() => reserved.question?.found ?? [])
</script>

<template>
  <FormDialog
    page="together"
    v-model="isOpen"
    title="Somebody has reserved this"
    max-width="460"
    data-test="reserved-question"
  >
    <p>&quot;{{ reserved.question?.label }}&quot; is about what others want to be left alone:</p>
    <ul class="lines">
      <li v-for="each in found.slice(0, SHOWN)" :key="each.id">{{ each.by }} has reserved {{ each.name }}.</li>
      <li v-if="found.length > SHOWN">and {{ found.length - SHOWN }} more</li>
    </ul>
    <p class="quiet">Whoever had it is told when you take it over.</p>
    <template #buttons>
      <v-btn @click="isOpen = false">Leave it alone</v-btn>
      <v-btn color="action" variant="flat" @click="reserved.question?.takeOver()">Take it over</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.lines {
  margin: 0 0 8px;
  padding-left: 20px;
  overflow-wrap: anywhere;
}
</style>
