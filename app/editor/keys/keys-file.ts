import { z } from 'zod'
import { readJsonAs, readTextFile } from '../json-file'
import { keysSchema } from '../settings-schema'
import type { Chord, KeysBy } from './chord'

// Keys as a file of their own: JSON with a version, and only what is other than ours.

const VERSION = 1
const fileSchema = z.strictObject({
  format: z.literal('handy-grid keys'),
  version: z.literal(VERSION),
  by: z.enum(['letter', 'place']),
  keys: keysSchema,
})

export type KeySet = { by: KeysBy; keys: Record<string, Chord[]> }
/** What a file says; or what is wrong with it, and where. */
export type KeysRead = { ok: true; set: KeySet } | { ok: false; error: string }

/** The name that such a file has. */
export const KEYS_FILE = 'handy-grid-keys.json'
/** Characters of a file of keys, at most. */
const LONGEST = 200_000
const TOO_LONG: KeysRead = { ok: false, error: 'It is too long to be a file of keys.' }

export const writeKeys = ({ by, keys }: KeySet): string =>
  `${JSON.stringify({ format: 'handy-grid keys', version: VERSION, by, keys }, null, 2)}\n`

/**
 * Reads what `writeKeys` has written, or somebody by hand.
 *
 * @example
 * const read = readKeys(writeKeys({ by: 'letter', keys: { Undo: ['Ctrl+z'] } }))
 * if (read.ok) read.set.keys.Undo // ['Ctrl+z']
 */
export function readKeys(text: string): KeysRead {
  if (text.length > LONGEST) return TOO_LONG
  const read = readJsonAs(text, fileSchema)
  return read.ok ? { ok: true, set: { by: read.value.by, keys: read.value.keys } } : read
}

/** The same of a file. */
export async function readKeysFile(file: Blob): Promise<KeysRead> {
  const read = await readTextFile(file, 4 * LONGEST, 'a file of keys')
  return read.ok ? readKeys(read.text) : read
}
