import { Box3, Matrix4, Vector3 } from 'three'
import { trianglesIn } from '../scene/triangles-in'
import type { Solid } from '../mesh/solid'
import type { LevelIndex } from '../scene/level-index'
import type { LevelView } from '../scene/level-view'
import type { Shown } from '../scene/shown'
import type { Falling, Fixed, SettleScene } from './settle'

/** How far around and below what falls there is something to fall onto, in metres. */
const [ASIDE, BELOW] = [3, 40]
/** Points of a thing's hull. */
const MOST_POINTS = 1000
/**
 * Directions evenly over a ball, along a spiral (a Fibonacci lattice; common practice), and those along the axes: what
 * is lowest is among them.
 */
const DIRECTIONS = [
  ...[0, 1, 2].flatMap(axis => [1, -1].map(sign => new Vector3().setComponent(axis, sign))),
  ...Array.from({ length: MOST_POINTS - 6 }, (_, i) => {
    const y = 1 - (2 * i + 1) / (MOST_POINTS - 6)
    const angle = i * Math.PI * (3 - Math.sqrt(5))
    return new Vector3(Math.cos(angle) * Math.sqrt(1 - y * y), y, Math.sin(angle) * Math.sqrt(1 - y * y))
  }),
]
const known = new WeakMap<Solid, readonly Vector3[]>()

/**
 * The points of a shape that its hull is made of: all of them if they are few, else the outermost in each of many
 * directions. The hull of those lies within the whole one by less than a thousandth of its size.
 */
export function outermost(solid: Solid): readonly Vector3[] {
  let found = known.get(solid)
  if (!found) {
    const all: Vector3[] = []
    solid.eachPlace((x, y, z) => all.push(new Vector3(x, y, z)))
    found = all.length <= MOST_POINTS ? all : [...new Set(DIRECTIONS.map(direction => farthestAlong(all, direction)))]
    known.set(solid, found)
  }
  return found
}

function farthestAlong(points: readonly Vector3[], { x, y, z }: Vector3): Vector3 {
  let [best, most] = [points[0]!, -Infinity]
  for (const point of points) {
    const along = point.x * x + point.y * y + point.z * z
    if (along > most) [best, most] = [point, along]
  }
  return best
}

/**
 * What falls, and what it falls onto: all that the level shows around and below. What stands on nothing else lands on
 * the ground plane at the height 0, or on a floor below the lowest thing where that is deeper.
 *
 * @param ids things and copies; a group falls as one
 * @param asOf as what a shape falls
 */
export function settleScene(
  level: LevelView,
  index: LevelIndex,
  ids: readonly string[],
  asOf: (shape: Shown['solid']) => Falling['as'],
): SettleScene {
  const falling: Falling[] = []
  const within = new Set<string>()
  for (const id of ids) {
    const own = shownWithin(level, index, id)
    for (const { id: shown, copy } of own) within.add(copy ?? shown)
    const made = fallingOf(id, level.worldMatrix(id), own, asOf)
    if (made) falling.push(made)
  }
  return { falling, fixed: fixedAround(index, boundsOf(falling), thing => !within.has(thing)) }
}

/** Something that shows things, as one that falls; null if it shows nothing. */
export function fallingOf(
  id: string,
  toWorld: Matrix4,
  shown: readonly Pick<Shown, 'solid' | 'matrix'>[],
  asOf: (shape: Shown['solid']) => Falling['as'],
): Falling | null {
  if (shown.length === 0) return null
  const toOwn = toWorld.clone().invert()
  const points: number[] = []
  const point = new Vector3()
  const matrix = new Matrix4()
  for (const { solid, matrix: stands } of shown) {
    matrix.multiplyMatrices(toOwn, stands)
    for (const at of outermost(solid)) points.push(...point.copy(at).applyMatrix4(matrix).toArray())
  }
  return {
    id,
    matrix: Float64Array.from(toWorld.elements),
    points: Float32Array.from(points),
    as: shown.length === 1 ? asOf(shown[0]!.solid) : 'hull',
  }
}

/** What is around and below a box that falls. @param accept leaves out what it answers false for */
export function fixedAround(index: LevelIndex, box: Box3, accept: (thing: string) => boolean): Fixed[] {
  if (box.isEmpty()) return []
  const around = box.clone().expandByVector(new Vector3(ASIDE, ASIDE, ASIDE))
  around.min.y -= BELOW
  const { count, corners, things } = trianglesIn(index, around)
  const kept: number[] = []
  for (let i = 0; i < count; i++) if (accept(things[i]!)) for (let k = 0; k < 9; k++) kept.push(corners[i * 9 + k]!)
  const lowest = index.bounds().min.y
  const floor = lowest < -0.01 ? lowest : 0
  const [x, z] = [box.getCenter(new Vector3()).x, box.getCenter(new Vector3()).z]
  const reach = box.getSize(new Vector3()).length() + 100
  return [
    { positions: Float32Array.from(kept), indices: Uint32Array.from({ length: kept.length / 3 }, (_, i) => i) },
    {
      positions: Float32Array.of(
        x - reach,
        floor,
        z - reach,
        x - reach,
        floor,
        z + reach,
        x + reach,
        floor,
        z + reach,
        x + reach,
        floor,
        z - reach,
      ),
      indices: Uint32Array.of(0, 1, 2, 0, 2, 3),
    },
  ]
}

/** The box around what falls, in the world. */
export function boundsOf(falling: readonly Falling[]): Box3 {
  const [box, matrix, point] = [new Box3(), new Matrix4(), new Vector3()]
  for (const { matrix: elements, points } of falling) {
    matrix.fromArray(elements)
    for (let i = 0; i < points.length; i += 3) box.expandByPoint(point.fromArray(points, i).applyMatrix4(matrix))
  }
  return box
}

/** All that a thing, a group or a copy shows. */
function shownWithin(level: LevelView, index: LevelIndex, id: string): Shown[] {
  return (level.copy(id) ? [id] : level.subtree(id)).flatMap(below =>
    level.isHidden(level.copy(below) ? level.need(below).parentId! : below) ? [] : [...index.shownBy(below)],
  )
}
