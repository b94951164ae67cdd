<script setup lang="ts">
import { counted } from '~~/core/units/plural'
import { asName, LONGEST_NAME } from '~~/core/units/text'
import { mdiDotsVertical, mdiPlus } from '@mdi/js'
import { useFileDialog } from '@vueuse/core'
import { onMounted, ref, shallowRef } from 'vue'
import { useFileImport } from '~/features/kit/import/file-import'
import type { ListedLevel, LevelSummary } from '~~/core/api/schema'
import { api, whatFailed } from '~/api/client'
import { useAuth } from '~/editor/auth'
import WhoAmI from '~/features/people/WhoAmI.vue'
import AppHeader from '~/shell/header/AppHeader.vue'
import { whenInWords } from '~/ui/when-in-words'

useHead({ title: 'Levels · Handy Grid' })
/** People whose names there is room for. */
const NAMED = 3
const auth = useAuth()
const fileImport = useFileImport()
const levels = shallowRef<ListedLevel[] | null>(null)
const failed = ref<string | null>(null)
const deleted = shallowRef<LevelSummary | null>(null)
const naming = shallowRef<{
  title: string
  button: string
  name: string
  save: (name: string) => Promise<unknown>
} | null>(null)
const nameError = ref('')

onMounted(load)

const { open: chooseFile, onChange } = useFileDialog({
  multiple: false,
  accept: '.handygrid,.glb,.csv,.tsv',
  reset: true,
})
onChange(files => void fileImport.take([...(files ?? [])], false))

async function load(): Promise<void> {
  await attempt(async () => {
    levels.value = await api.levels()
  })
}

/** Runs something that needs the server and says where the person is looking if it fails. */
async function attempt(run: () => Promise<void>): Promise<void> {
  failed.value = null
  try {
    await run()
  } catch (error) {
    failed.value = whatFailed(error)
  }
}

function nameNew(): void {
  nameError.value = ''
  naming.value = {
    title: 'New level',
    button: 'Start level',
    name: 'New level',
    save: async name => open((await api.createLevel({ name, from: 'empty' })).id),
  }
}

function nameFromDemo(): void {
  nameError.value = ''
  naming.value = {
    title: 'New level from Lantern Quay',
    button: 'Start level',
    name: 'Lantern Quay, my own',
    save: async name => open((await api.createLevel({ name, from: 'demo' })).id),
  }
}

function nameAgain(level: LevelSummary): void {
  nameError.value = ''
  naming.value = {
    title: 'Rename level',
    button: 'Rename',
    name: level.name,
    save: name => api.patchLevel(level.id, { name }).then(load),
  }
}

async function saveName(): Promise<void> {
  try {
    await naming.value?.save(naming.value.name)
    naming.value = null
  } catch (error) {
    nameError.value = whatFailed(error)
  }
}

function open(id: string) {
  return navigateTo(`/levels/${id}`)
}

const duplicate = (level: LevelSummary) =>
  attempt(async () => {
    await api.createLevel({ name: asName(`${level.name}, copy`), from: level.id })
    await load()
  })

const remove = (level: LevelSummary) =>
  attempt(async () => {
    await api.deleteLevel(level.id)
    deleted.value = level
    await load()
  })

const bringBack = (level: LevelSummary) =>
  attempt(async () => {
    await api.patchLevel(level.id, { deleted: false })
    deleted.value = null
    await load()
  })

/** Names of those who have a level open; of many the first. */
const hereInWords = (names: readonly string[]) =>
  `${names.slice(0, NAMED).join(', ')}${names.length > NAMED ? ` and ${names.length - NAMED} more` : ''} here now`
</script>

<template>
  <div class="page">
    <AppHeader>
      <template #end><WhoAmI /></template>
    </AppHeader>
    <main class="levels">
      <div class="top">
        <h1>Levels</h1>
        <v-btn :disabled="auth.mayOnlyRead" @click="chooseFile()">Bring in a file …</v-btn>
        <v-btn :disabled="auth.mayOnlyRead" @click="nameFromDemo">From Lantern Quay</v-btn>
        <v-btn color="action" variant="flat" :prepend-icon="mdiPlus" :disabled="auth.mayOnlyRead" @click="nameNew">
          New level
        </v-btn>
      </div>
      <p v-if="failed" role="alert" class="error">
        {{ failed }}
        <v-btn @click="load">Try again</v-btn>
      </p>
      <p v-if="levels?.length === 0" class="quiet">
        There is no level yet. Start an empty one, or begin from Lantern Quay, a night market on a canal.
      </p>
      <ul class="grid">
        <li v-for="level in levels" :key="level.id" class="card">
          <NuxtLink :to="`/levels/${level.id}`" class="link" :aria-label="`Open ${level.name}`">
            <img
              v-if="level.hasPicture"
              :src="`/api/levels/${level.id}/picture?${level.revision}`"
              alt=""
              class="picture"
            />
            <span v-else class="picture blank quiet">no picture yet</span>
            <span class="name">{{ level.name }}</span>
            <span v-if="level.here.length > 0" class="here">{{ hereInWords(level.here) }}</span>
            <span class="facts quiet">
              {{ counted(level.placementCount, 'thing') }} · {{ whenInWords(level.changedAt) }}
            </span>
          </NuxtLink>
          <v-menu>
            <template #activator="{ props }">
              <IconButton v-bind="props" class="more" :icon="mdiDotsVertical" :label="`More for ${level.name}`" />
            </template>
            <MenuList :label="level.name">
              <MenuItem title="Rename" :disabled="auth.mayOnlyRead" @click="nameAgain(level)" />
              <MenuItem title="Duplicate" :disabled="auth.mayOnlyRead" @click="duplicate(level)" />
              <MenuItem title="Delete" :disabled="!auth.may('keep')" @click="remove(level)" />
            </MenuList>
          </v-menu>
        </li>
      </ul>
    </main>
    <FormDialog
      :model-value="naming !== null"
      :title="naming?.title ?? ''"
      max-width="420"
      @update:model-value="naming = null"
    >
      <v-text-field
        v-if="naming"
        v-model="naming.name"
        aria-label="Name"
        autofocus
        :maxlength="LONGEST_NAME"
        :error="Boolean(nameError)"
        @focus="($event.target as HTMLInputElement).select()"
        @keydown.enter="saveName"
      />
      <p v-if="nameError" role="alert" class="error">{{ nameError }}</p>
      <template #buttons>
        <v-btn @click="naming = null">Cancel</v-btn>
        <v-btn color="action" variant="flat" @click="saveName">{{ naming?.button }}</v-btn>
      </template>
    </FormDialog>
    <v-snackbar :model-value="deleted !== null" :timeout="12000" @update:model-value="deleted = null">
      “{{ deleted?.name }}” was deleted.
      <template #actions>
        <v-btn variant="text" @click="deleted && bringBack(deleted)">Undo</v-btn>
      </template>
    </v-snackbar>
  </div>
</template>

<style scoped>
.page {
  display: flex;
  flex-direction: column;
  height: 100dvh;
  background: rgb(var(--v-theme-background));
}

.levels {
  flex: 1;
  width: min(1120px, 100%);
  margin: 0 auto;
  padding: 26px 24px;
  overflow: auto;
}

.top {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 18px;
}

h1 {
  flex: 1;
  font-size: 30px;
}

.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(300px, 1fr));
  gap: 18px;
  padding: 0;
  list-style: none;
}

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

.link {
  display: flex;
  flex-direction: column;
  color: inherit;
  text-decoration: none;
}

.picture {
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
  padding: 1px 14px 11px;
  font-size: var(--body);
}

.more {
  position: absolute;
  right: 8px;
  bottom: 14px;
}
</style>
