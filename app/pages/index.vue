<script setup lang="ts">
import { mdiArchiveOutline, mdiMagnify, mdiPlus, mdiSchoolOutline } from '@mdi/js'
import { useFileDialog } from '@vueuse/core'
import { computed, onMounted, reactive, ref, shallowRef } from 'vue'
import type { LevelPatch, ListedLevel } from '~~/core/api/schema'
import { counted } from '~~/core/units/plural'
import { asName, LONGEST_NAME } from '~~/core/units/text'
import { api, whatFailed } from '~/api/client'
import { useAuth } from '~/editor/auth'
import { openYard } from '~/features/first-steps/open-yard'
import BesideHandbook from '~/features/handbook/BesideHandbook.vue'
import { useFileImport } from '~/features/kit/import/file-import'
import type { LevelDeed } from '~/features/levels/deeds'
import LevelCard from '~/features/levels/LevelCard.vue'
import type { Listing } from '~/features/levels/listing'
import { listLevels, SORTS, tagsOf } from '~/features/levels/listing'
import NewLevelDialog from '~/features/levels/NewLevelDialog.vue'
import { useOpened } from '~/features/levels/opened'
import WhoAmI from '~/features/people/WhoAmI.vue'
import AppHeader from '~/shell/header/AppHeader.vue'

useHead({ title: 'Levels · Handy Grid' })
const auth = useAuth()
const fileImport = useFileImport()
const opened = useOpened()
const levels = shallowRef<ListedLevel[] | null>(null)
const failed = ref<string | null>(null)
const isStarting = ref(false)
const listing = reactive<Listing>({ text: '', sort: 'changed', tag: null, isArchive: false })
/** Several at once. */
const chosen = shallowRef<ReadonlySet<string>>(new Set())
/** What was done last, and how it is taken back. */
const done = shallowRef<{ says: string; undo: () => Promise<unknown> } | null>(null)
/** What is typed about some levels: a name, or tags. */
const typing = shallowRef<{
  title: string
  button: string
  text: string
  save: (text: string) => Promise<unknown>
} | null>(null)
const typingFailed = ref('')

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

const listed = computed(() => listLevels(levels.value ?? [], listing, opened.value))
const tags = computed(() => tagsOf(levels.value ?? []))
const tagOptions = computed(() => [
  { value: null as string | null, name: 'every tag' },
  ...tags.value.map(({ tag, count }) => ({ value: tag as string | null, name: `${tag} (${count})` })),
])
const sortOptions = Object.entries(SORTS).map(([value, name]) => ({ value: value as Listing['sort'], name }))
const archived = computed(() => (levels.value ?? []).filter(({ archivedAt }) => archivedAt !== null).length)
/** Nobody has begun anything yet but to look. */
const isNew = computed(() => levels.value?.length === 1 && levels.value[0]!.revision === 0)
const chosenLevels = computed(() => (levels.value ?? []).filter(({ id }) => chosen.value.has(id)))

function choose(id: string): void {
  const next = new Set(chosen.value)
  if (!next.delete(id)) next.add(id)
  chosen.value = next
}

const named = (some: readonly ListedLevel[]) =>
  some.length === 1 ? `“${some[0]!.name}”` : counted(some.length, 'level')

/** Does something to some levels one after the other; how it is taken back is offered. */
const doToEach = (
  some: readonly ListedLevel[],
  says: string,
  work: (level: ListedLevel) => Promise<unknown>,
  back: (level: ListedLevel) => Promise<unknown>,
) =>
  attempt(async () => {
    try {
      for (const level of some) await work(level)
      chosen.value = new Set()
      done.value = {
        says,
        undo: async () => {
          for (const level of some) await back(level)
        },
      }
    } finally {
      levels.value = await api.levels()
    }
  })

const patch = (some: readonly ListedLevel[], says: string, to: LevelPatch, from: (level: ListedLevel) => LevelPatch) =>
  doToEach(
    some,
    says,
    ({ id }) => api.patchLevel(id, to),
    level => api.patchLevel(level.id, from(level)),
  )

const archive = (some: readonly ListedLevel[], isIn: boolean) =>
  patch(
    some,
    `${named(some)} ${some.length === 1 ? 'is' : 'are'} ${isIn ? 'in the archive' : 'back from the archive'}.`,
    { archived: isIn },
    () => ({ archived: !isIn }),
  )

const remove = (some: readonly ListedLevel[]) =>
  doToEach(
    some,
    `${named(some)} ${some.length === 1 ? 'was' : 'were'} deleted.`,
    ({ id }) => api.deleteLevel(id),
    ({ id }) => api.patchLevel(id, { deleted: false }),
  )

function askTags(some: readonly ListedLevel[]): void {
  typingFailed.value = ''
  typing.value = {
    title: `Tags of ${named(some)}`,
    button: 'Tag',
    text: some.length === 1 ? some[0]!.tags.join(', ') : '',
    save: text => {
      const given = [...new Set(text.split(',').flatMap(tag => tag.trim() || []))]
      // Of several, what each has already stays.
      const after = (level: ListedLevel) => (some.length === 1 ? given : [...new Set([...level.tags, ...given])])
      return doToEach(
        some,
        `${named(some)}: ${given.join(', ') || 'no tags'}.`,
        level => api.patchLevel(level.id, { tags: after(level) }),
        ({ id, tags: before }) => api.patchLevel(id, { tags: before }),
      )
    },
  }
}

function askName(level: ListedLevel): void {
  typingFailed.value = ''
  typing.value = {
    title: 'Rename level',
    button: 'Rename',
    text: level.name,
    save: name => api.patchLevel(level.id, { name }).then(load),
  }
}

async function saveTyped(): Promise<void> {
  try {
    await typing.value?.save(typing.value.text)
    typing.value = null
  } catch (error) {
    typingFailed.value = whatFailed(error)
  }
}

const duplicate = (level: ListedLevel) =>
  attempt(async () => {
    await api.createLevel({ name: asName(`${level.name}, copy`), from: level.id })
    await load()
  })

const DEEDS: Record<LevelDeed, (level: ListedLevel) => unknown> = {
  rename: askName,
  tag: level => askTags([level]),
  duplicate,
  start: level =>
    patch(
      [level],
      level.startingPoint ? `“${level.name}” is a level like any other.` : `Levels can be begun from “${level.name}”.`,
      { startingPoint: !level.startingPoint },
      () => ({ startingPoint: level.startingPoint }),
    ),
  archive: level => archive([level], level.archivedAt === null),
  delete: level => remove([level]),
}

const firstSteps = () => attempt(openYard)

const undo = () =>
  attempt(async () => {
    const last = done.value
    done.value = null
    await last?.undo()
    await load()
  })
</script>

<template>
  <div class="page">
    <AppHeader>
      <template #end><WhoAmI /></template>
    </AppHeader>
    <BesideHandbook is-alone>
      <main class="levels">
        <div class="top">
          <h1>{{ listing.isArchive ? 'Archive' : 'Levels' }}</h1>
          <v-btn :prepend-icon="mdiSchoolOutline" :disabled="auth.mayOnlyRead" @click="firstSteps">First steps</v-btn>
          <v-btn :disabled="auth.mayOnlyRead" @click="chooseFile()">Bring in a file …</v-btn>
          <v-btn
            color="action"
            variant="flat"
            :prepend-icon="mdiPlus"
            :disabled="auth.mayOnlyRead"
            @click="isStarting = true"
          >
            New level
          </v-btn>
        </div>
        <div v-if="(levels?.length ?? 0) > 0" class="tools">
          <v-text-field
            v-model="listing.text"
            class="search"
            :prepend-inner-icon="mdiMagnify"
            placeholder="A name, a tag, or who was at work"
            aria-label="Look for a level"
            clearable
          />
          <Choice v-model="listing.sort" label="Order" :options="sortOptions" />
          <Choice v-if="tags.length > 0" v-model="listing.tag" label="Tag" :options="tagOptions" />
          <v-btn
            v-if="archived > 0 || listing.isArchive"
            :prepend-icon="mdiArchiveOutline"
            :active="listing.isArchive"
            :aria-pressed="listing.isArchive"
            @click="listing.isArchive = !listing.isArchive"
          >
            Archive {{ archived }}
          </v-btn>
        </div>
        <div v-if="chosen.size > 0" class="chosen-bar" role="group" aria-label="What is chosen">
          <b>{{ counted(chosen.size, 'level') }}</b>
          <v-btn size="small" :disabled="auth.mayOnlyRead" @click="askTags(chosenLevels)">Tag …</v-btn>
          <v-btn size="small" :disabled="auth.mayOnlyRead" @click="archive(chosenLevels, !listing.isArchive)">
            {{ listing.isArchive ? 'Back from the archive' : 'Put into the archive' }}
          </v-btn>
          <v-btn size="small" :disabled="!auth.may('keep')" @click="remove(chosenLevels)">Delete</v-btn>
          <v-btn size="small" variant="text" @click="chosen = new Set()">None</v-btn>
        </div>
        <p v-if="failed" role="alert" class="error">
          {{ failed }}
          <v-btn @click="load">Try again</v-btn>
        </p>
        <p v-if="levels?.length === 0" class="quiet">
          There is no level yet. Go through the first steps in a yard of their own, start a new level, or begin from
          Lantern Quay, a night market on a canal.
        </p>
        <p v-else-if="isNew" class="welcome">
          New here? The first steps are sixteen exercises of a minute each, in a yard of their own. Or open Lantern Quay
          and look around: it has one of everything. What anything is, ? says wherever the pointer is.
        </p>
        <p v-else-if="levels && listed.length === 0" class="quiet">
          {{ listing.isArchive ? 'Nothing is in the archive' : 'No level is called that' }}, has that tag, or was worked
          on by that name.
          <v-btn
            class="link"
            variant="plain"
            @click="Object.assign(listing, { text: '', tag: null, isArchive: false })"
          >
            Show all
          </v-btn>
        </p>
        <ul class="grid" aria-label="Levels">
          <LevelCard
            v-for="{ level, variants } in listed"
            :key="level.id"
            :level="level"
            :variants="variants"
            :chosen="chosen"
            @does="(deed, of) => DEEDS[deed](of)"
            @choose="choose"
            @tag="tag => (listing.tag = tag)"
          />
        </ul>
      </main>
    </BesideHandbook>
    <NewLevelDialog v-model="isStarting" :levels="levels ?? []" />
    <FormDialog
      page="levels"
      :model-value="typing !== null"
      :title="typing?.title ?? ''"
      max-width="420"
      @update:model-value="typing = null"
    >
      <v-text-field
        v-if="typing"
        v-model="typing.text"
        :aria-label="typing.button === 'Tag' ? 'Tags, with commas between' : 'Name'"
        :placeholder="typing.button === 'Tag' ? 'night, second floor' : ''"
        autofocus
        :maxlength="LONGEST_NAME"
        :error="Boolean(typingFailed)"
        @focus="($event.target as HTMLInputElement).select()"
        @keydown.enter="saveTyped"
      />
      <p v-if="typingFailed" role="alert" class="error">{{ typingFailed }}</p>
      <template #buttons>
        <v-btn @click="typing = null">Cancel</v-btn>
        <v-btn color="action" variant="flat" @click="saveTyped">{{ typing?.button }}</v-btn>
      </template>
    </FormDialog>
    <v-snackbar :model-value="done !== null" :timeout="12000" @update:model-value="done = null">
      {{ done?.says }}
      <template #actions>
        <v-btn variant="text" @click="undo">Undo</v-btn>
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
  width: min(1120px, 100%);
  height: 100%;
  margin: 0 auto;
  padding: 26px 24px;
  overflow: auto;
}

.top,
.tools,
.chosen-bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
  margin-bottom: 14px;
}

.chosen-bar {
  position: sticky;
  z-index: 2;
  top: -26px;
  padding: 8px 12px;
  border: 1px solid rgb(var(--v-theme-picked));
  border-radius: var(--round-small);
  background: rgb(var(--v-theme-surface));
}

h1 {
  flex: 1;
  font-size: calc(30px * var(--scale));
}

.welcome {
  margin-bottom: 14px;
}

.search {
  flex: 1;
  min-width: 200px;
}

.tools .choice {
  flex: none;
  width: 170px;
}

.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(300px, 1fr));
  align-items: start;
  gap: 18px;
  padding: 0;
  list-style: none;
}
</style>
