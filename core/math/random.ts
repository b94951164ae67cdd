/**
 * An even random number from 0 to 1 for a seed and a place: always the same one, however many others are asked for.
 * The mixing is the last step of MurmurHash3 (Appleby, public domain).
 *
 * @param channel tells several numbers of one place apart
 */
export function randomAt(seed: number, row: number, column: number, layer: number, channel = 0): number {
  let hash = mix(seed ^ 0x9e3779b9)
  for (const part of [row, column, layer, channel]) hash = mix(hash ^ Math.imul(part + 1, 0x85ebca6b))
  return (hash >>> 0) / 2 ** 32
}

function mix(hash: number): number {
  hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b)
  hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35)
  return hash ^ (hash >>> 16)
}
