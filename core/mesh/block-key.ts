import type { Mesh } from './mesh'
import type { BlockLook, BlockShape } from './block'
import { blockMesh } from './block-mesh'

const PREFIX = 'block:'
const known = new WeakMap<BlockLook, string>()

/** Names the shape a block makes. Blocks that look the same have the same key, and so share one mesh. */
export function blockKey(block: BlockLook): string {
  let key = known.get(block)
  if (key === undefined) known.set(block, (key = shapeKey(block)))
  return key
}

export function shapeKey({ shape, color }: BlockLook): string {
  return PREFIX + JSON.stringify([Object.entries(shape).sort(([a], [b]) => (a < b ? -1 : 1)), color])
}

export function isBlockKey(key: string): boolean {
  return key.startsWith(PREFIX)
}

/** The shape and colour a key names. */
export function blockOfKey(key: string): BlockLook {
  const [entries, color] = JSON.parse(key.slice(PREFIX.length)) as [[string, string | number][], string]
  return { shape: Object.fromEntries(entries) as BlockShape, color }
}

/** The mesh a key names. */
export function meshOfBlockKey(key: string): Mesh {
  const { shape, color } = blockOfKey(key)
  return blockMesh(shape, blockMaterial(color))
}

function blockMaterial(color: string): Mesh['primitives'][number]['material'] {
  // sRGB to linear light (IEC 61966-2-1).
  const channel = (at: number) => {
    const value = Number.parseInt(color.slice(at, at + 2), 16) / 255
    return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4
  }
  return {
    name: `Block ${color}`,
    baseColor: [channel(1), channel(3), channel(5)],
    roughness: 0.9,
    metallic: 0,
    emissive: [0, 0, 0],
  }
}
