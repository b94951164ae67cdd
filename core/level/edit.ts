import type { LevelDocument } from './document'
import type { Operation, Vec3 } from './schema'
import { degreesToQuat, quatToDegrees } from './transform'

/** The three rows of exact numbers of a placement. */
export type TransformRow = 'position' | 'turn' | 'size'

/** A placement's numbers as a person reads them: metres in the parent's axes, degrees, factors. */
export function transformNumbers(document: LevelDocument, id: string): Record<TransformRow, Vec3> {
  const { translation, rotation, scale } = document.need(id)
  return { position: translation, turn: quatToDegrees(rotation), size: scale }
}

/** The operations that give placements one exact number and leave all others as they are. */
export function setTransformNumber(document: LevelDocument, ids: Iterable<string>, row: TransformRow, axis: 0 | 1 | 2, value: number): Operation[] {
  return [...ids].map((id) => {
    const numbers = transformNumbers(document, id)[row].with(axis, value) as Vec3
    const fields = row === 'position' ? { translation: numbers } : row === 'turn' ? { rotation: degreesToQuat(numbers) } : { scale: numbers }
    return { do: 'put', id, fields }
  })
}

/** The operations that remove placements with everything below them, children before their parents. */
export function removeWithChildren(document: LevelDocument, ids: Iterable<string>): Operation[] {
  const all = new Set([...ids].flatMap(id => document.subtree(id)))
  return [...all].toReversed().map(id => ({ do: 'remove', id }))
}
