import { Matrix4 } from 'three'
import { multiplyAt } from '../geometry/affine'
import type { LevelDocument } from '../level/document'
import type { Kind } from '../level/schema'
import type { ArrangementOwn } from './arrangement'
import { isArrangement } from './arrangement'
import { bentKey } from './bent-key'
import { MOST_COPIES } from './count'
import { isBent } from './path-bend'
import { layoutOf } from './path-layout'
import type { PlacedCopies } from './placed'
import { placeCopies, placedMatrices } from './placed'
import { groundBelow, liftsOf } from './settle'

/** Copies of one shape: sixteen numbers each, from the arrangement's own axes, and which copy each belongs to. */
export type ShapeCopies = { shape: string, matrices: Float64Array, indices: Int32Array }

/** What an arrangement is made of. */
export type Arranged = { own: ArrangementOwn, sources: readonly string[] }

/** @throws RangeError if the placement is no arrangement */
export function arrangedOf(document: LevelDocument, id: string): Arranged {
  const { own } = document.need(id)
  if (!isArrangement(own)) throw new RangeError(`${id} is no arrangement`)
  return { own, sources: document.children(id) }
}

/** What is shown elsewhere or otherwise than in the document, such as while it is being dragged. */
export type ShownAs = { worldMatrix: (id: string) => Matrix4, arranged: (id: string) => Arranged, /** Also what is hidden. */ withHidden?: boolean }

const asItIs = (document: LevelDocument): ShownAs => ({ worldMatrix: id => document.worldMatrix(id), arranged: id => arrangedOf(document, id) })

/**
 * All that an arrangement shows, by shape; an arrangement among its sources is expanded as well, as far as a million copies in all.
 * A mirror shows its sources' mirror images only: they themselves stay where they are.
 */
export function expand(document: LevelDocument, id: string, as: ShownAs = asItIs(document)): ShapeCopies[] {
  return expandBy(document, id, as, below => document.shapeOf(below), true)
}

/** The cameras, lights and markers that an arrangement repeats, which have no shape: in its place stands the id of the one below. */
export function expandBare(document: LevelDocument, id: string, as: ShownAs = asItIs(document)): ShapeCopies[] {
  const bareOf = (below: string) => BARE.includes(document.need(below).kind) ? below : null
  const some = as.arranged(id).sources.some(source => document.subtree(source).some(below => bareOf(below) !== null))
  return some ? expandBy(document, id, as, bareOf, false) : []
}

const BARE: readonly Kind[] = ['camera', 'light', 'marker']

/** @param shapeOf names what a placement shows; null if that is nothing */
function expandBy(document: LevelDocument, id: string, as: ShownAs, shapeOf: (id: string) => string | null, bends: boolean): ShapeCopies[] {
  const { own, sources } = as.arranged(id)
  if (sources.length === 0) return []
  const ground = groundBelow(document, as.worldMatrix(id))
  const taken = spare
  spare = null
  const copies = placeCopies(own, sources.length, ground, taken)
  const matrices = placedMatrices(copies, sources.map(source => document.need(source)))
  const indicesOf = own.rule.rule === 'mirror' ? sources.map(() => Int32Array.of(0)) : indicesBySource(copies, sources.length)
  const toOwn = as.worldMatrix(id).clone().invert()
  const found = sources.flatMap((source, number) => shownBelow(document, source, as, shapeOf, bends).flatMap((shown): ShapeCopies[] => {
    const indices = indicesOf[number]!
    const placed = toOwn.clone().multiply(shown.matrix)
    if (!bends || !isBent(own.rule) || shown.inner) return placeShape(shown, placed, matrices, indices)
    const { rule } = own
    const { pieces } = layoutOf(rule)
    return [
      ...[...indices].filter(index => index < pieces).map(index => ({
        shape: bentKey(shown.shape, rule, index, placed, new Matrix4().fromArray(copies.ruled, index * 16), ground ? liftsOf(rule, index, ground) : []),
        matrices: matrices.slice(index * 16, index * 16 + 16), indices: Int32Array.of(index),
      })),
      ...placeShape(shown, placed, matrices, indices.filter(index => index >= pieces)),
    ]
  }))
  const used = taken && taken.length >= copies.ruled.length ? taken : copies.ruled
  if (used.length <= LONGEST_SPARE) spare = used
  return found
}

/** Where a rule's own matrices are worked out again and again while a number or a grip changes; null while it is in use. */
let spare: Float64Array | null = null
/** Of 125,000 copies; more is not kept for later. */
const LONGEST_SPARE = 2_000_000

/** Which copies show each source, without a list that grows. */
function indicesBySource({ places: { count }, sourceOf }: PlacedCopies, sources: number): Int32Array[] {
  const chosen = new Int32Array(count)
  const counts = new Int32Array(sources)
  for (let i = 0; i < count; i++) {
    const source = chosen[i] = sourceOf(i)
    if (source >= 0) counts[source]!++
  }
  const found = [...counts].map(length => new Int32Array(length))
  counts.fill(0)
  for (let i = 0; i < count; i++) if (chosen[i]! >= 0) found[chosen[i]!]![counts[chosen[i]!]!++] = i
  return found
}

function placeShape({ shape, inner }: Shown, placed: Matrix4, matrices: Float64Array, indices: Int32Array): ShapeCopies[] {
  const within = inner ? inner.length / 16 : 1
  const count = indices.length * within
  if (count === 0 || count > MOST_COPIES) return []
  const out = new Float64Array(count * 16)
  const own = Float64Array.from(placed.elements)
  if (!inner) {
    for (let i = 0; i < count; i++) multiplyAt(out, i * 16, matrices, indices[i]! * 16, own, 0)
    return [{ shape, matrices: out, indices }]
  }
  const owners = new Int32Array(count)
  const copy = new Float64Array(16)
  indices.forEach((index, i) => {
    multiplyAt(copy, 0, matrices, index * 16, own, 0)
    for (let k = 0; k < within; k++) multiplyAt(out, (i * within + k) * 16, copy, 0, inner, k * 16)
    owners.fill(index, i * within, (i + 1) * within)
  })
  return [{ shape, matrices: out, indices: owners }]
}

type Shown = { shape: string, matrix: Matrix4, /** Copies within it, if it is an arrangement itself. */ inner: Float64Array | null }

function shownBelow(document: LevelDocument, top: string, as: ShownAs, shapeOf: (id: string) => string | null, bends: boolean): Shown[] {
  const { hidden, layerId } = document.need(top)
  if (!as.withHidden && (hidden || (layerId !== null && document.layers.get(layerId)?.visible === false))) return []
  const isArrangement = document.arrangementIds.has(top)
  const copies = isArrangement ? expandBy(document, top, as, shapeOf, bends).map(({ shape, matrices }) => ({ shape, matrix: as.worldMatrix(top), inner: matrices })) : []
  if (isArrangement && as.arranged(top).own.rule.rule !== 'mirror') return copies
  const shape = shapeOf(top)
  return [...copies, ...shape === null ? [] : [{ shape, matrix: as.worldMatrix(top), inner: null }], ...document.children(top).flatMap(child => shownBelow(document, child, as, shapeOf, bends))]
}

/** What of an arrangement one copy shows. */
export function onlyCopy(all: readonly ShapeCopies[], index: number): ShapeCopies[] {
  return all.flatMap(({ shape, matrices, indices }): ShapeCopies[] => {
    const found = [...indices.keys()].filter(i => indices[i] === index)
    if (found.length === 0) return []
    const own = new Float64Array(found.length * 16)
    found.forEach((i, k) => own.set(matrices.subarray(i * 16, i * 16 + 16), k * 16))
    return [{ shape, matrices: own, indices: Int32Array.from(found, () => index) }]
  })
}
