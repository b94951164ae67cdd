<script setup lang="ts">
import { mdiStar, mdiStarOutline } from '@mdi/js'
import { useContextMenu } from '~/editor/menu/context-menu'

/**
 * Marks an action as a favourite by a click; by key it is done where the action is, for a button within an entry of a
 * list would be none to assistive technology.
 */
defineProps<{ does: string }>()
const menu = useContextMenu()
</script>

<template>
  <span
    class="star"
    aria-hidden="true"
    :class="{ on: menu.isFavourite(does) }"
    :title="menu.isFavourite(does) ? 'No favourite any more' : 'Favourite: at the top of every menu'"
    @click.stop="menu.toggleFavourite(does)"
    @pointerdown.stop
  >
    <PathIcon :path="menu.isFavourite(does) ? mdiStar : mdiStarOutline" :size="15" />
  </span>
</template>

<style scoped>
.star {
  display: grid;
  place-items: center;
  width: 24px;
  height: 24px;
  color: var(--quiet);
  cursor: pointer;
  opacity: 0;
}

.star.on,
.v-list-item:hover .star,
.v-list-item:focus-within .star,
.v-list-item--active .star {
  opacity: 1;
}

.star.on {
  color: rgb(var(--v-theme-action));
}

@media (hover: none) {
  .star {
    opacity: 1;
  }
}
</style>
