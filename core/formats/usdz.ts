import type { Zippable } from 'fflate'
import { zipSync } from 'fflate'
import { ZIP_MOMENT } from './zip-moment'

/** Where the data of each file begins: at a multiple of so many bytes. */
const ALIGNMENT = 64
/** A field of an entry that only fills up, by a number that means nothing to anybody. */
const FILLER = 12345
const HEADER = 30

/**
 * A USD package: a ZIP of stored files, each beginning at a multiple of 64 bytes, the level's text first (the USDZ File
 * Format Specification 1.3; from memory).
 *
 * @param others by their paths
 */
export function usdzOf(text: Uint8Array, others: ReadonlyMap<string, Uint8Array>): Uint8Array {
  const files: Zippable = {}
  let at = 0
  for (const [path, bytes] of [['level.usda', text] as const, ...others]) {
    const start = at + HEADER + new TextEncoder().encode(path).length
    // The filler has four bytes of its own before what it fills with.
    const fill = (ALIGNMENT - ((start + 4) % ALIGNMENT)) % ALIGNMENT
    files[path] = [bytes, { level: 0, mtime: ZIP_MOMENT, extra: { [FILLER]: new Uint8Array(fill) } }]
    at = start + 4 + fill + bytes.length
  }
  return zipSync(files)
}
