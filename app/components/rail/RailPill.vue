<script setup lang="ts">
defineProps<{
  label: string
  value: string
  /** Left out for what is no switch: then a click opens its menu. */
  on?: boolean
  title?: string
}>()
const emit = defineEmits<{ toggle: [] }>()
</script>

<template>
  <span class="rail-pill">
    <span v-if="label" class="label">{{ label }}</span>
    <span class="pill" :class="{ on: on ?? true }">
      <button v-if="on !== undefined" type="button" class="value mono" :aria-pressed="on" :aria-label="`${label}: ${value}`" :title="title" @click="emit('toggle')">{{ value }}</button>
      <v-menu v-if="$slots.default" :close-on-content-click="false" location="top">
        <template #activator="{ props }">
          <button v-bind="props" type="button" class="opener mono" :aria-label="`${label} menu`" :title="title">{{ on === undefined ? value : '' }}<span class="tip" aria-hidden="true">▴</span></button>
        </template>
        <section class="sheet" :aria-label="label"><slot /></section>
      </v-menu>
    </span>
  </span>
</template>

<style scoped>
.rail-pill {
  display: flex;
  align-items: center;
  gap: 4px;
}

.label {
  font-size: 12px;
}

.pill {
  display: flex;
  height: 22px;
  overflow: hidden;
  border: 1px solid var(--line);
  border-radius: 11px;
  background: rgb(var(--v-theme-surface));
  font-size: 11px;
}

.on {
  background: var(--petrol);
  border-color: var(--petrol);
  color: rgb(var(--v-theme-on-primary));
}

.value {
  padding: 0 2px 0 8px;
  white-space: nowrap;
}

.value:last-child {
  padding-right: 8px;
}

.opener {
  padding: 0 6px 0 2px;
  white-space: nowrap;
}

.opener:first-child {
  padding-left: 8px;
}

.tip {
  margin-left: 3px;
  font-size: 9px;
}

.sheet {
  width: 268px;
}
</style>
