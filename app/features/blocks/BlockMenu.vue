<script setup lang="ts">
import { mdiCubeOutline } from '@mdi/js'
import { computed } from 'vue'
import type { Block } from '~~/core/level/schema'
import { walkingWarnings } from './block-fields'
import BlockNumbers from './BlockNumbers.vue'

const props = defineProps<{ block: Block }>()
const warned = computed(() => walkingWarnings(props.block.shape).length > 0)
</script>

<template>
  <v-menu :close-on-content-click="false" location="top end">
    <template #activator="{ props: activator }">
      <IconButton v-bind="activator" :icon="mdiCubeOutline" :class="{ warned }" label="Numbers of the block" />
    </template>
    <section class="sheet" aria-label="Block"><BlockNumbers :block="block" /></section>
  </v-menu>
</template>

<style scoped>
.sheet {
  width: 236px;
}

.warned {
  box-shadow: inset 0 -2px rgb(var(--v-theme-action));
}
</style>
