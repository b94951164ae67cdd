import { z } from 'zod'
import { GlbError } from '../glb-chunks'
import { checkElements, COMPONENTS } from '../check-glb'

const MOST_NODES = 100_000
/**
 * Of all that a file claims to be when it is unpacked: its buffers, and numbers that are filled in. A small file can
 * claim much.
 */
const MOST_BYTES = 384 * 1024 * 1024
/** Nodes that hang below each other: this program writes two for a thing, as deep as things hang. */
const DEEPEST = 25_000

const index = z.int().min(0)
const loose = <T extends z.ZodRawShape>(shape: T) => z.array(z.looseObject(shape)).default([])
const schema = z.looseObject({
  accessors: loose({
    count: z.int().min(1),
    bufferView: index.optional(),
    type: z.enum(['SCALAR', 'VEC2', 'VEC3', 'VEC4', 'MAT2', 'MAT3', 'MAT4']),
    sparse: z.looseObject({ count: z.int().min(1) }).optional(),
  }),
  bufferViews: loose({
    extensions: z
      .looseObject({ EXT_meshopt_compression: z.looseObject({ count: index, byteStride: index }).optional() })
      .optional(),
  }),
  nodes: z
    .array(z.looseObject({ children: z.array(index).optional() }))
    .max(MOST_NODES, 'more than are taken in here')
    .default([]),
  buffers: loose({ byteLength: index, uri: z.string().optional() }),
  images: loose({ uri: z.string().optional() }),
  meshes: loose({
    primitives: z.array(z.looseObject({ attributes: z.record(z.string(), index), indices: index.optional() })).min(1),
  }),
})

/**
 * Sees to it that what a foreign file claims can be held in memory and is in it, and that its nodes are trees, before
 * anything is made of it.
 *
 * @param json its description
 * @throws GlbError with the place in it
 */
export function checkBounds(json: unknown): void {
  const parsed = schema.safeParse(json)
  if (!parsed.success) {
    const { path, message } = parsed.error.issues[0]!
    throw new GlbError(`${path.join('.')}: ${message}`)
  }
  const { accessors, nodes, meshes, buffers, bufferViews, images } = parsed.data
  for (const [what, list] of Object.entries({ buffers, images })) {
    const elsewhere = list.findIndex(({ uri }) => uri !== undefined && !uri.startsWith('data:'))
    if (elsewhere >= 0)
      throw new GlbError(`${what}.${elsewhere}: names an address elsewhere, and nothing is ever fetched`)
  }
  checkElements(accessors, meshes)
  const claimed =
    buffers.reduce((sum, { byteLength }) => sum + byteLength, 0)
    + bufferViews.reduce(
      (sum, { extensions: { EXT_meshopt_compression: packed } = {} }) =>
        sum + (packed ? packed.count * packed.byteStride : 0),
      0,
    )
    + accessors.reduce(
      (sum, { bufferView, count, type }) => sum + (bufferView === undefined ? count * COMPONENTS[type] * 4 : 0),
      0,
    )
  if (claimed > MOST_BYTES)
    throw new GlbError(`buffers: unpacked they would be more than the ${MOST_BYTES / 1024 / 1024} MB that are taken in`)
  const sparse = accessors.findIndex(each => each.sparse && each.sparse.count > each.count)
  if (sparse >= 0) throw new GlbError(`accessors.${sparse}.sparse: more numbers than the accessor has`)
  checkTrees(nodes)
}

/** Each node hangs from at most one other, none from itself, and none deeper than is taken in. */
function checkTrees(nodes: readonly { children?: number[] }[]): void {
  const above = new Map<number, number>()
  nodes.forEach(({ children = [] }, parent) => {
    for (const child of children) {
      if (!nodes[child]) throw new GlbError(`nodes.${parent}.children: there is no node ${child}`)
      if (above.has(child)) throw new GlbError(`nodes.${child}: hangs from more than one node`)
      above.set(child, parent)
    }
  })
  const depths = new Map<number, number>()
  for (const start of nodes.keys()) {
    const way = new Set<number>()
    let at: number | undefined = start
    for (; at !== undefined && !depths.has(at); at = above.get(at)) {
      if (way.has(at)) throw new GlbError(`nodes.${at}: hangs from itself`)
      way.add(at)
    }
    let depth = at === undefined ? 0 : depths.get(at)!
    for (const each of [...way].reverse()) depths.set(each, ++depth)
    if (depth > DEEPEST) throw new GlbError(`nodes.${start}: hangs more than ${DEEPEST.toLocaleString('en')} deep`)
  }
}
