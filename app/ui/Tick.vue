<script setup lang="ts">
/** A switch with its name beside it. */
defineProps<{ modelValue: boolean; label: string }>()
const emit = defineEmits<{ 'update:modelValue': [on: boolean] }>()
</script>

<template>
  <v-checkbox
    class="tick"
    :model-value="modelValue"
    :label="label"
    @update:model-value="emit('update:modelValue', Boolean($event))"
  />
</template>
