import { z } from 'zod'
import { GlbError } from '../glb-chunks'

/** Of all accessors together, and of all primitives that use them. */
const MOST_ELEMENTS = 12_000_000
const MOST_NODES = 100_000

const index = z.int().min(0)
const loose = <T extends z.ZodRawShape>(shape: T) => z.array(z.looseObject(shape)).default([])
const schema = z.looseObject({
  accessors: loose({ count: z.int().min(1), bufferView: index.optional() }),
  nodes: z.array(z.looseObject({ children: z.array(index).optional() })).max(MOST_NODES, 'more than are taken in here').default([]),
  buffers: loose({ uri: z.string().optional() }),
  images: loose({ uri: z.string().optional() }),
  meshes: loose({ primitives: z.array(z.looseObject({ attributes: z.record(z.string(), index), indices: index.optional() })).min(1) }),
})

/**
 * Sees to it that what a foreign file claims can be held in memory and is in it, and that its nodes are trees, before anything is made
 * of it.
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
  const { accessors, nodes, meshes, buffers, images } = parsed.data
  for (const [what, list] of Object.entries({ buffers, images })) {
    const elsewhere = list.findIndex(({ uri }) => uri !== undefined && !uri.startsWith('data:'))
    if (elsewhere >= 0) throw new GlbError(`${what}.${elsewhere}: names an address elsewhere, and nothing is ever fetched`)
  }
  if (accessors.reduce((sum, { count }) => sum + count, 0) > MOST_ELEMENTS) throw new GlbError('accessors: more vertices than are taken in here')
  let used = 0
  for (const { primitives } of meshes) {
    for (const { attributes, indices } of primitives) {
      for (const each of [...Object.values(attributes), ...indices === undefined ? [] : [indices]]) used += accessors[each]?.count ?? 0
    }
  }
  if (used > MOST_ELEMENTS) throw new GlbError('meshes: more vertices than are taken in here')
  checkTrees(nodes)
}

/** Each node hangs from at most one other, and none from itself. */
function checkTrees(nodes: readonly { children?: number[] }[]): void {
  const above = new Map<number, number>()
  nodes.forEach(({ children = [] }, parent) => {
    for (const child of children) {
      if (!nodes[child]) throw new GlbError(`nodes.${parent}.children: there is no node ${child}`)
      if (above.has(child)) throw new GlbError(`nodes.${child}: hangs from more than one node`)
      above.set(child, parent)
    }
  })
  const known = new Set<number>()
  for (const start of nodes.keys()) {
    const way = new Set<number>()
    for (let at: number | undefined = start; at !== undefined && !known.has(at); at = above.get(at)) {
      if (way.has(at)) throw new GlbError(`nodes.${at}: hangs from itself`)
      way.add(at)
    }
    for (const each of way) known.add(each)
  }
}
