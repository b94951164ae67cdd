import type { RemovableRef, StorageLike } from '@vueuse/core'
import { useStorage } from '@vueuse/core'
import { ref } from 'vue'

/** Whether this browser does not keep what it is given: its storage is full, or forbidden as in private windows. */
export const keepsNothing = ref(false)

/** What lasts as long as the page, where the browser keeps nothing. */
function memory(): StorageLike {
  const kept = new Map<string, string>()
  return {
    getItem: key => kept.get(key) ?? null,
    setItem: (key, value) => void kept.set(key, value),
    removeItem: key => void kept.delete(key),
  }
}

/** The browser's storage; asking for it is forbidden in some. */
function storageHere(): StorageLike {
  try {
    return globalThis.localStorage ?? memory()
  } catch {
    keepsNothing.value = true
    return memory()
  }
}

/**
 * What is kept in this browser under a name. Where it cannot be kept it lasts as long as the page, and `keepsNothing`
 * says so.
 *
 * @param read makes sense of whatever was kept, also by an earlier version or by hand; of null as it is at first
 */
export const useKeptHere = <T extends object>(name: string, read: (kept: unknown) => T): RemovableRef<T> =>
  useStorage<T>(`handy-grid.${name}`, () => read(null), storageHere(), {
    serializer: { read: text => read(parsed(text)), write: value => JSON.stringify(value) },
    onError: () => (keepsNothing.value = true),
  })

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}
