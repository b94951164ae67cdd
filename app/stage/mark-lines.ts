import type { Matrix4 } from 'three'
import { Vector3 } from 'three'
import { aimOf, placeOf } from '~~/core/edit/aim'
import type { MarkKind, OwnOf } from '~~/core/level/kinds'
import { markKindOf } from '~~/core/level/kinds'
import type { MarkerOwn } from '~~/core/level/kinds/marker'
import type { Placement } from '~~/core/level/schema'
import { frameAt } from '~~/core/math/lens'
import type { LevelView } from '~~/core/scene/level-view'

/** A line between two points of the world. */
export type Line = readonly [Vector3, Vector3]

const v = (x: number, y: number, z: number) => new Vector3(x, y, z)
/** How far lights without an end, and a camera's picture without an aim, are drawn, in metres. */
const DRAWN = 4
const PERSON = personLines()

/**
 * What a camera, a light or a marker is drawn as, in the world: what a camera sees, how far a light reaches, who comes
 * in where.
 *
 * @param matrixOf where things stand at present
 * @param own its own fields at present
 */
export function linesOfMark(
  level: LevelView,
  { own }: Pick<Placement, 'own'>,
  matrix: Matrix4,
  moved: ReadonlyMap<string, Matrix4>,
): Line[] {
  const aim = aimOf(own)
  const eye = v(0, 0, 0).setFromMatrixPosition(matrix)
  const target = aim && placeOf(level, aim, moved)
  const placed = (lines: Line[]): Line[] =>
    lines.map(([a, b]) => [a.clone().applyMatrix4(matrix), b.clone().applyMatrix4(matrix)])
  const aimed: Line[] = target ? [[eye, target], ...cross(target)] : []
  const at: MarkAt = { level, matrix, moved, placed, eye, aimedAt: target ? eye.distanceTo(target) : null }
  const kind = markKindOf(own)
  return kind === null ? [] : [...(LINES[kind] as (own: object, at: MarkAt) => Line[])(own, at), ...aimed]
}

type MarkAt = {
  level: LevelView
  matrix: Matrix4
  moved: ReadonlyMap<string, Matrix4>
  placed: (lines: Line[]) => Line[]
  eye: Vector3
  /** Metres to what it is turned to; null if that is nothing. */
  aimedAt: number | null
}

const LINES: { [K in MarkKind]: (own: OwnOf<K>, at: MarkAt) => Line[] } = {
  camera: (own, { placed, aimedAt }) => {
    const rects = [own.near, Math.min(aimedAt ?? DRAWN, own.far), own.far].map(distance =>
      frameAt(own.fieldOfView, own.aspect, distance).map(corner => v(...corner)),
    ) as [Vector3[], Vector3[], Vector3[]]
    const [near, middle, far] = rects
    const top = middle[0]!.clone().lerp(middle[1]!, 0.5)
    const width = middle[0]!.x
    return placed([
      ...rects.flatMap(loop),
      ...near.map((corner, i): Line => [corner, far[i]!]),
      [top, top.clone().add(v(0, width * 0.18, 0))],
    ])
  },
  light: (own, { placed }) => placed(lightLines(own.light, own)),
  marker: (own, { level, matrix, moved, placed, eye }) => markerLines(level, own, matrix, moved, placed, eye),
}

function lightLines(
  kind: 'sun' | 'point' | 'spot' | 'area',
  {
    range,
    innerCone,
    outerCone,
    width,
    height,
  }: { range: number; innerCone: number; outerCone: number; width: number; height: number },
): Line[] {
  const reach = range || DRAWN
  if (kind === 'point') return [ring(reach, 'xy'), ring(reach, 'xz'), ring(reach, 'yz')].flat()
  if (kind === 'sun') {
    const rays = [
      [0, 0],
      [0.4, 0],
      [-0.4, 0],
      [0, 0.4],
      [0, -0.4],
    ] as const
    return [...ring(0.4, 'xy'), ...rays.map(([x, y]): Line => [v(x, y, 0), v(x, y, -1.6)])]
  }
  if (kind === 'area') {
    const corners = [
      v(width / 2, height / 2, 0),
      v(-width / 2, height / 2, 0),
      v(-width / 2, -height / 2, 0),
      v(width / 2, -height / 2, 0),
    ]
    return [...loop(corners), [v(0, 0, 0), v(0, 0, -0.5)]]
  }
  const at = (cone: number) => ({
    radius: Math.min(Math.tan((Math.min(cone, 85) * Math.PI) / 180) * reach, 1e4),
    depth: -reach,
  })
  const [inner, outer] = [at(innerCone), at(outerCone)]
  const sides = Array.from(
    { length: 8 },
    (_, i): Line => [
      v(0, 0, 0),
      v(Math.cos((i * Math.PI) / 4) * outer.radius, Math.sin((i * Math.PI) / 4) * outer.radius, -reach),
    ],
  )
  return [...ring(outer.radius, 'xy', outer.depth), ...ring(inner.radius, 'xy', inner.depth), ...sides]
}

function markerLines(
  level: LevelView,
  own: MarkerOwn,
  matrix: Matrix4,
  moved: ReadonlyMap<string, Matrix4>,
  placed: (lines: Line[]) => Line[],
  eye: Vector3,
): Line[] {
  if (own.marker === 'spawn') return placed(PERSON)
  if (own.marker === 'volume') return placed(VOLUMES[own.shape])
  if (own.marker === 'walk') {
    const points = own.points.map(point => v(...point).applyMatrix4(matrix))
    return [...points.slice(1).map((to, i): Line => [points[i]!, to]), ...sidesOfWay(points, own.width / 2)]
  }
  if (!own.arrow) return []
  const to = placeOf(level, own.arrow, moved)
  const way = to.clone().sub(eye)
  const length = way.length()
  if (length < 1e-6) return []
  const across = way
    .clone()
    .cross(Math.abs(way.y) > length * 0.9 ? v(1, 0, 0) : v(0, 1, 0))
    .normalize()
    .multiplyScalar(Math.min(0.12, length / 4))
  const back = to.clone().addScaledVector(way, -Math.min(0.25, length / 2) / length)
  return [
    [eye, to],
    [to, back.clone().add(across)],
    [to, back.clone().sub(across)],
  ]
}

/** The sides of a way of some width. */
function sidesOfWay(points: readonly Vector3[], half: number): Line[] {
  return points.slice(1).flatMap((to, i) => {
    const from = points[i]!
    const aside = v(to.z - from.z, 0, from.x - to.x)
    if (aside.lengthSq() < 1e-12) return []
    aside.setLength(half)
    return [1, -1].map(
      (side): Line => [from.clone().addScaledVector(aside, side), to.clone().addScaledVector(aside, side)],
    )
  })
}

function loop(points: readonly Vector3[]): Line[] {
  return points.map((point, i): Line => [point, points[(i + 1) % points.length]!])
}

function ring(radius: number, plane: 'xy' | 'xz' | 'yz', depth = 0): Line[] {
  const count = 40
  return loop(
    Array.from({ length: count }, (_, i) => {
      const [a, b] = [Math.cos((i / count) * 2 * Math.PI) * radius, Math.sin((i / count) * 2 * Math.PI) * radius]
      return plane === 'xy' ? v(a, b, depth) : plane === 'xz' ? v(a, depth, b) : v(depth, a, b)
    }),
  )
}

function cross(at: Vector3): Line[] {
  const size = 0.12
  return [v(size, 0, 0), v(0, size, 0), v(0, 0, size)].map(arm => [at.clone().sub(arm), at.clone().add(arm)])
}

const BOX = [
  [-0.5, -0.5],
  [0.5, -0.5],
  [0.5, 0.5],
  [-0.5, 0.5],
] as const
const VOLUMES: Record<Extract<MarkerOwn, { marker: 'volume' }>['shape'], Line[]> = {
  box: [
    ...loop(BOX.map(([x, z]) => v(x, 0, z))),
    ...loop(BOX.map(([x, z]) => v(x, 1, z))),
    ...BOX.map(([x, z]): Line => [v(x, 0, z), v(x, 1, z)]),
  ],
  ball: (['xy', 'xz', 'yz'] as const)
    .flatMap(plane => ring(0.5, plane))
    .map(([a, b]): Line => [a.clone().add(v(0, 0.5, 0)), b.clone().add(v(0, 0.5, 0))]),
  cylinder: [
    ...ring(0.5, 'xz', 0),
    ...ring(0.5, 'xz', 1),
    ...[0, 1, 2, 3].map(
      (i): Line => [
        v(Math.cos((i * Math.PI) / 2) / 2, 0, Math.sin((i * Math.PI) / 2) / 2),
        v(Math.cos((i * Math.PI) / 2) / 2, 1, Math.sin((i * Math.PI) / 2) / 2),
      ],
    ),
  ],
}

/**
 * A person's outline, 1.8 m high, seen from the front, on a disc as wide as a body needs, with the way it faces (+Z).
 */
function personLines(): Line[] {
  const half: readonly (readonly [number, number])[] = [
    [0.04, 0],
    [0.17, 0],
    [0.15, 0.45],
    [0.17, 0.88],
    [0.18, 1],
    [0.24, 0.86],
    [0.29, 0.88],
    [0.25, 1.2],
    [0.24, 1.42],
    [0.19, 1.5],
    [0.06, 1.53],
    [0.06, 1.57],
    [0.1, 1.64],
    [0.1, 1.72],
    [0.06, 1.78],
    [0, 1.8],
  ]
  const side = (sign: number) =>
    half.slice(1).map(([x, y], i): Line => [v(sign * half[i]![0], half[i]![1], 0), v(sign * x, y, 0)])
  return [
    ...side(1),
    ...side(-1),
    [v(0.04, 0, 0), v(0, 0.82, 0)],
    [v(-0.04, 0, 0), v(0, 0.82, 0)],
    ...ring(0.3, 'xz'),
    [v(0, 0, 0), v(0, 0, 0.75)],
    [v(0, 0, 0.75), v(0.12, 0, 0.58)],
    [v(0, 0, 0.75), v(-0.12, 0, 0.58)],
  ]
}
