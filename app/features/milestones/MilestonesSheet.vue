<script setup lang="ts">
import { mdiDotsVertical, mdiFlagOutline } from '@mdi/js'
import { ref, shallowRef, watch } from 'vue'
import type { Milestone } from '~~/core/api/milestones'
import { LONGEST_ABOUT } from '~~/core/api/milestones'
import { counted } from '~~/core/units/plural'
import { asName, LONGEST_NAME } from '~~/core/units/text'
import { useLevel } from '~/editor/level'
import { whenInWords } from '~/ui/when-in-words'
import { useMilestones } from './milestones'

/** The milestones of the level: set one, and what each can be asked for. */
const here = useMilestones()
const level = useLevel()
const name = ref('')
const about = ref('')
/** What is being named: an earlier milestone otherwise, or a level that begins at one. */
const naming = shallowRef<{ of: Milestone; as: 'milestone' | 'level' | 'variant'; name: string; about: string } | null>(
  null,
)

watch(
  () => here.isOpen,
  () => {
    name.value = ''
    about.value = ''
    naming.value = null
  },
)

async function set(): Promise<void> {
  if (!(await here.make(name.value, about.value))) return
  name.value = ''
  about.value = ''
}

function nameAs(of: Milestone, as: 'milestone' | 'level' | 'variant'): void {
  const called = level.summary?.name ?? ''
  naming.value = {
    of,
    as,
    name: as === 'milestone' ? of.name : asName(as === 'variant' ? `${called}, another try` : `${called}, ${of.name}`),
    about: of.about,
  }
}

async function saveName(): Promise<void> {
  const given = naming.value
  if (!given) return
  const isDone =
    given.as === 'milestone'
      ? await here.rename(given.of.id, given.name, given.about)
      : await here.begin(given.name, given.of, given.as === 'variant')
  if (isDone) naming.value = null
}

const facts = ({ by, proven, madeAt, revision, placementCount, made }: Milestone) =>
  [
    made === 'by hand' ? `${by}${proven ? ' (signed in)' : ''}` : `made by itself, ${by} was at work`,
    whenInWords(madeAt),
    `change ${revision}`,
    placementCount === null ? '' : counted(placementCount, 'thing'),
  ]
    .filter(Boolean)
    .join(' · ')
</script>

<template>
  <FormDialog page="going-back" v-model="here.isOpen" title="Milestones" max-width="680" data-test="milestones">
    <p class="quiet hint">
      A milestone names the level as it is, to come back to, to compare with, or to try something else from. Some are
      made by themselves: before the first change of a day, and before large ones.
    </p>
    <p v-if="here.earlier" class="told">
      The level as it was after change {{ here.earlier.revision }}, “{{ here.earlier.label }}”, gets the name.
      <v-btn class="link" variant="plain" @click="here.earlier = null">As it is now instead</v-btn>
    </p>
    <form v-if="here.mayMake" class="set" @submit.prevent="set">
      <v-text-field
        v-model="name"
        autofocus
        aria-label="Name of the milestone"
        placeholder="What the level is like now"
        :maxlength="LONGEST_NAME"
      />
      <v-text-field
        v-model="about"
        aria-label="About it"
        placeholder="A line about it, if there is something to say"
        :maxlength="LONGEST_ABOUT"
      />
      <v-btn
        type="submit"
        color="action"
        variant="flat"
        :prepend-icon="mdiFlagOutline"
        :disabled="!name.trim()"
        :loading="here.isWorking"
      >
        Set a milestone
      </v-btn>
    </form>
    <p v-if="here.failed" role="alert" class="error">{{ here.failed }}</p>
    <form v-if="naming" class="set naming" @submit.prevent="saveName">
      <v-text-field v-model="naming.name" autofocus aria-label="New name" :maxlength="LONGEST_NAME" />
      <v-text-field
        v-if="naming.as === 'milestone'"
        v-model="naming.about"
        aria-label="About this one"
        :maxlength="LONGEST_ABOUT"
      />
      <div class="buttons">
        <v-btn @click="naming = null">Cancel</v-btn>
        <v-btn type="submit" variant="flat" color="primary">
          {{
            naming.as === 'milestone' ? 'Rename' : naming.as === 'variant' ? 'Begin the variant' : 'Open it as a level'
          }}
        </v-btn>
      </div>
    </form>
    <p v-if="here.all?.length === 0" class="quiet">There is none yet. Say above what the level is like, and set one.</p>
    <ul class="list" aria-label="Milestones, the last first">
      <li v-for="milestone in here.all ?? []" :key="milestone.id" class="row" :data-milestone="milestone.name">
        <img v-if="milestone.hasPicture" :src="`/api/milestones/${milestone.id}/picture`" alt="" class="picture" />
        <span v-else class="picture blank quiet">no picture</span>
        <div class="what">
          <LongName :name="milestone.name" class="name" />
          <span v-if="milestone.about" class="about">{{ milestone.about }}</span>
          <span class="quiet facts">{{ facts(milestone) }}</span>
        </div>
        <v-btn size="small" @click="here.compare(here.asOther(milestone))">Compare</v-btn>
        <v-menu>
          <template #activator="{ props }">
            <IconButton v-bind="props" :icon="mdiDotsVertical" :label="`More for ${milestone.name}`" />
          </template>
          <MenuList :label="milestone.name">
            <MenuItem title="Go back to it" :disabled="!here.mayMake" @click="void here.goBack(milestone)" />
            <MenuItem
              title="Bring back only what is picked"
              :disabled="!here.mayMake || level.selection.ids.size === 0"
              @click="void here.bringBackPicked(milestone)"
            />
            <MenuItem title="Begin a variant here …" :disabled="!here.mayMake" @click="nameAs(milestone, 'variant')" />
            <MenuItem
              title="Open it as a level of its own …"
              :disabled="!here.mayMake"
              @click="nameAs(milestone, 'level')"
            />
            <MenuItem title="Rename …" :disabled="!here.mayMake" @click="nameAs(milestone, 'milestone')" />
            <MenuItem title="Delete" :disabled="!here.mayMake" @click="void here.remove(milestone)" />
          </MenuList>
        </v-menu>
      </li>
    </ul>
    <template #buttons>
      <v-btn @click="here.isOpen = false">Close</v-btn>
    </template>
  </FormDialog>
</template>

<style scoped>
.set {
  display: grid;
  grid-template-columns: 1fr 1fr auto;
  gap: 8px;
  align-items: center;
}

.naming {
  padding: 8px;
  border: 1px solid var(--line);
  border-radius: var(--round-small);
}

.list {
  max-height: 50vh;
  padding: 0;
  margin: 0;
  overflow-y: auto;
  list-style: none;
}

.row {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 6px 2px;
  border-top: 1px solid var(--line);
}

.picture {
  flex: none;
  width: 84px;
  aspect-ratio: 16 / 10;
  object-fit: cover;
  border: 1px solid var(--line);
  border-radius: var(--round-small);
}

.blank {
  display: grid;
  place-items: center;
  font-size: var(--note);
}

.what {
  display: flex;
  flex: 1;
  flex-direction: column;
  min-width: 0;
}

.name {
  font: 600 var(--title) var(--narrow);
}

.about {
  overflow-wrap: anywhere;
}

.facts {
  font-size: var(--small);
}
</style>
