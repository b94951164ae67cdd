import type { CopyKeys, CopyPlace } from '../keys'
import { numbersOf } from '../keys'
import type { Dealt } from './deal'

/**
 * What names the copies of a scatter: `surface,name,name`, and `0,number,0` for those put down by hand. Without any,
 * none.
 */
export function dealtKeys(dealt: Pick<Dealt, 'count' | 'keys'> | null): CopyKeys {
  const [count, keys] = [dealt?.count ?? 0, dealt?.keys ?? new Int32Array(0)]
  let places: Map<string, number> | null = null
  const keyAt = (index: number) => `${keys[index * 3]},${keys[index * 3 + 1]},${keys[index * 3 + 2]}`
  return {
    count,
    at: index => [keys[index * 3]!, keys[index * 3 + 1]!, keys[index * 3 + 2]!],
    partAt: () => 'middle',
    keyAt,
    indexOf: key => {
      if (count === 0 || !numbersOf(key, 3)) return null
      places ??= new Map(Array.from({ length: count }, (_, i): [string, number] => [keyAt(i), i]))
      return places.get(key) ?? null
    },
  }
}

/** What people call a copy: short, and the same as long as it stands. */
export function nameOfDealt([surface, first, second]: CopyPlace): string {
  return surface === 0 ? `put down ${first}` : `copy ${surface}-${first.toString(36)}-${second.toString(36)}`
}
