import { defineStore } from 'pinia'
import { shallowRef } from 'vue'
import { MOST_RESERVED } from '~~/core/api/people'
import type { Operation } from '~~/core/level/schema'
import type { Reserved } from '~~/core/scene/reserved'
import { reservedAmong, reservedAs } from '~~/core/scene/reserved'

type Asked = Parameters<typeof reservedAs>[0]

/** Before something is done to what others have reserved. */
export type ReservedQuestion = {
  /** What would be done. */
  label: string
  found: readonly Reserved[]
  /** Reserves it for the person here, and does it. */
  takeOver: () => void
}

/** Who has reserved what in the open level; it is asked before anything of that is changed. */
export const useReserved = defineStore('reserved', () => {
  /** What others have reserved, with their names. */
  const byOthers = shallowRef<ReadonlyMap<string, string>>(new Map())
  /** What the person here has. */
  const own = shallowRef<ReadonlySet<string>>(new Set())
  const question = shallowRef<ReservedQuestion | null>(null)

  /**
   * Asks before operations change what others have reserved.
   *
   * @param goOn does them after it was taken over
   * @returns whether there is anything to ask
   */
  function asks(level: Asked, label: string, operations: readonly Operation[], goOn: () => void): boolean {
    const found = reservedAmong(level, byOthers.value, operations)
    if (found.length === 0) return false
    question.value = {
      label,
      found,
      takeOver: () => {
        question.value = null
        const taken = new Set(found.map(({ id }) => id))
        byOthers.value = new Map([...byOthers.value].filter(([id]) => !taken.has(id)))
        const all = new Set([...own.value, ...taken])
        // Beyond that it is only done.
        if (all.size <= MOST_RESERVED) own.value = all
        goOn()
      },
    }
    return true
  }

  return {
    byOthers,
    own,
    question,
    asks,
    /** By whom a thing is reserved; null if by none of the others. */
    of: (level: Asked, id: string) => (byOthers.value.size === 0 ? null : reservedAs(level, byOthers.value, id)),
  }
})
