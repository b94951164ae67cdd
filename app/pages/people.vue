<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { useClipboard } from '@vueuse/core'
import { onMounted, reactive, ref, shallowRef } from 'vue'
import type { Account, KeeperLog, PersonKey, PersonPatch } from '~~/core/api/accounts'
import { KEPT_DEEDS } from '~~/core/api/accounts'
import type { Role } from '~~/core/api/roles'
import { ROLE_WORDS, ROLES } from '~~/core/api/roles'
import type { ListedLevel } from '~~/core/api/schema'
import { nameSchema } from '~~/core/level/fields'
import { counted } from '~~/core/units/plural'
import { LONGEST_NAME } from '~~/core/units/text'
import { api, whatFailed } from '~/api/client'
import { useAuth } from '~/editor/auth'
import PersonLevels from '~/features/people/PersonLevels.vue'
import WhoAmI from '~/features/people/WhoAmI.vue'
import BesideHandbook from '~/features/handbook/BesideHandbook.vue'
import AppHeader from '~/shell/header/AppHeader.vue'
import { whenInWords } from '~/ui/when-in-words'

useHead({ title: 'People · Handy Grid' })

const WHAT: Record<Role, string> = {
  look: 'looks at everything',
  note: 'looks, and writes notes',
  work: 'works on levels and the kit',
  keep: 'lets people in, deletes levels',
}
const roles = ROLES.map(value => ({ value, name: `${ROLE_WORDS[value]}: ${WHAT[value]}` }))

const auth = useAuth()
const people = shallowRef<Account[] | null>(null)
const levels = shallowRef<ListedLevel[]>([])
const log = shallowRef<KeeperLog['entries']>([])
const hasMore = ref(false)
const failed = ref<string | null>(null)
const adding = reactive({ name: '', role: 'work' as Role, error: '' })
/** A key that was just made: it is shown this once. */
const made = shallowRef<PersonKey | null>(null)
const ending = shallowRef<Account | null>(null)
const narrowing = shallowRef<Account | null>(null)
const { copy, copied } = useClipboard({ legacy: true })

onMounted(() => attempt(async () => void (levels.value = await api.levels())))

/** Runs something that needs the server, and shows how things are after it, and what was wrong. */
async function attempt(run: () => Promise<unknown>): Promise<void> {
  failed.value = null
  try {
    await run()
    people.value = await api.people()
    await readLog()
  } catch (error) {
    failed.value = whatFailed(error)
  }
}

/** @param before reads on from this entry; from the last one when left out */
async function readLog(before?: number): Promise<void> {
  const read = await api.keeperLog(before)
  log.value = before === undefined ? read : [...log.value, ...read]
  hasMore.value = read.length > 0 && read.at(-1)!.id > 1
}

async function letIn(): Promise<void> {
  const name = adding.name.trim()
  const wrong = nameSchema.safeParse(name).error?.issues[0]?.message
  adding.error = wrong ? `A name ${wrong}.` : ''
  if (wrong) return
  try {
    made.value = await api.letIn({ name, role: adding.role })
    adding.name = ''
  } catch (error) {
    adding.error = whatFailed(error)
    return
  }
  await attempt(async () => {})
}

const patch = (person: Account, what: PersonPatch) => attempt(() => api.patchPerson(person.id, what))
const renew = (person: Account) => attempt(async () => void (made.value = await api.renewKey(person.id)))

async function end(): Promise<void> {
  const person = ending.value
  ending.value = null
  if (person) await attempt(() => api.endPerson(person.id))
}

const checkName = (text: string) => nameSchema.safeParse(text.trim()).error?.issues[0]?.message ?? null
const isSelf = (person: Account) => person.id === auth.session.person?.id
const linkOf = ({ key }: PersonKey) => `${location.origin}/enter#key=${key}`
const levelsOf = ({ levels: own }: Account) =>
  own.length === 0 ? 'the same in all levels' : `less in ${counted(own.length, 'level')}`
</script>

<template>
  <div class="page">
    <AppHeader>
      <template #end><WhoAmI /></template>
    </AppHeader>
    <BesideHandbook is-alone>
      <main class="people">
        <h1>People</h1>
        <p class="quiet">
          Each person comes in by a key of their own, or by the studio's identity provider if there is one. Whoever is
          ended is out everywhere within a second; what they made stays.
        </p>
        <p v-if="failed" role="alert" class="error">{{ failed }}</p>
        <form class="adding" aria-label="Let somebody in" @submit.prevent="letIn">
          <v-text-field
            v-model="adding.name"
            class="name-field"
            aria-label="Name of the new person"
            placeholder="Name"
            autocomplete="off"
            :maxlength="LONGEST_NAME"
            :error="Boolean(adding.error)"
          />
          <Choice v-model="adding.role" class="role" label="Role of the new person" :options="roles" />
          <v-btn type="submit" color="action" variant="flat" :prepend-icon="mdiPlus">Let in</v-btn>
        </form>
        <p v-if="adding.error" role="alert" class="error">{{ adding.error }}</p>
        <p v-if="people?.length === 0" class="quiet">Nobody is let in by name yet.</p>
        <v-table v-if="people && people.length > 0" class="table" density="compact" aria-label="People">
          <thead>
            <tr>
              <th scope="col">Name</th>
              <th scope="col">Role</th>
              <th scope="col">In single levels</th>
              <th scope="col">Comes in by</th>
              <th scope="col"><span class="sr">What can be done</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="person in people" :key="person.id" :data-person="person.name" :class="{ ended: person.endedAt }">
              <td>
                <span v-if="person.endedAt || person.by === 'provider'">{{ person.name }}</span>
                <TextBox
                  v-else
                  bare
                  :value="person.name"
                  :label="`Name of ${person.name}`"
                  :check="checkName"
                  @commit="patch(person, { name: $event.trim() })"
                />
              </td>
              <td>
                <span v-if="person.endedAt || person.by === 'provider' || isSelf(person)">
                  {{ ROLE_WORDS[person.role] }}
                </span>
                <Choice
                  v-else
                  :model-value="person.role"
                  :label="`Role of ${person.name}`"
                  :options="roles"
                  @update:model-value="patch(person, { role: $event })"
                />
              </td>
              <td>
                <v-btn v-if="!person.endedAt" variant="text" @click="narrowing = person">{{ levelsOf(person) }}</v-btn>
              </td>
              <td class="quiet">
                <template v-if="person.endedAt">ended {{ whenInWords(person.endedAt) }}</template>
                <template v-else-if="person.by === 'provider'">the identity provider</template>
                <template v-else-if="person.keyMadeAt">a key of {{ whenInWords(person.keyMadeAt) }}</template>
              </td>
              <td class="doings">
                <v-btn v-if="person.by === 'key'" @click="renew(person)">
                  {{ person.endedAt ? 'Let in again' : 'New key' }}
                </v-btn>
                <v-btn v-else-if="person.endedAt" @click="patch(person, { ended: false })">Let in again</v-btn>
                <v-btn v-if="!person.endedAt" :disabled="isSelf(person)" @click="ending = person">End</v-btn>
              </td>
            </tr>
          </tbody>
        </v-table>
        <h2>What keepers did</h2>
        <p v-if="log.length === 0" class="quiet">Nothing yet.</p>
        <ol class="log" aria-label="What keepers did, the last first">
          <li v-for="entry in log" :key="entry.id">
            <span class="quiet mono">{{ whenInWords(entry.at) }}</span>
            {{ entry.by }} {{ KEPT_DEEDS[entry.did] }}
            <strong>{{ entry.to }}</strong>
            <template v-if="entry.now">: {{ entry.now }}</template>
          </li>
        </ol>
        <v-btn v-if="hasMore" class="link" variant="plain" @click="readLog(log.at(-1)!.id)">Earlier</v-btn>
      </main>
    </BesideHandbook>
    <FormDialog
      page="together"
      :model-value="made !== null"
      :title="`A key for ${made?.person.name}`"
      max-width="560"
      persistent
      @update:model-value="made = null"
    >
      <template v-if="made">
        <p>It is shown this once, and kept nowhere. Who opens the link is in as {{ made.person.name }}.</p>
        <v-text-field aria-label="Link with the key" readonly :model-value="linkOf(made)" data-test="key-link" />
      </template>
      <template #buttons>
        <v-btn @click="made && copy(linkOf(made))">{{ copied ? 'Copied' : 'Copy the link' }}</v-btn>
        <v-btn color="action" variant="flat" @click="made = null">Done</v-btn>
      </template>
    </FormDialog>
    <FormDialog
      page="together"
      :model-value="ending !== null"
      :title="`End ${ending?.name}?`"
      max-width="440"
      @update:model-value="ending = null"
    >
      <p>They are out everywhere within a second. What they made stays; they can be let in again.</p>
      <template #buttons>
        <v-btn @click="ending = null">Cancel</v-btn>
        <v-btn color="action" variant="flat" @click="end">End</v-btn>
      </template>
    </FormDialog>
    <PersonLevels
      v-if="narrowing"
      :person="narrowing"
      :levels="levels"
      @close="narrowing = null"
      @save="(person, own) => patch(person, { levels: own })"
    />
  </div>
</template>

<style scoped>
.page {
  display: flex;
  flex-direction: column;
  height: 100dvh;
  background: rgb(var(--v-theme-background));
}

.people {
  width: min(1120px, 100%);
  height: 100%;
  margin: 0 auto;
  padding: 26px 24px;
  overflow: auto;
}

h1 {
  font-size: calc(30px * var(--scale));
}

h2 {
  margin-top: 26px;
}

.adding {
  display: flex;
  gap: 10px;
  align-items: center;
  margin: 14px 0;
}

.name-field {
  flex: 1;
}

.role {
  flex: 1;
}

.table {
  border: 1px solid var(--line);
  border-radius: var(--round);
}

.table td,
.table th {
  font-size: var(--body);
}

.table td:first-child {
  min-width: 230px;
}

.ended {
  color: var(--quiet);
}

.doings {
  text-align: right;
  white-space: nowrap;
}

.doings > * + * {
  margin-left: 6px;
}

.log {
  padding: 0;
  list-style: none;
}

.log li {
  padding: 3px 0;
  overflow-wrap: anywhere;
}
</style>
