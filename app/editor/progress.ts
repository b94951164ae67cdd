import { useIntervalFn } from '@vueuse/core'
import { computed, ref, shallowRef } from 'vue'
import { v7 } from 'uuid'
import type { Progress } from '~~/core/api/schema'
import { api } from '~/api/client'
import { orNothing } from '~/errors/or-nothing'

/** How often it is asked how far something is, in milliseconds. */
const EVERY = 400
/** Milliseconds, and a share of all, after which it is reckoned how long the rest takes. */
const [WAITED, DONE] = [1000, 0.04]

/** What was known at a time. */
type Known = { at: number; share: number }

/**
 * Seconds that something will go on, if it goes on as since it was first known how far it is; null while that says
 * little.
 */
export function secondsLeft(first: Known | null, last: Known | null): number | null {
  if (!first || !last || last.at - first.at < WAITED || last.share - first.share < DONE) return null
  return ((last.at - first.at) * (1 - last.share)) / (last.share - first.share) / 1000
}

/** How far something is that the server does and that takes long. */
export function useProgress() {
  const ticket = ref<string | null>(null)
  const now = shallowRef<Progress>({ bytes: null, share: null })
  const first = shallowRef<Known | null>(null)
  const last = shallowRef<Known | null>(null)
  const { pause, resume } = useIntervalFn(
    async () => {
      const asked = ticket.value
      const told = asked === null ? null : await api.progress(asked).catch(orNothing)
      if (!told || ticket.value !== asked) return
      // At the end, when nothing is known any more, what was known last stays.
      if (told.share !== null || told.bytes !== null) now.value = told
      if (told.share === null) return
      last.value = { at: Date.now(), share: told.share }
      first.value ??= last.value
    },
    EVERY,
    { immediate: false },
  )

  /** @returns the ticket to ask for it with */
  function begin(): string {
    now.value = { bytes: null, share: null }
    first.value = last.value = null
    ticket.value = v7()
    resume()
    return ticket.value
  }

  function end(): void {
    pause()
    ticket.value = null
  }

  return {
    isGoing: computed(() => ticket.value !== null),
    bytes: computed(() => now.value.bytes),
    share: computed(() => now.value.share),
    secondsLeft: computed(() => secondsLeft(first.value, last.value)),
    begin,
    end,
  }
}
