<script setup lang="ts">
import { mdiChevronDown } from '@mdi/js'
import { ref, shallowRef } from 'vue'
import { asName, LONGEST_NAME } from '~~/core/units/text'
import { api, whatFailed } from '~/api/client'
import { useAuth } from '~/editor/auth'
import { useLevel } from '~/editor/level'
import { useMilestones } from '~/features/milestones/milestones'

const level = useLevel()
const auth = useAuth()
const milestones = useMilestones()
/** What is being named, and what comes of that. */
const naming = shallowRef<{ title: string; button: string; save: (name: string) => Promise<unknown> } | null>(null)
const name = ref('')
const error = ref('')

function ask(title: string, button: string, first: string, save: (name: string) => Promise<unknown>): void {
  name.value = first
  error.value = ''
  naming.value = { title, button, save }
}

const askRename = () =>
  ask('Rename level', 'Rename', level.summary?.name ?? '', async given => {
    level.summary = await api.patchLevel(level.summary!.id, { name: given })
  })

const askVariant = () =>
  ask('Begin a variant', 'Begin the variant', asName(`${level.summary?.name ?? ''}, another try`), async given => {
    if (!(await milestones.begin(given, null, true))) throw new Error(milestones.failed)
  })

async function save(): Promise<void> {
  try {
    await naming.value?.save(name.value)
    naming.value = null
  } catch (failure) {
    error.value = `${failure instanceof Error ? failure.message : whatFailed(failure)} Nothing was changed.`
  }
}

/** A level of which others are begun, or not any more. */
async function setStarting(isOne: boolean): Promise<void> {
  try {
    level.summary = await api.patchLevel(level.summary!.id, { startingPoint: isOne })
    level.notify(
      isOne ? 'Levels can be begun from this one' : 'No more levels are begun from this one',
      [isOne ? 'It is among the starting points of the list of levels.' : 'It is a level like any other.'],
      undefined,
      true,
    )
  } catch (failure) {
    level.notify('Nothing was changed', [whatFailed(failure)])
  }
}
</script>

<template>
  <v-menu>
    <template #activator="{ props }">
      <v-btn v-bind="props" class="pill" variant="flat" :append-icon="mdiChevronDown">{{ level.summary?.name }}</v-btn>
    </template>
    <MenuList label="Level">
      <MenuItem title="Rename level" @click="askRename" />
      <MenuItem title="Milestones …" does="Milestones" @click="void milestones.open()" />
      <MenuItem title="Compare with …" @click="void milestones.openComparing()" />
      <MenuItem title="Begin a variant …" :disabled="!milestones.mayMake" @click="askVariant" />
      <MenuItem
        v-if="level.summary?.variantOf"
        title="The level it began from"
        :to="`/levels/${level.summary.variantOf}`"
      />
      <MenuItem
        :title="level.summary?.startingPoint ? 'No starting point any more' : 'Save as a starting point'"
        :disabled="!auth.may('work')"
        @click="void setStarting(!level.summary?.startingPoint)"
      />
      <MenuItem title="All levels" to="/" />
    </MenuList>
  </v-menu>
  <FormDialog
    page="levels"
    :model-value="naming !== null"
    :title="naming?.title ?? ''"
    max-width="420"
    @update:model-value="naming = null"
  >
    <v-text-field
      v-model="name"
      aria-label="Name"
      autofocus
      :maxlength="LONGEST_NAME"
      :error="Boolean(error)"
      @keydown.enter="save"
    />
    <p v-if="error" role="alert" class="error">{{ error }}</p>
    <template #buttons>
      <v-btn @click="naming = null">Cancel</v-btn>
      <v-btn color="action" variant="flat" @click="save">{{ naming?.button }}</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.pill.pill {
  --v-btn-height: max(calc(28px * var(--scale)), var(--target));

  max-width: 260px;
  border-radius: 14px;
  background: rgba(var(--v-theme-on-slate), 0.14);
  color: inherit;
}
</style>
