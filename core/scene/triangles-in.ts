import { Box3, Matrix4, Vector3 } from 'three'
import type { LevelIndex } from './level-index'

/**
 * Triangles of a level within a box, in the world: nine numbers each, six of the box around each, and the thing or copy
 * each belongs to.
 */
export type Triangles = { count: number; corners: Float64Array; boxes: Float64Array; things: readonly string[] }

/** The triangles that reach into a box. The work grows with what is there, not with the level. */
export function trianglesIn(index: LevelIndex, box: Box3): Triangles {
  const corners: number[] = []
  const things: string[] = []
  const local = new Box3()
  const [inverse, point] = [new Matrix4(), new Vector3()]
  const own = new Box3()
  index.near(box, ({ id, copy, solid, matrix }) => {
    local.copy(box).applyMatrix4(inverse.copy(matrix).invert())
    const thing = copy ?? id
    for (const tree of solid.trees) {
      tree.shapecast({
        intersectsBounds: around => around.intersectsBox(local),
        intersectsTriangle: ({ a, b, c }) => {
          const from = corners.length
          own.makeEmpty()
          for (const corner of [a, b, c]) {
            point.copy(corner).applyMatrix4(matrix)
            own.expandByPoint(point)
            corners.push(point.x, point.y, point.z)
          }
          if (own.intersectsBox(box)) things.push(thing)
          else corners.length = from
          return false
        },
      })
    }
  })
  const boxes = new Float64Array(things.length * 6)
  for (let i = 0; i < things.length; i++) {
    for (let axis = 0; axis < 3; axis++) {
      const [a, b, c] = [corners[i * 9 + axis]!, corners[i * 9 + axis + 3]!, corners[i * 9 + axis + 6]!]
      boxes[i * 6 + axis] = Math.min(a, b, c)
      boxes[i * 6 + axis + 3] = Math.max(a, b, c)
    }
  }
  return { count: things.length, corners: Float64Array.from(corners), boxes, things }
}
