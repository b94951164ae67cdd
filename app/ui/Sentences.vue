<script setup lang="ts" generic="T extends string">
/** A choice of one of a few that each say in a sentence what comes of it. */
defineProps<{ modelValue: T; options: readonly { value: T; says: string }[]; label: string }>()
const emit = defineEmits<{ 'update:modelValue': [value: T] }>()
</script>

<template>
  <v-radio-group
    class="sentences"
    :model-value="modelValue"
    :aria-label="label"
    @update:model-value="$event && emit('update:modelValue', $event as T)"
  >
    <v-radio v-for="{ value, says } in options" :key="value" :value="value" :label="says" />
  </v-radio-group>
</template>

<style scoped>
.sentences :deep(.v-selection-control) {
  min-height: max(24px, var(--target));
}

.sentences :deep(.v-selection-control__wrapper),
.sentences :deep(.v-selection-control__input) {
  width: 22px;
  height: 22px;
}

.sentences :deep(.v-selection-control__input > .v-icon) {
  font-size: calc(17px * var(--scale));
}

.sentences :deep(.v-label) {
  font-size: var(--body);
  line-height: 1.25;
  color: inherit;
  opacity: 1;
}
</style>
