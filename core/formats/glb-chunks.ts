import { FormatError } from './format-error'
import { jsonProblem } from '../units/json-bounds'

/** Why a glTF file is not taken in, in words, with the place in it. */
export class GlbError extends FormatError {
  override name = 'GlbError'
}

/**
 * Values within values of a description, and values in all. What the standard has goes eight deep; extras may go on.
 */
const JSON_BOUNDS = { deepest: 200, most: 10_000_000 }

// The frame of a binary glTF file (ISO/IEC 12113:2022, 4.4).

/** "glTF", its version, and the chunks "JSON" and "BIN". */
export const MAGIC = [0x46546c67, 2, 0x4e4f534a, 0x004e4942] as const

export function isGlb(bytes: Uint8Array): boolean {
  return bytes.length >= 12 && new DataView(bytes.buffer, bytes.byteOffset).getUint32(0, true) === MAGIC[0]
}

/**
 * The description of a binary glTF file and the data behind it, if there are any.
 *
 * @param mostJson bytes its description may have
 * @throws GlbError
 */
export function readChunks(bytes: Uint8Array, mostJson: number): { json: unknown; binary: Uint8Array | null } {
  if (!isGlb(bytes)) throw new GlbError('it is no binary glTF')
  const words = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (words.getUint32(4, true) !== MAGIC[1]) throw new GlbError('it is not glTF 2.0')
  if (words.getUint32(8, true) !== bytes.length)
    throw new GlbError('it is cut off, or its length is not the one it states')
  const jsonLength = bytes.length < 20 ? Infinity : words.getUint32(12, true)
  if (20 + jsonLength > bytes.length || words.getUint32(16, true) !== MAGIC[2])
    throw new GlbError('its description cannot be read')
  const json = parseDescription(bytes.subarray(20, 20 + jsonLength), mostJson)
  const at = 20 + jsonLength
  if (at + 8 > bytes.length || words.getUint32(at + 4, true) !== MAGIC[3]) return { json, binary: null }
  const length = words.getUint32(at, true)
  if (at + 8 + length > bytes.length) throw new GlbError('its data cannot be read')
  return { json, binary: bytes.subarray(at + 8, at + 8 + length) }
}

/** @param most bytes it may have @throws GlbError */
export function parseDescription(bytes: Uint8Array, most: number): unknown {
  if (bytes.length > most)
    throw new GlbError(`its description is longer than the ${most / 1024 / 1024} MB that are read here`)
  let json: unknown
  try {
    json = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes))
  } catch {
    throw new GlbError('its description is no well-formed JSON')
  }
  const problem = jsonProblem(json, JSON_BOUNDS)
  if (problem) throw new GlbError(`its description: ${problem}`)
  return json
}
