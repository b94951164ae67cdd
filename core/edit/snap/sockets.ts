import type { Box3, Matrix4 } from 'three'
import { Matrix3, Matrix4 as Matrix, Quaternion, Vector3 } from 'three'
import type { Socket } from '../../level/part'
import type { Operation } from '../../level/schema'
import type { Solid } from '../../mesh/solid'
import { copyOf } from '../../scene/copy-id'
import type { Finder } from '../../scene/finder'
import type { LevelView } from '../../scene/level-view'
import { previewMatrices } from '../../scene/preview'
import { tidy } from '../../units/quantity'
import { turnPlacements } from '../handles/turn'
import type { Aim } from './aim'

/** The sockets of a shape. */
export type SocketsOf = (solid: Solid) => readonly Socket[]

/** A socket where it stands in the world; direction and up of unit length and at right angles. */
export type SocketAt = { id: string; socket: Socket; point: Vector3; direction: Vector3; up: Vector3 }

/** Two ends that fit, of what is moved and of what stays. */
export type Join = { own: SocketAt; other: SocketAt }

/** How near two ends have to come, in pixels. */
const REACH = 22
/** Ends nearer than this are connected, in metres. */
const CONNECTED = 1e-3

export function fits(a: Socket, b: Socket): boolean {
  return a.kind.toLowerCase() === b.kind.toLowerCase()
}

/** The sockets of something that stands by a matrix, mirrored and sized unevenly or not. */
export function socketsAt(id: string, sockets: readonly Socket[], matrix: Matrix4): SocketAt[] {
  const linear = new Matrix3().setFromMatrix4(matrix)
  return sockets.map(socket => {
    const direction = new Vector3(...socket.direction).applyMatrix3(linear).normalize()
    const up = new Vector3(...socket.up).applyMatrix3(linear)
    // What is sized unevenly may have lost the right angle.
    up.addScaledVector(direction, -up.dot(direction)).normalize()
    return { id, socket, point: new Vector3(...socket.at).applyMatrix4(matrix), direction, up }
  })
}

/** The turn that makes one end point against another, with the same way up. */
function joiningTurn({ own, other }: Join): Quaternion {
  const basis = (direction: Vector3, up: Vector3) => new Matrix().makeBasis(direction, up, direction.clone().cross(up))
  const turn = basis(other.direction.clone().negate(), other.up).multiply(basis(own.direction, own.up).transpose())
  return new Quaternion().setFromRotationMatrix(turn).normalize()
}

/** From where something stands to where its end meets the other. */
export function joiningMatrix(join: Join): Matrix4 {
  const { x, y, z } = join.other.point
  return new Matrix()
    .makeTranslation(x, y, z)
    .multiply(new Matrix().makeRotationFromQuaternion(joiningTurn(join)))
    .multiply(new Matrix().makeTranslation(-join.own.point.x, -join.own.point.y, -join.own.point.z))
}

/**
 * The operations that turn and move things so that the end of one meets the other: always in the same place, and turned
 * against it as far as what they hang from lets them; see `joinedOff`.
 *
 * @param tops of which none hangs below another
 */
export function joinOperations(level: LevelView, tops: readonly string[], join: Join): Operation[] {
  const turn = joiningTurn(join)
  const isTurned = Math.abs(turn.w) < 1 - 1e-15
  const turned = isTurned ? turnPlacements(level, tops, turn, join.own.point) : []
  const way = join.other.point.clone().sub(joinedEnd(level, turned, join).point)
  return tops.map((id, i): Operation => {
    const { parentId, translation } = level.need(id)
    const inside =
      parentId === null
        ? way
        : way.clone().applyMatrix4(level.worldMatrix(parentId).clone().invert().setPosition(0, 0, 0))
    const from = turned[i]?.do === 'put' ? turned[i].fields : {}
    const [x, y, z] = from.translation ?? translation
    return {
      do: 'put',
      id,
      fields: { ...from, translation: [tidy(x + inside.x), tidy(y + inside.y), tidy(z + inside.z)] },
    }
  })
}

/**
 * Degrees by which two ends that were joined do not look against each other: more than 0 only where what they hang from
 * is skewed.
 */
export function joinedOff(level: LevelView, operations: readonly Operation[], join: Join): number {
  return (joinedEnd(level, operations, join).direction.angleTo(join.other.direction.clone().negate()) * 180) / Math.PI
}

/** Where the own end of a join stands after operations. */
function joinedEnd(
  level: LevelView,
  operations: readonly Operation[],
  { own }: Join,
): { point: Vector3; direction: Vector3 } {
  const id = copyOf(own.id)?.arrangementId ?? own.id
  const moved = operations.length > 0 ? previewMatrices(level, operations).get(id) : undefined
  if (!moved) return own
  const change = level.worldMatrix(id).clone().invert().premultiply(moved)
  return {
    point: own.point.clone().applyMatrix4(change),
    direction: own.direction.clone().applyMatrix3(new Matrix3().setFromMatrix4(change)).normalize(),
  }
}

/** Sockets in a box of the world that nothing is connected to, but for those of things that are left out. */
export function freeSocketsIn(
  index: Finder,
  box: Box3,
  socketsOf: SocketsOf,
  accept: (id: string) => boolean,
): SocketAt[] {
  const all: SocketAt[] = []
  index.near(box, ({ id, copy, solid, matrix }) => {
    if (accept(id)) for (const each of socketsAt(copy ?? id, socketsOf(solid), matrix)) all.push(each)
  })
  // Those that are connected lie beside each other in one direction as well: each only has to be compared with a few.
  all.sort((a, b) => a.point.x - b.point.x)
  const taken = new Set<SocketAt>()
  for (const [i, one] of all.entries()) {
    for (let k = i + 1; k < all.length && all[k]!.point.x - one.point.x < CONNECTED; k++) {
      const other = all[k]!
      if (
        fits(one.socket, other.socket)
        && one.point.distanceTo(other.point) < CONNECTED
        && one.direction.dot(other.direction) < -0.9
      )
        taken.add(one).add(other)
    }
  }
  return all.filter(each => !taken.has(each))
}

/** The two fitting ends that lie nearest to each other on the screen; null if none are within reach. */
export function nearestJoin(own: readonly SocketAt[], others: readonly SocketAt[], aim: Aim): Join | null {
  let best: Join | null = null
  let nearest = REACH
  for (const one of own) {
    const at = aim.project(one.point)
    if (!at) continue
    for (const other of others) {
      if (!fits(one.socket, other.socket)) continue
      const there = aim.project(other.point)
      const distance = there ? Math.hypot(there.x - at.x, there.y - at.y) : Infinity
      if (distance < nearest) [best, nearest] = [{ own: one, other }, distance]
    }
  }
  return best
}

/** The end nearest to the pointer; null if none is within reach. */
export function socketUnder(sockets: readonly SocketAt[], aim: Aim): SocketAt | null {
  let best: SocketAt | null = null
  let nearest = REACH
  for (const each of sockets) {
    const at = aim.project(each.point)
    const distance = at ? Math.hypot(at.x - aim.at.x, at.y - aim.at.y) : Infinity
    if (distance < nearest) [best, nearest] = [each, distance]
  }
  return best
}

/** Metres at a point that are within reach of it on the screen. */
export const reachAt = (aim: Aim, point: Vector3): number => REACH * aim.metresPerPixel(point)
