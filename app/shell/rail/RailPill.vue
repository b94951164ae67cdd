<script setup lang="ts">
import { mdiMenuUp } from '@mdi/js'

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
      <v-btn
        v-if="on !== undefined"
        class="value mono"
        variant="text"
        :aria-pressed="on"
        :aria-label="`${label}: ${value}`"
        :title="title"
        @click="emit('toggle')"
      >
        {{ value }}
      </v-btn>
      <v-menu v-if="$slots.default" :close-on-content-click="false" location="top">
        <template #activator="{ props }">
          <v-btn
            v-bind="props"
            class="opener mono"
            :class="{ alone: on === undefined }"
            variant="text"
            :aria-label="`${label || value} menu`"
            :title="title"
          >
            {{ on === undefined ? value : '' }}
            <v-icon :icon="mdiMenuUp" size="15" />
          </v-btn>
        </template>
        <section class="sheet" :aria-label="label"><slot /></section>
      </v-menu>
    </span>
  </span>
</template>

<style scoped>
.rail-pill {
  display: flex;
  flex: none;
  align-items: center;
  gap: 4px;
}

.label {
  font-size: var(--small);
}

.pill {
  display: flex;
  height: max(calc(22px * var(--scale)), var(--target));
  overflow: hidden;
  border: 1px solid var(--line);
  border-radius: 11px;
  background: rgb(var(--v-theme-surface));
}

.on {
  background: var(--petrol);
  border-color: var(--petrol);
  color: rgb(var(--v-theme-on-primary));
}

.pill .v-btn {
  --v-btn-height: max(calc(20px * var(--scale)), var(--target));

  padding: 0 1px 0 8px;
  border-radius: 0;
  font: 500 var(--note) / calc(20px * var(--scale)) var(--mono);
}

.pill .value:last-child {
  padding-right: 8px;
}

.pill .opener {
  padding: 0 4px 0 0;
}

.pill .alone {
  padding-left: 8px;
}

.sheet {
  width: 276px;
}
</style>
