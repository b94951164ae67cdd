<script setup lang="ts">
import { usePeople } from './people'

/** A person's letter on their colour; what it stands for is said to who cannot see it, or points at it. */
defineProps<{
  person: { id: string; name: string; mark: number }
  small?: boolean
  /** Drawn as a frame: it is theirs, whoever has it picked. */
  hollow?: boolean
  title?: string
}>()
const people = usePeople()
</script>

<template>
  <span
    class="badge"
    :class="{ small, hollow }"
    :title="title ?? person.name"
    :style="{ '--color': `rgb(var(--v-theme-person-${person.mark}))` }"
  >
    <span aria-hidden="true">{{ people.letterOf(person.id) }}</span>
    <span class="sr">
      <slot>{{ person.name }}</slot>
    </span>
  </span>
</template>

<style scoped>
.badge {
  display: inline-flex;
  flex: none;
  align-items: center;
  justify-content: center;
  min-width: 24px;
  height: 24px;
  padding: 0 4px;
  border-radius: 5px;
  background: var(--color);
  color: rgb(var(--v-theme-on-person));
  font-size: var(--small);
  font-weight: 600;
  line-height: 1;
}

.badge.small {
  min-width: 16px;
  height: 16px;
  padding: 0 3px;
  border-radius: 4px;
  font-size: var(--note);
}

.badge.hollow {
  border: 2px double var(--color);
  background: none;
  color: inherit;
}
</style>
