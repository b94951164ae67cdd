import type { RemovableRef } from '@vueuse/core'
import { useLocalStorage } from '@vueuse/core'

/**
 * What is kept in this browser under a name.
 *
 * @param read makes sense of whatever was kept, also by an earlier version or by hand; of null as it is at first
 */
export const useKeptHere = <T extends object>(name: string, read: (kept: unknown) => T): RemovableRef<T> =>
  useLocalStorage<T>(`handy-grid.${name}`, () => read(null), {
    serializer: { read: text => read(parsed(text)), write: value => JSON.stringify(value) },
  })

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}
