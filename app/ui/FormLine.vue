<script setup lang="ts">
/** A row of a form: what it is, and on the right its field, which has a name of its own for assistive technology. */
defineProps<{ label: string }>()
</script>

<template>
  <div class="line">
    <span>
      <slot name="label">{{ label }}</slot>
    </span>
    <slot />
  </div>
</template>
