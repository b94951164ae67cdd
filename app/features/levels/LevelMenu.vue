<script setup lang="ts">
import { mdiDotsVertical } from '@mdi/js'
import type { ListedLevel } from '~~/core/api/schema'
import { useAuth } from '~/editor/auth'
import type { LevelDeed } from './deeds'
import { deedsFor } from './deeds'

/** What can be done to a level of the list. */
defineOptions({ inheritAttrs: false })
defineProps<{ level: ListedLevel; size?: number }>()
const emit = defineEmits<{ does: [deed: LevelDeed] }>()
const auth = useAuth()
</script>

<template>
  <v-menu>
    <template #activator="{ props: of }">
      <IconButton
        v-bind="{ ...$attrs, ...of }"
        :icon="mdiDotsVertical"
        :size="size"
        :label="`More for ${level.name}`"
      />
    </template>
    <MenuList :label="level.name">
      <MenuItem
        v-for="deed in deedsFor(level)"
        :key="deed.does"
        :title="deed.title"
        :disabled="!auth.may(deed.may)"
        @click="emit('does', deed.does)"
      />
    </MenuList>
  </v-menu>
</template>
