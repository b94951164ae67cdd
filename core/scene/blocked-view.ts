import { Ray, Vector3 } from 'three'
import type { LevelIndex } from './level-index'

/** Sight lines across and down a picture, and the share of them that one thing has to stop. */
const [ACROSS, DOWN, SHARE] = [7, 5, 0.6]
/** Nearer than this something stands before a camera, in metres. */
const NEAR = 1

/**
 * What stands right before a camera and hides most of its picture; null if nothing does. A copy is named by its
 * arrangement.
 *
 * @param fieldOfView vertical, in degrees, @param aspect width over height
 */
export function blockedBy(
  index: LevelIndex,
  eye: Vector3,
  target: Vector3,
  fieldOfView: number,
  aspect: number,
): string | null {
  const forward = target.clone().sub(eye).normalize()
  const right = forward
    .clone()
    .cross(Math.abs(forward.y) > 0.999 ? new Vector3(0, 0, -1) : new Vector3(0, 1, 0))
    .normalize()
  const up = right.clone().cross(forward)
  const high = Math.tan((fieldOfView * Math.PI) / 360)
  const hits = new Map<string, number>()
  for (let row = 0; row < DOWN; row++) {
    for (let column = 0; column < ACROSS; column++) {
      const [x, y] = [((2 * (column + 0.5)) / ACROSS - 1) * high * aspect, ((2 * (row + 0.5)) / DOWN - 1) * high]
      const direction = forward.clone().addScaledVector(right, x).addScaledVector(up, y).normalize()
      const hit = index.raycast(new Ray(eye, direction))
      if (hit && hit.distance < NEAR) hits.set(hit.id, (hits.get(hit.id) ?? 0) + 1)
    }
  }
  for (const [id, count] of hits) if (count >= SHARE * ACROSS * DOWN) return id
  return null
}
