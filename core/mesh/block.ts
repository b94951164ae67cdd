import { z } from 'zod'
import { withNewName } from '../units/earlier'

const length = z
  .number({ error: 'must be a number' })
  .min(0.001, 'must be at least 1 mm')
  .max(10_000, 'must be at most 10 km')
const sides = z.int('must be a whole number').min(3, 'needs at least 3 sides').max(128, 'may have at most 128 sides')

/** The parameters of each shape: metres, and whole numbers for sides and counts. */
const shapes = [
  z.strictObject({ type: z.literal('box'), width: length, height: length, depth: length }),
  /** Its top is at its pivot; it grows downwards. */
  z.strictObject({ type: z.literal('slab'), width: length, depth: length, thickness: length }),
  z.strictObject({ type: z.literal('cylinder'), radius: length, height: length, sides }),
  z.strictObject({
    type: z.literal('cone'),
    radius: length,
    top: z.number().min(0).max(10_000),
    height: length,
    sides,
  }),
  z.strictObject({ type: z.literal('ball'), radius: length, sides }),
  /** `radius` to the middle of the bar that is bent round, `thickness` across the bar. */
  z.strictObject({ type: z.literal('ring'), radius: length, thickness: length, sides }),
  /** Rises from its front to its back. */
  z.strictObject({ type: z.literal('wedge'), width: length, height: length, depth: length }),
  /** Climbs from its front to its back; `height` and `depth` are those of the whole flight. */
  z.strictObject({
    type: z.literal('steps'),
    width: length,
    height: length,
    depth: length,
    count: z.int('must be a whole number').min(1, 'needs at least one step').max(500, 'may have at most 500 steps'),
  }),
  /** `radius` to the outside. */
  z.strictObject({ type: z.literal('tube'), radius: length, wall: length, height: length, sides }),
] as const

/** A block's shape with its parameters. Its type was called `shape` once. */
export const blockShapeSchema = z.preprocess(
  given => withNewName(given, 'shape', 'type'),
  z.discriminatedUnion('type', shapes).superRefine((block, context) => {
    if (block.type === 'tube' && block.wall >= block.radius)
      context.addIssue({ code: 'custom', path: ['wall'], message: 'must be thinner than the radius' })
    if (block.type === 'ring' && block.thickness >= 2 * block.radius)
      context.addIssue({ code: 'custom', path: ['thickness'], message: 'must be less than twice the radius' })
  }),
)

export type BlockShape = z.infer<typeof blockShapeSchema>
/** What instances of a block share; the colour is as in `#b9a58b`. */
export type BlockLook = { shape: BlockShape; color: string }
export type BlockKind = BlockShape['type']

export const BLOCK_KINDS: readonly BlockKind[] = [
  'box',
  'slab',
  'cylinder',
  'cone',
  'ball',
  'ring',
  'wedge',
  'steps',
  'tube',
]

/** What each is called. */
export const BLOCK_NAMES: Record<BlockKind, string> = {
  box: 'Box',
  slab: 'Slab',
  cylinder: 'Cylinder',
  cone: 'Cone',
  ball: 'Ball',
  ring: 'Ring',
  wedge: 'Wedge',
  steps: 'Steps',
  tube: 'Tube',
}

/** A block of each shape as it comes. */
export const FIRST_BLOCKS: { [K in BlockKind]: Extract<BlockShape, { type: K }> } = {
  box: { type: 'box', width: 1, height: 1, depth: 1 },
  slab: { type: 'slab', width: 4, depth: 4, thickness: 0.2 },
  cylinder: { type: 'cylinder', radius: 0.5, height: 1, sides: 32 },
  cone: { type: 'cone', radius: 0.5, top: 0, height: 1, sides: 32 },
  ball: { type: 'ball', radius: 0.5, sides: 32 },
  ring: { type: 'ring', radius: 0.5, thickness: 0.2, sides: 32 },
  wedge: { type: 'wedge', width: 1, height: 0.5, depth: 2 },
  steps: { type: 'steps', width: 1.2, height: 0.9, depth: 1.8, count: 6 },
  tube: { type: 'tube', radius: 0.5, wall: 0.1, height: 1, sides: 32 },
}

/** What a block measures over all: width (X), height (Y), depth (Z), in metres. */
export function blockSize(block: BlockShape): [number, number, number] {
  switch (block.type) {
    case 'box':
    case 'wedge':
    case 'steps':
      return [block.width, block.height, block.depth]
    case 'slab':
      return [block.width, block.thickness, block.depth]
    case 'ball':
      return [2 * block.radius, 2 * block.radius, 2 * block.radius]
    case 'ring':
      return [2 * block.radius + block.thickness, block.thickness, 2 * block.radius + block.thickness]
    case 'cone':
      return [2 * Math.max(block.radius, block.top), block.height, 2 * Math.max(block.radius, block.top)]
    default:
      return [2 * block.radius, block.height, 2 * block.radius]
  }
}

/**
 * Where a drawn base and a drawn height go in a shape. A round shape takes the larger half of the base as its radius.
 */
export function drawnBlock(block: BlockShape, width: number, depth: number, height: number | null): BlockShape {
  const radius = Math.max(width, depth) / 2
  switch (block.type) {
    case 'box':
    case 'wedge':
    case 'steps':
      return { ...block, width, depth, ...(height !== null && { height }) }
    case 'slab':
      return { ...block, width, depth, ...(height !== null && { thickness: height }) }
    case 'ball':
      return { ...block, radius }
    case 'ring': {
      const thickness = height === null ? Math.min(block.thickness, radius) : Math.min(height, radius)
      return { ...block, thickness, radius: radius - thickness / 2 }
    }
    case 'tube':
      return { ...block, radius, wall: Math.min(block.wall, radius / 2), ...(height !== null && { height }) }
    default:
      return { ...block, radius, ...(height !== null && { height }) }
  }
}

/** Whether the base of a shape is round, and drawn from its middle. */
export function isRound({ type }: BlockShape): boolean {
  return ['cylinder', 'cone', 'ball', 'ring', 'tube'].includes(type)
}
