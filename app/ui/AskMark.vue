<script setup lang="ts">
import { mdiHelpCircleOutline } from '@mdi/js'
import { useAsking } from '~/editor/asking'

/** Says what the panel is that it stands in. */
const asking = useAsking()
</script>

<template>
  <IconButton
    class="ask-mark"
    :icon="mdiHelpCircleOutline"
    :size="15"
    label="What is this?"
    does="What is this?"
    @click="asking.ask($event.currentTarget as Element)"
  />
</template>

<style scoped>
.ask-mark {
  flex: none;
  color: var(--quiet);
}
</style>
