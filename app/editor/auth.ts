import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { api } from '~/api/client'
import { Latest } from './latest'
import { MEGABYTE } from '~~/core/api/routes'
import type { Session } from '~~/core/api/schema'

/** What this person may do here, by the key they came in with. */
export const useAuth = defineStore('auth', () => {
  const session = ref<Session>({ may: 'write', largestFile: 64 * MEGABYTE })
  const asked = new Latest()

  async function take(answer: Promise<Session>): Promise<void> {
    const isLatest = asked.next()
    const given = await answer
    if (isLatest()) session.value = given
  }

  return {
    session,
    /** Whether this person came in with the reading key. */
    mayOnlyRead: computed(() => session.value.may === 'read'),
    /** Bytes of the largest glTF file that is taken in. */
    largestFile: computed(() => session.value.largestFile),
    /** Asks who we are. Throws what the server answers. */
    ask: () => take(api.session()),
    /** Comes in with a key. Throws what the server answers, and where the key does not open. */
    enter: (key: string) => take(api.startSession(key)),
  }
})
