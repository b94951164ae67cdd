import type { Level } from '../level/level'
import { holdersOf, relationsIn } from './graph'

const ASKED = /^(?<what>.*?)\b(?<way>held by|holds)\b(?<whom>.*)$/i

/**
 * Things found by what keeps them: "held by slab", "crate held by", "post holds lantern". Each side are words that a
 * name has, or nothing for any thing.
 *
 * @returns null for a text that does not ask for that
 */
export function findKept(level: Level, text: string): string[] | null {
  const { what = '', way = '', whom = '' } = ASKED.exec(text)?.groups ?? {}
  if (way === '') return null
  const { byHeld, heldBy } = relationsIn(level)
  const isCalled = (id: string, words: string) => {
    const name = level.get(id)?.name.toLowerCase()
    return (
      name !== undefined
      && words
        .toLowerCase()
        .split(/\s+/)
        .every(word => name.includes(word))
    )
  }
  const isHeld = way.toLowerCase() === 'held by'
  const others = (id: string): Iterable<string> =>
    isHeld ? (byHeld.get(id) ?? []).flatMap(holdersOf) : (heldBy.get(id) ?? [])
  return [...(isHeld ? byHeld : heldBy).keys()].filter(
    id => isCalled(id, what) && (whom.trim() === '' || [...others(id)].some(other => isCalled(other, whom))),
  )
}
