import { Matrix4 } from 'three'
import type { ArrangementOwn } from '../arrange/arrangement'
import { MOST_COPIES } from '../arrange/numbers'
import { bentKey } from '../arrange/path/bent-key'
import type { GroundBelow } from '../arrange/path/ground'
import { liftsOf } from '../arrange/path/ground'
import { layoutOfPath } from '../arrange/path/layout'
import type { PlacedCopies } from '../arrange/place-copies'
import { placedMatrices } from '../arrange/place-copies'
import { definitionOf } from '../arrange/rules'
import { KINDS } from '../level/kinds'
import type { Level } from '../level/level'
import type { Lamp } from '../level/part'
import { multiplyAt } from '../math/affine'

/** Copies of one shape: sixteen numbers each, from the arrangement's own axes, and which copy each belongs to. */
export type ShapeCopies = { shape: string; matrices: Float64Array; indices: Int32Array }

/** What an arrangement is made of. */
export type Arranged = { own: ArrangementOwn; sources: readonly string[] }

/** How a level is shown: as it is, or otherwise, such as while something is being dragged. */
export type ShownAs = {
  level: Level
  /** Where a placement stands, in the world. */
  worldMatrix: (id: string) => Matrix4
  /** What names the shape a placement shows; null if it shows none. */
  shapeOf: (id: string) => string | null
  arranged: (id: string) => Arranged
  /** Null without sources. */
  copies: (id: string) => PlacedCopies | null
  groundBelow: (toWorld: Matrix4) => GroundBelow | null
  /** The lights that a part brings. */
  lampsOf: (partId: string) => readonly Lamp[]
  /** Of an arrangement within another, worked out once. */
  shapes: (id: string) => readonly ShapeCopies[]
  marks: (id: string) => readonly ShapeCopies[]
  /** Also what is hidden. */
  withHidden?: boolean
}

/**
 * All that an arrangement shows, by shape; an arrangement among its sources is expanded as well, as far as a million
 * copies in all. Of one that keeps its sources only the copies are meant: they themselves are shown where they stand.
 */
export function expandShapes(as: ShownAs, id: string): ShapeCopies[] {
  const { own } = as.arranged(id)
  const bent = definitionOf(own.rule).bentAlong(own.rule)
  return expandBy(as, id, { nameOf: as.shapeOf, inner: as.shapes }, (shown, placed, matrices, indices, copies) => {
    if (!bent || shown.inner) return placeShape(shown, placed, matrices, indices)
    const { pieces } = layoutOfPath(bent)
    const ground = as.groundBelow(as.worldMatrix(id))
    return [
      ...[...indices]
        .filter(index => index < pieces)
        .map(index => ({
          shape: bentKey(
            shown.shape,
            bent,
            index,
            placed,
            new Matrix4().fromArray(copies.ruled, index * 16),
            ground ? liftsOf(bent, index, ground) : [],
          ),
          matrices: matrices.slice(index * 16, index * 16 + 16),
          indices: Int32Array.of(index),
        })),
      ...placeShape(
        shown,
        placed,
        matrices,
        indices.filter(index => index >= pieces),
      ),
    ]
  })
}

/**
 * The cameras, lights and markers that an arrangement repeats, and the parts that bring lamps: in place of a shape
 * stands the id of the one below.
 */
export function expandMarks(as: ShownAs, id: string): ShapeCopies[] {
  const markOf = (below: string) => {
    const { kind, partId } = as.level.need(below)
    return KINDS[kind].isMark || (partId !== null && as.lampsOf(partId).length > 0) ? below : null
  }
  const some = as.arranged(id).sources.some(source => as.level.subtree(source).some(below => markOf(below) !== null))
  return some ? expandBy(as, id, { nameOf: markOf, inner: as.marks }, placeShape) : []
}

/**
 * What is looked for in sources: what names it, null where there is none; and what an arrangement among them shows of
 * it.
 */
type Wanted = { nameOf: (id: string) => string | null; inner: (id: string) => readonly ShapeCopies[] }

function expandBy(
  as: ShownAs,
  id: string,
  wanted: Wanted,
  put: (
    shown: Shown,
    placed: Matrix4,
    matrices: Float64Array,
    indices: Int32Array,
    copies: PlacedCopies,
  ) => ShapeCopies[],
): ShapeCopies[] {
  const { level } = as
  const { sources } = as.arranged(id)
  const copies = as.copies(id)
  if (!copies) return []
  // Those within first, the innermost before all: each finds what is within itself worked out already, however deep
  // that goes.
  if (level.arrangementIds.size > 1)
    for (const inner of level.subtree(id).slice(1).reverse()) if (level.arrangementIds.has(inner)) wanted.inner(inner)
  const matrices = placedMatrices(
    copies,
    sources.map(source => level.need(source)),
  )
  const indicesOf = keepsSources(as.arranged(id))
    ? sources.map(() => Int32Array.of(0))
    : indicesBySource(copies, sources.length)
  const toOwn = as.worldMatrix(id).clone().invert()
  return sources.flatMap((source, number) =>
    shownBelow(as, source, wanted).flatMap(shown =>
      put(shown, toOwn.clone().multiply(shown.matrix), matrices, indicesOf[number]!, copies),
    ),
  )
}

/** Which copies show each source, without a list that grows. */
function indicesBySource({ keys: { count }, sourceOf }: PlacedCopies, sources: number): Int32Array[] {
  const chosen = new Int32Array(count)
  const counts = new Int32Array(sources)
  for (let i = 0; i < count; i++) {
    const source = (chosen[i] = sourceOf(i))
    if (source >= 0) counts[source]!++
  }
  const found = [...counts].map(length => new Int32Array(length))
  counts.fill(0)
  for (let i = 0; i < count; i++) if (chosen[i]! >= 0) found[chosen[i]!]![counts[chosen[i]!]!++] = i
  return found
}

function placeShape(
  { shape, inner }: Shown,
  placed: Matrix4,
  matrices: Float64Array,
  indices: Int32Array,
): ShapeCopies[] {
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

type Shown = {
  shape: string
  matrix: Matrix4
  /** Copies within it, if it is an arrangement itself. */
  inner: Float64Array | null
}

function shownBelow(as: ShownAs, top: string, wanted: Wanted): Shown[] {
  const { level } = as
  const found: Shown[] = []
  const waiting = [top]
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    const { hidden, layerId } = level.need(at)
    if (!as.withHidden && (hidden || (layerId !== null && level.layers.get(layerId)?.visible === false))) continue
    const matrix = as.worldMatrix(at)
    const isArrangement = level.arrangementIds.has(at)
    if (isArrangement)
      for (const { shape, matrices } of wanted.inner(at)) found.push({ shape, matrix, inner: matrices })
    if (isArrangement && !keepsSources(as.arranged(at))) continue
    const shape = wanted.nameOf(at)
    if (shape !== null) found.push({ shape, matrix, inner: null })
    for (const child of level.children(at).toReversed()) waiting.push(child)
  }
  return found
}

const keepsSources = ({ own: { rule } }: Arranged) => definitionOf(rule).keepsSources

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
