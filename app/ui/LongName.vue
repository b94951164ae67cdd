<script setup lang="ts">
import { computed } from 'vue'

/**
 * A name that is shortened in its middle where there is no room: its number at the end stays, and all of it is said
 * when it is pointed at.
 */
const props = defineProps<{ name: string }>()
/** The number at the end with what is before it; without one a few letters. */
const TAIL = /(\s*\S{0,3}\d+|.{3})$/u
const at = computed(() =>
  props.name.length > 8 ? (TAIL.exec(props.name)?.index ?? props.name.length) : props.name.length,
)
</script>

<template>
  <span class="long-name" :title="name">
    <span class="head">{{ name.slice(0, at) }}</span>
    <span v-if="at < name.length">{{ name.slice(at) }}</span>
  </span>
</template>

<style scoped>
.long-name {
  display: inline-flex;
  min-width: 0;
  max-width: 100%;
  white-space: pre;
}

.long-name > span {
  flex: none;
}

.long-name > .head {
  flex: 0 1 auto;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
