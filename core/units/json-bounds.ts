import type { z } from 'zod'

export type Json = z.core.util.JSONType

/** What a JSON text may hold: values within values, values in all, and characters of a key. */
export type JsonBounds = { deepest: number; most: number }

const LONGEST_KEY = 1000

/**
 * What of a JSON value cannot be lived with, and where (a JSON pointer, RFC 6901): nested too deeply, too many values,
 * a number beyond what a double holds, or a text that is none (half of a surrogate pair, or U+0000, which PostgreSQL
 * does not store). Null if it can be kept, written again and read by what goes down into it step by step. Takes no
 * stack, however deep the value is.
 */
export function jsonProblem(given: unknown, { deepest, most }: JsonBounds): string | null {
  const above: {
    entries: readonly (readonly [string, unknown])[] | readonly unknown[]
    isList: boolean
    at: number
  }[] = []
  let count = 0
  const where = () => {
    const path = above.map(({ entries, isList, at }) =>
      isList
        ? String(at - 1)
        : keyOf(entries[at - 1])
            .slice(0, 60)
            .replaceAll('~', '~0')
            .replaceAll('/', '~1'),
    )
    return path.length > 12 ? `/${path.slice(0, 12).join('/')}/…` : path.length > 0 ? `/${path.join('/')}` : 'it'
  }
  for (let value = given; ; ) {
    if (++count > most) return `holds more than ${most.toLocaleString('en')} values`
    if (typeof value === 'string' && !isText(value))
      return `${where()} is a text with U+0000 or half of a surrogate pair in it`
    if (typeof value === 'number' && !Number.isFinite(value)) return `${where()} is a number that is too large`
    if (typeof value === 'object' && value !== null) {
      if (above.length >= deepest) return `${where()} is nested more than ${deepest.toLocaleString('en')} deep`
      above.push({ entries: Array.isArray(value) ? value : Object.entries(value), isList: Array.isArray(value), at: 0 })
    }
    while (above.length > 0 && above.at(-1)!.at >= above.at(-1)!.entries.length) above.pop()
    const list = above.at(-1)
    if (!list) return null
    const next = list.entries[list.at++]
    if (list.isList) value = next
    else {
      const key = keyOf(next)
      if (!isText(key) || key.length > LONGEST_KEY)
        return `${where()} has a name that is too long, or has U+0000 or half of a surrogate pair in it`
      value = (next as readonly [string, unknown])[1]
    }
  }
}

const keyOf = (entry: unknown) => (entry as readonly [string, unknown])[0]
const isText = (text: string) => text.isWellFormed() && !text.includes('\u0000')

/** Characters that a JSON value takes as text, about; no more is counted than `most`. Takes no stack. */
export function jsonSize(given: unknown, most: number): number {
  let size = 0
  for (const waiting = [given]; waiting.length > 0 && size <= most; ) {
    const value = waiting.pop()
    if (typeof value === 'string') size += value.length + 3
    else if (typeof value !== 'object' || value === null) size += 6
    else if (Array.isArray(value)) {
      size += 2
      if (value.length > most) return most + 1
      for (const each of value) waiting.push(each)
    } else {
      for (const [key, each] of Object.entries(value)) {
        size += key.length + 4
        waiting.push(each)
      }
    }
  }
  return size
}
