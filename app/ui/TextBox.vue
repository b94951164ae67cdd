<script setup lang="ts">
/** A line of text that is taken when it is left, or by Enter; Esc gives it up. */
const props = defineProps<{
  value: string
  label: string
  placeholder?: string
  /** Says what is wrong with a text, or nothing. */
  check?: (text: string) => string | null
  wrong?: string | null
  /** Without a border until it is typed into, as in a list. */
  bare?: boolean
}>()
const emit = defineEmits<{ commit: [text: string]; type: [text: string]; leave: [] }>()

function take(event: FocusEvent): void {
  const input = event.target as HTMLInputElement
  if (input.value !== props.value && !props.check?.(input.value)) emit('commit', input.value)
  // What was not taken goes back to what is there.
  setTimeout(() => (input.value = props.value))
  emit('leave')
}

function giveUp(event: KeyboardEvent): void {
  const input = event.target as HTMLInputElement
  input.value = props.value
  input.blur()
}
</script>

<template>
  <v-text-field
    class="text-box"
    :class="{ bare }"
    :model-value="value"
    :aria-label="label"
    :placeholder="placeholder"
    :error="Boolean(wrong)"
    :aria-invalid="Boolean(wrong)"
    autocomplete="off"
    spellcheck="false"
    @input="emit('type', $event.target.value)"
    @blur="take"
    @keydown.enter="($event.target as HTMLInputElement).blur()"
    @keydown.esc.stop="giveUp"
  />
</template>

<style scoped>
.bare {
  flex: 1;
  min-width: 0;
}

.bare :deep(.v-field) {
  --v-field-padding-start: 5px;
  --v-field-padding-end: 2px;

  background: none;
}

.bare :deep(.v-field:not(.v-field--focused) .v-field__outline) {
  display: none;
}
</style>
