<script setup lang="ts">
import { useKeys } from '~/editor/keys/keys'

/** The key of an action, or of what is heard on the stage, as it is set; nothing while it has none. */
defineProps<{ does: string }>()
const keys = useKeys()
</script>

<template>
  <kbd v-if="keys.labelOf(does)" class="mono">{{ keys.labelOf(does) }}</kbd>
</template>
