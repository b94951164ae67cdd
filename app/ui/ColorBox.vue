<script setup lang="ts">
import { ref, watch } from 'vue'

/** A colour, changed in a picker that opens and taken when that closes. */
const props = defineProps<{ value: string; label: string; size?: number }>()
const emit = defineEmits<{ commit: [color: string] }>()
const color = ref(props.value)
const isOpen = ref(false)
watch(
  () => props.value,
  value => (color.value = value),
)
watch(isOpen, open => {
  if (!open && color.value.toLowerCase() !== props.value) emit('commit', color.value.toLowerCase().slice(0, 7))
})
</script>

<template>
  <v-menu v-model="isOpen" :close-on-content-click="false">
    <template #activator="{ props: activator }">
      <v-btn
        v-bind="activator"
        class="color-box reach"
        variant="flat"
        :width="size ?? 46"
        :height="size ?? 24"
        :style="{ 'minWidth': 0, '--drawn': `${size ?? 24}px` }"
        :color="color"
        :aria-label="label"
        :title="label"
      />
    </template>
    <v-color-picker v-model="color" mode="hex" :modes="['hex', 'rgb', 'hsl']" width="236" canvas-height="110" />
  </v-menu>
</template>

<style scoped>
.color-box {
  flex: none;
  min-width: 0;
  padding: 0;
  border: 1px solid var(--line);
}
</style>
