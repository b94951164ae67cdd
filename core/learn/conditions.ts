import { Box3, Line3, Quaternion, Vector3 } from 'three'
import { quatToDegrees } from '../math/transform'
import type { Vec3 } from '../math/vectors'
import { surfaceBelow } from '../edit/snap/rest'
import type { LevelView } from '../scene/level-view'
import type { LevelIndex } from '../scene/level-index'

// What has to be so for an exercise to be done: data, and what each kind of it means. Nothing of it asks how it came to
// be so.

/** What is looked at: a level, and what of the page is no part of it. */
export type Yard = {
  level: LevelView
  index: LevelIndex
  /** Where the active pane looks from and to. */
  view: { eye: Vec3; target: Vec3 }
  /** Whether it looks through a camera of the level. */
  isThrough: boolean
  picked: ReadonlySet<string>
  /** How many files were handed over here since the exercises were begun. */
  handedOver: number
}

/** How near is there, in metres, and in degrees. */
const [NEAR, STRAIGHT] = [0.002, 0.01]
/** Metres above its lowest point from which it is looked for what a thing rests on. */
const LIFTED = 0.04
const DOWN = new Vector3(0, -1, 0)

/** One thing that has to be so. Things are meant by their names; of duplicates any may be it. */
export type Condition =
  /** Its position, in metres of the world; null for whatever. */
  | { kind: 'stands'; thing: string; at: readonly [number | null, number | null, number | null]; within?: number }
  /** Its turn about the vertical, in degrees, either way; it stands upright. */
  | { kind: 'turned'; thing: string; degrees: number }
  /** Its lowest point is at a height, or on another. */
  | { kind: 'rests'; thing: string; on: string | number }
  /** One of its corners is at one of the other's. */
  | { kind: 'meets'; thing: string; other: string }
  /** A side of its box and one of the other's lie in one plane, face to face, and both are in line. */
  | { kind: 'abuts'; thing: string; other: string }
  /** Its pivot is at the edge of its box nearest to a point of the world, and there it still is. */
  | { kind: 'hinged'; thing: string; at: Vec3 }
  | { kind: 'copies'; arrangement: string; count: number; exceptions: number }
  /** Some scatter has dealt at least so many, none of them nearer to a line on the ground than a width. */
  | { kind: 'scattered'; least: number; clear: { from: Vec3; to: Vec3; width: number } }
  /** A tape is kept from one thing to the other, and they are so far apart along it. */
  | { kind: 'taped'; between: readonly [string, string]; metres: number }
  | { kind: 'picked'; thing: string }
  /** It is looked at from a side: the eye is beyond it, and it is in the middle of the picture, within degrees. */
  | { kind: 'seen'; at: Vec3; from: Vec3; within: number; degrees: number }
  | { kind: 'through' }
  | { kind: 'handed over' }

type Kind = Condition['kind']
type Of<K extends Kind> = Extract<Condition, { kind: K }>

/**
 * Whether something is so.
 *
 * @example
 * import { createPlacement } from '../level/create'
 * import { bareView } from '../scene/level-view'
 * import { LevelIndex } from '../scene/level-index'
 * const id = '00000000-0000-7000-8000-000000000001'
 * const level = bareView([createPlacement({ id, name: 'Crate', kind: 'group', translation: [-3, 0, 2] })])
 * const view = { eye: [0, 2, 9], target: [0, 0, 0] }
 * const index = new LevelIndex(level, () => undefined)
 * const yard = { level, index, view, isThrough: false, picked: new Set(), handedOver: 0 }
 * isSo({ kind: 'stands', thing: 'Crate', at: [-3, null, 2] }, yard) // true
 */
export const isSo = (condition: Condition, yard: Yard): boolean =>
  (MEANS[condition.kind] as (of: Condition, yard: Yard) => boolean)(condition, yard)

const MEANS: { [K in Kind]: (of: Of<K>, yard: Yard) => boolean } = {
  'stands': ({ thing, at, within = NEAR }, yard) =>
    some(yard, thing, id => {
      const place = pivotOf(yard.level, id)
      return at.every((wanted, axis) => wanted === null || Math.abs(place.getComponent(axis) - wanted) <= within)
    }),
  'turned': ({ thing, degrees }, yard) =>
    some(yard, thing, id => {
      const turn = new Quaternion().setFromRotationMatrix(yard.level.worldMatrix(id))
      const [x, y, z] = quatToDegrees(turn.toArray())
      const isThere = [degrees, -degrees].some(wanted => Math.abs(apart(y, wanted)) < STRAIGHT)
      return Math.abs(x) < STRAIGHT && Math.abs(z) < STRAIGHT && isThere
    }),
  'rests': ({ thing, on }, yard) =>
    some(yard, thing, id => {
      const own = new Set(yard.level.subtree(id))
      const foot = yard.index.extents.extreme([...own], DOWN)?.middle
      if (!foot) return false
      if (typeof on === 'number') return Math.abs(foot.y - on) <= NEAR
      const from = foot.clone().setY(foot.y + LIFTED)
      const found = surfaceBelow(yard.index, from, 1, other => !own.has(other))
      if (!found || Math.abs(foot.y - found.point.y) > NEAR) return false
      return some(yard, on, other => yard.level.isWithin(found.id, other))
    }),
  'meets': ({ thing, other }, yard) =>
    pair(yard, thing, other, (id, to) =>
      cornersOf(yard, id).some(corner => cornersOf(yard, to).some(goal => corner.distanceTo(goal) <= NEAR)),
    ),
  'abuts': ({ thing, other }, yard) =>
    pair(yard, thing, other, (id, to) => {
      const [a, b] = [boxOf(yard, id), boxOf(yard, to)]
      return [0, 2].some(along => {
        const across = 2 - along
        const touches =
          Math.abs(a.min.getComponent(along) - b.max.getComponent(along)) <= NEAR
          || Math.abs(b.min.getComponent(along) - a.max.getComponent(along)) <= NEAR
        const isInLine = [across, 1].every(
          axis => Math.abs(a.min.getComponent(axis) - b.min.getComponent(axis)) <= NEAR,
        )
        return touches && isInLine
      })
    }),
  'hinged': ({ thing, at }, yard) =>
    some(yard, thing, id => {
      const { pivot } = yard.level.need(id)
      const box = yard.index.extents.ownBox(id)
      const isAtEdge = [0, 2].some(axis =>
        [box.min, box.max].some(side => Math.abs(side.getComponent(axis) - pivot[axis]!) <= NEAR),
      )
      const place = pivotOf(yard.level, id)
      return isAtEdge && Math.hypot(place.x - at[0], place.z - at[2]) <= 0.11
    }),
  'copies': ({ arrangement, count, exceptions }, yard) =>
    some(yard, arrangement, id => {
      if (!yard.level.arrangementIds.has(id)) return false
      const { own } = yard.level.arranged(id)
      return yard.level.countOf(id) === count && Object.keys(own.exceptions ?? {}).length >= exceptions
    }),
  'scattered': ({ least, clear }, yard) =>
    yard.level.scatters.some(id => {
      // A rough one is still being dealt.
      if (yard.level.dealt(id)?.report.rough !== false) return false
      const places = placesOf(yard.level, id)
      return places.length >= least && places.every(at => awayFromLine(at, clear.from, clear.to) >= clear.width / 2)
    }),
  'taped': ({ between: [one, other], metres }, yard) =>
    [...yard.level.measures.values()].some(({ kind, ends }) => {
      if (kind !== 'tape') return false
      const on = (end: (typeof ends)[number], name: string) =>
        end.on !== null && named(yard.level, name).includes(end.on)
      const first = ends[0]!
      const last = ends.at(-1)!
      if (!((on(first, one) && on(last, other)) || (on(first, other) && on(last, one)))) return false
      const at = (end: (typeof ends)[number]) => new Vector3(...end.point).applyMatrix4(yard.level.worldMatrix(end.on!))
      return Math.abs(at(first).distanceTo(at(last)) - metres) <= NEAR
    }),
  'picked': ({ thing }, yard) => yard.picked.size === 1 && some(yard, thing, id => yard.picked.has(id)),
  'seen': ({ at, from, within, degrees }, { view }) => {
    const eye = new Vector3(...view.eye)
    const towards = new Vector3(...view.target).sub(eye)
    const to = new Vector3(...at).sub(eye)
    const side = new Vector3(...from).sub(new Vector3(...at))
    return (
      to.length() <= within
      && (towards.angleTo(to) * 180) / Math.PI <= degrees
      && eye
        .clone()
        .sub(new Vector3(...at))
        .setY(0)
        .angleTo(side.setY(0))
        <= Math.PI / 3
    )
  },
  'through': (_, { isThrough }) => isThrough,
  'handed over': (_, { handedOver }) => handedOver > 0,
}

/** Things of a name, and those that were duplicated from them or put beside them: with a number behind it. */
export function named(level: LevelView, name: string): string[] {
  const found: string[] = []
  for (const { id, name: called } of level.placements()) if (isCalled(called, name)) found.push(id)
  return found
}

function isCalled(called: string, name: string): boolean {
  if (!called.startsWith(name)) return false
  const rest = called.slice(name.length)
  return rest === '' || /^ \d+$/.test(rest)
}

const some = ({ level }: Yard, name: string, is: (id: string) => boolean) => named(level, name).some(is)

const pair = (yard: Yard, one: string, other: string, is: (a: string, b: string) => boolean) =>
  some(yard, one, id => some(yard, other, to => to !== id && is(id, to)))

const boxOf = (yard: Yard, id: string) => yard.index.extents.boundsOf(yard.level.subtree(id), new Box3())

/** In the world. */
const pivotOf = (level: LevelView, id: string) =>
  new Vector3(...level.need(id).pivot).applyMatrix4(level.worldMatrix(id))

function cornersOf(yard: Yard, id: string): Vector3[] {
  const box = yard.index.extents.ownBox(id)
  if (box.isEmpty()) return []
  const { min, max } = box
  const matrix = yard.level.worldMatrix(id)
  return [0, 1, 2, 3, 4, 5, 6, 7].map(i =>
    new Vector3(i & 1 ? max.x : min.x, i & 2 ? max.y : min.y, i & 4 ? max.z : min.z).applyMatrix4(matrix),
  )
}

/** Degrees from one direction to another, from -180 to 180. */
const apart = (a: number, b: number) => ((((a - b + 180) % 360) + 360) % 360) - 180

/** Where the copies of an arrangement stand. */
function placesOf(level: LevelView, id: string): Vector3[] {
  const places: Vector3[] = []
  const toWorld = level.worldMatrix(id)
  for (const { matrices } of level.shapes(id))
    for (let i = 0; i < matrices.length; i += 16)
      places.push(new Vector3(matrices[i + 12], matrices[i + 13], matrices[i + 14]).applyMatrix4(toWorld))
  return places
}

/** Level metres from a point to the stretch between two others. */
function awayFromLine({ x, z }: Vector3, [ax, , az]: Vec3, [bx, , bz]: Vec3): number {
  const at = new Vector3(x, 0, z)
  return new Line3(new Vector3(ax, 0, az), new Vector3(bx, 0, bz))
    .closestPointToPoint(at, true, new Vector3())
    .distanceTo(at)
}
