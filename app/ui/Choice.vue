<script setup lang="ts" generic="T extends string | number | null">
/** A choice of one of several, in a list that opens. */
defineProps<{
  modelValue: T
  options: readonly { value: T; name: string }[]
  label: string
  /** Said instead of a name while nothing of the list is chosen. */
  placeholder?: string
}>()
const emit = defineEmits<{ 'update:modelValue': [value: T] }>()
</script>

<template>
  <v-select
    class="choice"
    :model-value="modelValue"
    :items="options as { value: T; name: string }[]"
    item-title="name"
    item-value="value"
    :aria-label="label"
    :placeholder="placeholder"
    @update:model-value="emit('update:modelValue', $event as T)"
  />
</template>
