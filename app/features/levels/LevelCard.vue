<script setup lang="ts">
import type { ListedLevel } from '~~/core/api/schema'
import { counted } from '~~/core/units/plural'
import { whenInWords } from '~/ui/when-in-words'
import type { LevelDeed } from './deeds'
import LevelMenu from './LevelMenu.vue'

/** One level of the list, with its variants below it. */
const props = defineProps<{ level: ListedLevel; variants: readonly ListedLevel[]; chosen: ReadonlySet<string> }>()
const emit = defineEmits<{
  does: [deed: LevelDeed, level: ListedLevel]
  choose: [id: string]
  tag: [tag: string]
}>()
/** People whose names there is room for. */
const NAMED = 3

/** Names of those who have a level open; of many the first. */
const hereInWords = (names: readonly string[]) =>
  `${names.slice(0, NAMED).join(', ')}${names.length > NAMED ? ` and ${names.length - NAMED} more` : ''} here now`

const isPictureOld = () => props.level.hasPicture && props.level.pictureRevision < props.level.revision
</script>

<template>
  <li class="card" :class="{ chosen: chosen.has(level.id) }">
    <NuxtLink :to="`/levels/${level.id}`" class="link" :aria-label="`Open ${level.name}`">
      <span class="frame">
        <img
          v-if="level.hasPicture"
          :src="`/api/levels/${level.id}/picture?${level.pictureRevision}`"
          alt=""
          class="picture"
        />
        <span v-else class="picture blank quiet">no picture yet</span>
        <span v-if="isPictureOld()" class="old">
          changed since this picture: {{ counted(level.revision - level.pictureRevision, 'change') }}
        </span>
      </span>
      <LongName :name="level.name" class="name" />
      <span v-if="level.here.length > 0" class="here">{{ hereInWords(level.here) }}</span>
      <span class="facts quiet">
        {{ counted(level.placementCount, 'thing') }} · {{ whenInWords(level.changedAt)
        }}{{ level.lastBy ? ` by ${level.lastBy}` : '' }}
      </span>
    </NuxtLink>
    <div v-if="level.tags.length > 0 || level.startingPoint" class="tags">
      <span v-if="level.startingPoint" class="quiet">a starting point</span>
      <v-chip v-for="tag in level.tags" :key="tag" size="small" @click="emit('tag', tag)">{{ tag }}</v-chip>
    </div>
    <ul v-if="variants.length > 0" class="variants" :aria-label="`Variants of ${level.name}`">
      <li v-for="variant in variants" :key="variant.id">
        <NuxtLink :to="`/levels/${variant.id}`" :aria-label="`Open ${variant.name}`">
          <LongName :name="variant.name" />
        </NuxtLink>
        <span class="quiet">{{ whenInWords(variant.changedAt) }}</span>
        <LevelMenu :level="variant" :size="14" @does="emit('does', $event, variant)" />
      </li>
    </ul>
    <v-checkbox
      class="choose"
      :model-value="chosen.has(level.id)"
      :aria-label="`Choose ${level.name}`"
      @update:model-value="emit('choose', level.id)"
    />
    <LevelMenu class="more" :level="level" @does="emit('does', $event, level)" />
  </li>
</template>

<style scoped>
.card {
  position: relative;
  overflow: hidden;
  background: rgb(var(--v-theme-surface));
  border: 1px solid var(--line);
  border-radius: var(--round);
}

.card:hover {
  border-color: var(--petrol);
}

.card.chosen {
  border-color: rgb(var(--v-theme-picked));
  box-shadow: 0 0 0 1px rgb(var(--v-theme-picked));
}

.link {
  display: flex;
  flex-direction: column;
  color: inherit;
  text-decoration: none;
}

.frame {
  position: relative;
}

.picture {
  display: block;
  width: 100%;
  aspect-ratio: 16 / 10;
  object-fit: cover;
  border-bottom: 1px solid var(--line);
}

.blank {
  display: grid;
  place-items: center;
  background: rgb(var(--v-theme-background));
}

.old {
  position: absolute;
  right: 8px;
  bottom: 8px;
  padding: 1px 8px;
  border-radius: 9px;
  background: rgb(var(--v-theme-slate));
  color: rgb(var(--v-theme-on-slate));
  font-size: var(--small);
}

.name {
  padding: 9px 44px 0 14px;
  font: 600 var(--title) var(--narrow);
}

.here {
  padding: 2px 14px 0;
  font-size: var(--body);
  font-weight: 600;
  overflow-wrap: anywhere;
}

.facts {
  padding: 1px 44px 9px 14px;
  font-size: var(--body);
}

.tags {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  padding: 0 14px 10px;
  font-size: var(--small);
}

.variants {
  padding: 4px 8px 8px 14px;
  margin: 0;
  border-top: 1px solid var(--line);
  list-style: none;
  font-size: var(--body);
}

.variants li {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 26px;
}

.variants a {
  flex: 1;
  min-width: 0;
  color: inherit;
}

.variants .quiet {
  font-size: var(--small);
}

.choose {
  position: absolute;
  top: 6px;
  left: 6px;
  border-radius: var(--round-small);
  background: rgb(var(--v-theme-surface));
}

.card :deep(.more) {
  position: absolute;
  right: 8px;
  top: 6px;
  background: rgb(var(--v-theme-surface));
}
</style>
