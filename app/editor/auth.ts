import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api } from '~/api/client'
import { Latest } from './latest'
import type { Role } from '~~/core/api/roles'
import { mayDo } from '~~/core/api/roles'
import { MEGABYTE } from '~~/core/api/routes'
import type { Session } from '~~/core/api/schema'
import { useSettings } from './settings'

/** Who this person is, and what they may do here. */
export const useAuth = defineStore('auth', () => {
  const settings = useSettings()
  const session = ref<Session>({ role: 'keep', person: null, largestFile: 64 * MEGABYTE })
  const asked = new Latest()

  async function take(answer: Promise<Session>): Promise<void> {
    const isLatest = asked.next()
    const given = await answer
    if (isLatest()) session.value = given
  }

  const may = (needed: Role) => mayDo(session.value.role, needed)

  return {
    session,
    /** Whether this person may do something, in the level that was asked about last. */
    may,
    /** Whether nothing may be changed but notes. */
    mayOnlyRead: computed(() => !may('work')),
    /** Bytes of the largest glTF file that is taken in. */
    largestFile: computed(() => session.value.largestFile),
    /** What the person is called: as they are known by name, or as they say. */
    name: computed(() => session.value.person?.name ?? settings.kept.author),
    /** Whether the name is proven, and can be changed by keepers only. */
    isProven: computed(() => session.value.person !== null),
    /** Asks who we are, and what we may do in a level if one is named. Throws what the server answers. */
    ask: (level?: string) => take(api.session(level)),
    /** Comes in with a key. Throws what the server answers, and where the key does not open. */
    enter: (key: string) => take(api.startSession(key)),
    /** Goes out; whoever asks for something next is asked for a key. */
    leave: () => api.endSession(),
  }
})
