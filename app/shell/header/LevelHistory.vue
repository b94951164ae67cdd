<script setup lang="ts">
import { mdiFlagOutline, mdiHistory, mdiPlaylistCheck, mdiPlaylistPlus } from '@mdi/js'
import { computed, ref, shallowRef, watch } from 'vue'
import type { HistoryEntry } from '~~/core/api/schema'
import { api, whatFailed } from '~/api/client'
import { useLevel } from '~/editor/level'
import { useMilestones } from '~/features/milestones/milestones'
import { useRecipes } from '~/features/recipes/recipes'
import { counted } from '~~/core/units/plural'
import { whenInWords } from '~/ui/when-in-words'

const level = useLevel()
const milestones = useMilestones()
const recipes = useRecipes()
const isOpen = ref(false)
const entries = shallowRef<readonly HistoryEntry[]>([])
const hasMore = ref(false)
const failed = ref('')
const going = ref<number | null>(null)

watch(isOpen, open => open && void load())
watch(
  () => level.saving,
  state => isOpen.value && state.kind === 'saved' && void load(),
)

/** @param before adds the changes before this revision; starts again when left out */
async function load(before?: number): Promise<void> {
  if (!level.summary) return
  failed.value = ''
  try {
    const found = await api.history(level.summary.id, before)
    entries.value = before === undefined ? found : [...entries.value, ...found]
    hasMore.value = (found.at(-1)?.revision ?? 1) > 1
  } catch (error) {
    failed.value = whatFailed(error)
  }
}

/** By whom the changes are that are shown; all of them if null. */
const shownBy = ref<string | null>(null)
const people = computed(() => [...new Set(entries.value.map(({ author }) => author))].sort())
const byOptions = computed(() => [
  { value: null, name: 'everybody' },
  ...people.value.map(author => ({ value: author, name: author })),
])
const shown = computed(() =>
  entries.value
    .map((entry, index) => ({ entry, index }))
    .filter(({ entry }) => shownBy.value === null || entry.author === shownBy.value),
)

/** Back to what the level was after an entry. What takes back the later ones has to be known. */
const canGoTo = (index: number) => index > 0 && entries.value.slice(0, index).every(entry => entry.canBeTakenBack)

async function goBack(revision: number, label: string): Promise<void> {
  failed.value = ''
  going.value = revision
  try {
    await level.goBack({ revision, label })
  } catch (error) {
    failed.value = whatFailed(error)
  }
  going.value = null
}

function makeRecipe(): void {
  isOpen.value = false
  void recipes.makeOfMarked()
}

/** Names the state after an entry. */
function name({ revision, label }: HistoryEntry): void {
  isOpen.value = false
  void milestones.open({ revision, label })
}

/** The last entry that is too old to be taken back. */
const tooOld = computed(() => entries.value.find(entry => !entry.canBeTakenBack))
</script>

<template>
  <v-menu v-model="isOpen" :close-on-content-click="false" location="bottom start">
    <template #activator="{ props }">
      <IconButton v-bind="props" :icon="mdiHistory" label="List of changes" />
    </template>
    <section class="sheet history" aria-label="Changes" data-test="history">
      <h2>Changes</h2>
      <p class="quiet">
        A click takes the level back to what it was after that change. This is a change like any other, and can be
        undone.
      </p>
      <p v-if="tooOld" class="quiet" data-test="too-old">
        Only the list was kept of what was done until {{ whenInWords(tooOld.madeAt) }}: the level cannot go back beyond
        that.
      </p>
      <p v-if="failed" role="alert" class="error">{{ failed }}</p>
      <p v-if="entries.length === 0 && !failed" class="quiet">Nothing has been changed yet.</p>
      <Choice v-if="people.length > 1" v-model="shownBy" label="By" :options="byOptions" />
      <MenuList class="list" label="Changes, the last one first">
        <div v-for="{ entry, index } in shown" :key="entry.revision" class="row" role="presentation">
          <MenuItem
            class="change"
            :disabled="(index > 0 && !canGoTo(index)) || going !== null"
            :active="index === 0"
            :link="index > 0"
            :title="entry.label"
            :subtitle="`${entry.author}${entry.proven ? ' (signed in)' : ''} · ${whenInWords(entry.madeAt)}`"
            :data-revision="entry.revision"
            :end="index === 0 ? 'now' : String(entry.revision)"
            @click="index > 0 && goBack(entry.revision, entry.label)"
          />
          <IconButton
            role="menuitem"
            :icon="recipes.marked.includes(entry.revision) ? mdiPlaylistCheck : mdiPlaylistPlus"
            :size="14"
            :pressed="recipes.marked.includes(entry.revision)"
            :label="`Change ${entry.revision} into a recipe`"
            @click="recipes.toggleMarked(entry.revision)"
          />
          <IconButton
            v-if="milestones.mayMake && (index === 0 || canGoTo(index))"
            role="menuitem"
            :icon="mdiFlagOutline"
            :size="14"
            :label="`Name the level as it was after change ${entry.revision}`"
            @click="name(entry)"
          />
        </div>
        <MenuItem
          v-if="shownBy === null && entries.length > 0 && !hasMore && canGoTo(entries.length)"
          title="The beginning"
          :disabled="going !== null"
          data-revision="0"
          @click="goBack(0, '')"
        />
      </MenuList>
      <v-btn v-if="recipes.marked.length > 0" class="main" color="action" variant="flat" @click="makeRecipe">
        Make a recipe of {{ counted(recipes.marked.length, 'change') }}
      </v-btn>
      <v-btn v-if="hasMore && entries.length > 0" class="link" variant="plain" @click="load(entries.at(-1)!.revision)">
        Earlier changes
      </v-btn>
    </section>
  </v-menu>
</template>

<style scoped>
.history {
  width: 370px;
}

.row {
  display: flex;
  align-items: center;
}

.change {
  flex: 1;
  min-width: 0;
}

.list {
  max-height: 55vh;
  overflow-y: auto;
}
</style>
