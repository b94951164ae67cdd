import { Matrix4 } from 'three'
import type { LevelDocument } from '../level/document'
import { copiesOf } from './evaluate'
import type { Rule } from './rule'
import { countOf, MOST_COPIES } from './rule'

/** Copies of one shape: sixteen numbers each, from the arrangement's own axes. */
export type ShapeCopies = { shape: string, matrices: Float64Array }

/** The rule of an arrangement. @throws RangeError if the placement is none */
export function ruleOf(document: LevelDocument, id: string): Rule {
  const { own } = document.need(id)
  if (!('rule' in own)) throw new RangeError(`${id} is no arrangement`)
  return own.rule
}

/**
 * All that an arrangement shows, by shape. The children are the sources, copied in turn; an arrangement among them is expanded
 * as well, as far as a million copies in all.
 *
 * @param worldMatrix where placements are, such as while they are being dragged
 */
export function expand(document: LevelDocument, id: string, worldMatrix: (id: string) => Matrix4 = other => document.worldMatrix(other)): ShapeCopies[] {
  const children = document.children(id)
  if (children.length === 0) return []
  const rule = ruleOf(document, id)
  const copies = copiesOf(rule)
  const toOwn = worldMatrix(id).clone().invert()
  return children.flatMap((child, turn) => shownBelow(document, child, worldMatrix).flatMap(({ shape, matrix, inner }) => {
    const source = toOwn.clone().multiply(matrix)
    const within = inner ? inner.length / 16 : 1
    const count = Math.ceil((countOf(rule) - turn) / children.length)
    if (count * within > MOST_COPIES) return []
    const matrices = new Float64Array(Math.max(count, 0) * within * 16)
    for (let i = 0; i < count; i++) {
      placed.fromArray(copies, (i * children.length + turn) * 16).multiply(source)
      if (!inner) placed.toArray(matrices, i * 16)
      else for (let k = 0; k < within; k++) nested.fromArray(inner, k * 16).premultiply(placed).toArray(matrices, (i * within + k) * 16)
    }
    return [{ shape, matrices }]
  }))
}

const placed = new Matrix4()
const nested = new Matrix4()

type Shown = { shape: string, matrix: Matrix4, /** Copies within it, if it is an arrangement itself. */ inner: Float64Array | null }

function shownBelow(document: LevelDocument, top: string, worldMatrix: (id: string) => Matrix4): Shown[] {
  if (document.need(top).hidden) return []
  if (document.arrangementIds.has(top)) return expand(document, top, worldMatrix).map(({ shape, matrices }) => ({ shape, matrix: worldMatrix(top), inner: matrices }))
  const shape = document.shapeOf(top)
  return [...shape === null ? [] : [{ shape, matrix: worldMatrix(top), inner: null }], ...document.children(top).flatMap(child => shownBelow(document, child, worldMatrix))]
}
