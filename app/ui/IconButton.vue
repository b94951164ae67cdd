<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'

/** A button that is a picture, with what it does, and by which key, said when it is pointed at. */
withDefaults(
  defineProps<{
    icon: string
    label: string
    /** The action that it is, whose key is said besides. */
    does?: string
    size?: number
    tabindex?: number
    disabled?: boolean
    /** Of what is on or off; left out it is neither. */
    pressed?: boolean
  }>(),
  { does: undefined, size: undefined, tabindex: undefined, pressed: undefined },
)
const isSaid = ref(false)
// What is said of a button goes with Esc, also while the pointer or the focus stays.
useEventListener(
  () => (isSaid.value ? window : null),
  'keydown',
  (event: KeyboardEvent) => {
    if (event.key === 'Escape') isSaid.value = false
  },
  { capture: true },
)
</script>

<template>
  <v-btn
    class="icon-button"
    variant="text"
    icon
    :width="(size ?? 17) + 9"
    :height="(size ?? 17) + 9"
    :aria-label="label"
    :aria-pressed="pressed"
    :active="pressed"
    :disabled="disabled"
    :tabindex="tabindex"
  >
    <v-icon :icon="icon" :size="size ?? 17" />
    <v-tooltip
      v-model="isSaid"
      activator="parent"
      :open-on-click="false"
      :disabled="$attrs['aria-expanded'] === 'true'"
    >
      {{ label }}
      <KeyCap v-if="does" :does="does" />
    </v-tooltip>
  </v-btn>
</template>
