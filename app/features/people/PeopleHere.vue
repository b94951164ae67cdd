<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { Role } from '~~/core/api/roles'
import { nameSchema } from '~~/core/level/fields'
import { counted } from '~~/core/units/plural'
import type { Notice } from '~/editor/level'
import { useLevel } from '~/editor/level'
import { useAuth } from '~/editor/auth'
import { useReserved } from '~/editor/reserved'
import { useSettings } from '~/editor/settings'
import { MOST_SHOWN, usePeople } from './people'
import { useReserving } from './reserving'
import PersonBadge from './PersonBadge.vue'

/** Who is here: their letters in the header, and below them what can be done with each. */
const people = usePeople()
const settings = useSettings()
const auth = useAuth()
const level = useLevel()
const reserved = useReserved()
const reserving = useReserving()
/** Letters for which there is room. */
const SHOWN = 4
const isOpen = ref(false)
const me = computed(() => ({ id: people.self ?? '', name: auth.name, mark: people.mark }))
const more = computed(() => Math.max(people.others.length - SHOWN, 0))
const label = computed(() =>
  people.others.length === 0
    ? 'People: nobody else is here'
    : `People: ${people.others.map(({ name }) => name).join(', ')}`,
)
/** Told to screen readers once it has stayed so for a while. */
const toldSoon = computed(() => (people.others.length === 0 ? '' : `${counted(people.others.length, 'other')} here`))
const told = refDebounced(toldSoon, 3000)

/** What somebody does who may not work. */
const WHAT: Partial<Record<Role, string>> = { look: 'looks only', note: 'looks and notes' }

const checkName = (text: string) => nameSchema.safeParse(text).error?.issues[0]?.message ?? null
function setName(name: string): void {
  settings.kept.author = name.trim()
  settings.kept.isNamed = true
}

/** What asks for a name; it goes when there is nobody left to tell it to. */
let asking: Notice | null = null
// Whoever has no name is asked for one when there is somebody to tell it to.
watch(
  () =>
    people.others.length > 0 && !auth.isProven && !settings.kept.isNamed && settings.kept.author.startsWith('Guest '),
  isAsked => {
    if (!isAsked && asking && level.notice === asking) level.notice = null
    if (!isAsked) return
    const isSaid = people.notify('You are not alone here', [`The others see you as "${settings.kept.author}".`], {
      label: 'Say your name',
      run: () => (isOpen.value = true),
    })
    asking = isSaid ? level.notice : null
  },
  { immediate: true },
)
</script>

<template>
  <v-menu v-model="isOpen" :close-on-content-click="false" location="bottom end">
    <template #activator="{ props }">
      <v-btn v-bind="props" class="people" variant="text" :aria-label="label" :title="label" data-test="people">
        <PersonBadge v-for="person in people.others.slice(0, SHOWN)" :key="person.id" :person="person" />
        <span v-if="more > 0" class="mono">+{{ more }}</span>
        <PersonBadge v-if="people.others.length === 0" :person="me" />
      </v-btn>
    </template>
    <section class="sheet here" aria-label="People" data-test="people-here">
      <h2>People here</h2>
      <FormLine label="Your name">
        <strong v-if="auth.isProven" class="name">{{ auth.name }}</strong>
        <TextBox v-else label="Your name" :value="settings.kept.author" :check="checkName" @commit="setName" />
        <PersonBadge :person="me">Your colour and letter</PersonBadge>
      </FormLine>
      <p v-if="people.others.length === 0" class="quiet">
        Nobody else has this level open. Who opens it by its address is seen here, and on the stage.
      </p>
      <p v-if="people.others.length > MOST_SHOWN" class="quiet">
        The stage shows the nearest {{ MOST_SHOWN }} of {{ people.others.length }}.
      </p>
      <ul class="list">
        <li v-for="person in people.others" :key="person.id" class="person" :data-person="person.name">
          <PersonBadge :person="person" />
          <span class="name"><LongName :name="person.name" /></span>
          <span v-if="WHAT[person.role]" class="quiet">{{ WHAT[person.role] }}</span>
          <span v-if="person.reserved.length > 0" class="quiet">{{ person.reserved.length }} reserved</span>
          <v-btn size="small" @click="people.goTo(person.id)">Go there</v-btn>
          <v-btn
            size="small"
            :active="people.following === person.id"
            :aria-pressed="people.following === person.id"
            @click="people.setFollowing(people.following === person.id ? null : person.id)"
          >
            Follow
          </v-btn>
          <v-btn size="small" @click="people.call(person.id)">Call</v-btn>
        </li>
      </ul>
      <FormLine v-if="reserved.own.size > 0" label="Reserved">
        <span class="name">{{ counted(reserved.own.size, 'thing') }} for you</span>
        <v-btn size="small" @click="reserving.release()">Let all go</v-btn>
      </FormLine>
      <v-btn v-if="people.others.length > 1" @click="people.call(null)">Call all: look here</v-btn>
      <Tick v-model="settings.kept.show.people" label="Where others look from, on the stage" />
    </section>
  </v-menu>
  <span class="sr" role="status">{{ told }}</span>
</template>

<style scoped>
.people.people {
  min-width: var(--target);
  height: max(32px, var(--target));
  padding: 0 5px;
  color: inherit;
}

.people :deep(.v-btn__content) {
  gap: 3px;
}

.here {
  width: 380px;
}

.list {
  max-height: 50vh;
  margin: 0 0 8px;
  padding: 0;
  overflow-y: auto;
  list-style: none;
}

.person {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: max(34px, var(--target));
}

.name {
  flex: 1;
  min-width: 0;
  overflow: hidden;
}
</style>
