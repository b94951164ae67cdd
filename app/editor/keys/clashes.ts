import type { Chord } from './chord'
import { byPlace } from './chord'
import type { KeyPlace, KeyUse } from './stage-uses'

/** Two uses with one key where both are heard. */
export type Clash = { key: Chord; place: KeyPlace; names: [string, string] }

/**
 * All pairs that a key cannot tell apart. A letter and the place where it lies with English letters count as one key:
 * the same finger is meant.
 */
export function clashesOf(uses: readonly KeyUse[]): Clash[] {
  const found: Clash[] = []
  const first = new Map<string, string>()
  const told = new Set<string>()
  for (const { name, places, keys } of uses)
    for (const place of places)
      for (const key of keys) {
        const at = `${place} ${byPlace(key)}`
        const other = first.get(at)
        if (other === undefined) first.set(at, name)
        else if (other !== name && !told.has(`${other}/${name}`)) {
          told.add(`${other}/${name}`)
          found.push({ key, place, names: [other, name] })
        }
      }
  return found
}

/** Chords that browsers keep for themselves, whatever a page asks for; common practice of those there are. */
const KEPT = new Set([
  ...['n', 't', 'w', 'Tab', 'PageUp', 'PageDown', 'F4'].map(key => `Ctrl+${key}`),
  ...['n', 't', 'w', 'Tab', 'q'].map(key => `Ctrl+Shift+${key}`),
  'Alt+F4',
  'Alt+Tab',
])
const KEPT_PLACES = new Set([...KEPT].map(byPlace))

/** Whether a browser answers a chord itself before a page can. */
export const isKeptByBrowser = (key: Chord): boolean => KEPT_PLACES.has(byPlace(key))
