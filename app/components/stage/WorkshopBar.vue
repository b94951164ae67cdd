<script setup lang="ts">
import { useWorkshop, whereUsed } from '~/stores/workshop'

const workshop = useWorkshop()
</script>

<template>
  <section class="workshop" aria-label="Editing a part" data-test="workshop">
    <strong class="narrow">Editing the part {{ workshop.part?.name }}</strong>
    <span class="uses" :title="whereUsed(workshop.uses)">{{ whereUsed(workshop.uses) }}</span>
    <v-btn :loading="workshop.isBusy" @click="workshop.dismiss()">{{ workshop.isChanged ? 'Dismiss' : 'Leave' }}</v-btn>
    <v-btn color="action" variant="flat" :disabled="!workshop.isChanged" :loading="workshop.isBusy" title="All instances follow, in all levels" @click="workshop.finish()">Done</v-btn>
  </section>
</template>

<style scoped>
.workshop {
  display: flex;
  flex: none;
  gap: 12px;
  align-items: center;
  height: 38px;
  padding: 0 14px;
  border-bottom: 1px solid var(--line);
  background: var(--picked);
  color: rgb(var(--v-theme-on-picked));
}

.narrow {
  white-space: nowrap;
  font-size: var(--heading);
}

.uses {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.workshop .v-btn:not(.bg-action) {
  background: rgb(var(--v-theme-surface));
  color: var(--ink);
}
</style>
