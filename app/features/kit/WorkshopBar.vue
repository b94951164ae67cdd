<script setup lang="ts">
import { useWorkshop, whereUsed } from './workshop'

const workshop = useWorkshop()
</script>

<template>
  <section class="workshop" aria-label="Editing a part" data-test="workshop">
    <strong class="narrow">Editing the part {{ workshop.part?.name }}</strong>
    <v-menu>
      <template #activator="{ props }">
        <v-btn v-bind="props" class="uses" variant="plain" title="Where it is placed: all of these follow">
          {{ whereUsed(workshop.uses) }}
        </v-btn>
      </template>
      <MenuList label="Where it is placed">
        <MenuItem
          v-for="each in workshop.uses?.levels"
          :key="each.id"
          :title="each.name"
          :end="String(each.placements)"
          disabled
        />
        <MenuItem
          v-for="each in workshop.uses?.parts"
          :key="each.id"
          :title="`in the part ${each.name}`"
          :end="String(each.placements)"
          disabled
        />
      </MenuList>
    </v-menu>
    <span class="gap" />
    <v-btn :loading="workshop.isBusy" @click="workshop.dismiss()">{{ workshop.isChanged ? 'Dismiss' : 'Leave' }}</v-btn>
    <v-btn
      color="action"
      variant="flat"
      :disabled="!workshop.isChanged"
      :loading="workshop.isBusy"
      title="All instances follow, in all levels"
      @click="workshop.finish()"
    >
      Done
    </v-btn>
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
  min-width: 0;
  color: inherit;
  opacity: 1;
}

.uses :deep(.v-btn__content) {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
}

.gap {
  flex: 1;
}

.workshop > .v-btn:not(.bg-action, .uses) {
  background: rgb(var(--v-theme-surface));
  color: var(--ink);
}
</style>
