import { Matrix4 } from 'three'
import { multiplyAt } from '../../math/affine'
import type { PlacedCopies } from '../../arrange/place-copies'
import type { ShapeCopies, ShownAs } from '../../scene/expand'
import { expandMarks, expandShapes } from '../../scene/expand'
import type { LevelView } from '../../scene/level-view'
import type { Scope } from './scope'

/** A level as it is shown in a file: only what is in its scope. @param copies those of an arrangement */
export function asInScope(
  level: LevelView,
  scope: Scope,
  withHidden: boolean,
  copies: (id: string) => PlacedCopies | null = id => level.copies(id),
): ShownAs {
  const [shapes, marks] = [new Map<string, ShapeCopies[]>(), new Map<string, ShapeCopies[]>()]
  const once = (known: Map<string, ShapeCopies[]>, id: string, expand: (as: ShownAs, id: string) => ShapeCopies[]) => {
    let found = known.get(id)
    if (!found) known.set(id, (found = expand(as, id)))
    return found
  }
  const as: ShownAs = {
    level,
    worldMatrix: id => level.worldMatrix(id),
    shapeOf: id => (scope.wants(id) ? level.shapeOf(id) : null),
    arranged: id => level.arranged(id),
    copies,
    groundBelow: toWorld => level.groundBelow(toWorld),
    lampsOf: partId => level.lampsOf(partId),
    shapes: id => once(shapes, id, expandShapes),
    marks: id => once(marks, id, expandMarks),
    withHidden,
  }
  return as
}

/** One shape as often as it is shown by a placement, or by an arrangement: sixteen numbers each, to the world. */
export type ShownShape = { id: string; shape: string; matrices: Float64Array }

/** All shapes that are shown in a scope, in the order of the tree; one placement or arrangement after the other. */
export function* shownShapes(level: LevelView, scope: Scope, withHidden: boolean): Generator<ShownShape> {
  const as = asInScope(level, scope, withHidden)
  const waiting = scope.children(null).toReversed()
  for (let id = waiting.pop(); id !== undefined; id = waiting.pop()) {
    for (const child of scope.children(id).toReversed()) waiting.push(child)
    if (!scope.wants(id) || level.isSource(id)) continue
    const shape = level.shapeOf(id)
    const toWorld = Float64Array.from(level.worldMatrix(id).elements)
    if (shape !== null) yield { id, shape, matrices: toWorld }
    if (!level.arrangementIds.has(id)) continue
    for (const { shape: copied, matrices } of expandShapes(as, id)) {
      const moved = new Float64Array(matrices.length)
      for (let i = 0; i < moved.length; i += 16) multiplyAt(moved, i, toWorld, 0, matrices, i)
      yield { id, shape: copied, matrices: moved }
    }
  }
}

/** Of all cameras, lights and markers in a scope, each with where it stands; copies as often as they are shown. */
export function* shownMarks(
  level: LevelView,
  scope: Scope,
  withHidden: boolean,
): Generator<{ id: string; matrix: Matrix4 }> {
  const as = asInScope(level, scope, withHidden)
  for (const { id, kind, partId } of level.placements()) {
    if (!scope.wants(id) || level.isSource(id)) continue
    if (
      kind === 'camera'
      || kind === 'light'
      || kind === 'marker'
      || (partId !== null && level.lampsOf(partId).length > 0)
    )
      yield { id, matrix: level.worldMatrix(id) }
    if (kind !== 'arrangement') continue
    for (const { shape, matrices } of expandMarks(as, id)) {
      for (let i = 0; i < matrices.length; i += 16)
        yield { id: shape, matrix: new Matrix4().fromArray(matrices, i).premultiply(level.worldMatrix(id)) }
    }
  }
}
