import type { Box3 } from 'three'
import { Matrix4, Quaternion, Vector3 } from 'three'
import type { Lamp, Socket } from '../../level/part'
import { bakeMesh } from '../../mesh/bake-mesh'
import type { Mesh } from '../../mesh/mesh'
import { meshBounds } from '../../mesh/mesh'
import type { LengthUnit } from '../../units/quantity'
import { scaleOf } from '../../units/units'
import type { Quat, Vec3 } from '../../math/vectors'

/** A place in a box: -1, 0 or 1 along each of its axes. */
type Place = readonly [-1 | 0 | 1, -1 | 0 | 1, -1 | 0 | 1]

/** How what comes from a file is to stand here. */
export type Standing = {
  /** What one of the file's units is. */
  unit: LengthUnit
  /** The file's axis that points upwards. */
  up: 'y' | 'z'
  /** Where the pivot is: the file's own origin, or a place of the box. */
  pivot: 'file' | Place
}

/** A mesh, its sockets and its lamps as they are to stand here: in metres, Y up, the pivot at the origin. */
export function stand(
  mesh: Mesh,
  standing: Standing,
  sockets: readonly Socket[] = [],
  lamps: readonly Lamp[] = [],
): { mesh: Mesh; sockets: Socket[]; lamps: Lamp[] } {
  const matrix = standingMatrix(mesh, standing)
  const turn = new Matrix4().extractRotation(matrix)
  const turned = new Quaternion().setFromRotationMatrix(turn)
  return {
    mesh: bakeMesh(mesh, matrix),
    lamps: lamps.map(lamp => ({
      ...lamp,
      at: new Vector3(...lamp.at).applyMatrix4(matrix).toArray(),
      rotation: turned
        .clone()
        .multiply(new Quaternion(...lamp.rotation))
        .normalize()
        .toArray() as Quat,
    })),
    sockets: sockets.map(socket => ({
      ...socket,
      at: new Vector3(...socket.at).applyMatrix4(matrix).toArray(),
      direction: new Vector3(...socket.direction).applyMatrix4(turn).normalize().toArray(),
      up: new Vector3(...socket.up).applyMatrix4(turn).normalize().toArray(),
    })),
  }
}

function standingMatrix(mesh: Mesh, { unit, up, pivot }: Standing): Matrix4 {
  const size = scaleOf('length', unit)
  const matrix = new Matrix4().makeScale(size, size, size)
  if (up === 'z') matrix.multiply(new Matrix4().makeRotationX(-Math.PI / 2))
  if (pivot === 'file') return matrix
  const [x, y, z] = pointOf(meshBounds(mesh).applyMatrix4(matrix), pivot)
  return matrix.premultiply(new Matrix4().makeTranslation(-x, -y, -z))
}

function pointOf({ min, max }: Box3, place: Place): Vec3 {
  const at = (axis: 'x' | 'y' | 'z', side: number) => min[axis] + ((max[axis] - min[axis]) * (side + 1)) / 2
  return [at('x', place[0]), at('y', place[1]), at('z', place[2])]
}

/**
 * The largest side that a thing for a level has as a rule, in metres, and the smallest of its largest side (common
 * practice).
 */
const USUAL = { most: 60, least: 0.03 }

/**
 * The unit that a file was most likely made in. glTF says metres; what is far too large or small for a thing in them
 * was made in another: the first of metres, centimetres and millimetres in which it has a usual size.
 *
 * @param size of its box, in its own units
 */
export function guessUnit(size: Vector3): LengthUnit {
  const largest = Math.max(size.x, size.y, size.z)
  return (
    (['m', 'cm', 'mm'] as const).find(unit => {
      const metres = largest * scaleOf('length', unit)
      return metres <= USUAL.most && metres >= USUAL.least
    }) ?? 'm'
  )
}
