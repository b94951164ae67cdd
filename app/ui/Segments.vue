<script setup lang="ts" generic="T extends string | number | boolean">
/** A choice of one of a few, side by side. */
const props = defineProps<{
  /** Null while none is chosen. */
  modelValue: T | null
  options: readonly {
    value: T
    name: string
    /** The action that it is, whose key is shown beside its name. */ does?: string
    title?: string
  }[]
  label: string
  /** Whether the chosen one can be let go of. */
  optional?: boolean
  /** So many side by side, in as many rows as needed; all in one row when left out. */
  columns?: number
}>()
const emit = defineEmits<{ 'update:modelValue': [value: T]; 'none': [] }>()

/** Pressing what is chosen already is not a choice, unless it lets go. */
function press(value: T): void {
  if (value !== props.modelValue) emit('update:modelValue', value)
  else if (props.optional) emit('none')
}
</script>

<template>
  <v-btn-group
    class="segments"
    :class="{ grid: columns }"
    :style="columns ? { gridTemplateColumns: `repeat(${columns}, 1fr)` } : undefined"
    role="group"
    :aria-label="label"
    density="compact"
  >
    <v-btn
      v-for="option in options"
      :key="String(option.value)"
      :active="option.value === modelValue"
      :aria-pressed="option.value === modelValue"
      :title="option.title"
      :data-value="String(option.value)"
      @click="press(option.value)"
    >
      {{ option.name }}
      <KeyCap v-if="option.does" :does="option.does" />
    </v-btn>
  </v-btn-group>
</template>
