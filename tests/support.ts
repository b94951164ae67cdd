import fc from 'fast-check'
import type { BufferGeometry } from 'three'
import { BoxGeometry, PerspectiveCamera, Ray, Vector3 } from 'three'
import type { Aim } from '../core/edit/snap/aim'
import type { GlbOptions } from '../core/formats/level-glb'
import { glbOptionsSchema, writeLevelGlb } from '../core/formats/level-glb'
import type { PartToHandOver } from '../core/formats/out/shapes'
import type { Encoders } from '../core/formats/glb-packing'
import { LevelIndex } from '../core/scene/level-index'
import type { Picture } from '../core/mesh/texture'
import type { Material, Mesh } from '../core/mesh/mesh'
import { Solid } from '../core/mesh/solid'
import { MeshBuilder } from '../core/mesh/mesh-builder'
import type { LevelView } from '../core/scene/level-view'
import { bareView } from '../core/scene/level-view'
import type { Placement } from '../core/level/schema'
import type { Quat, Vec3 } from '../core/math/vectors'
import { createPlacement } from '../core/level/create'

// Things that tests of several areas need: made-up levels and arbitrary numbers.

/** Ids that read well in a failure: 1, 2, 3 ... as UUIDs. */
export function testId(number: number): string {
  return `00000000-0000-7000-8000-${number.toString(16).padStart(12, '0')}`
}

export function testPlacement(number: number, fields: Partial<Placement> = {}): Placement {
  return createPlacement({ id: testId(number), name: `Thing ${number}`, kind: 'group', order: number, ...fields })
}

export const anyLength = fc.double({ min: -50, max: 50, noNaN: true })
export const anyVec3: fc.Arbitrary<Vec3> = fc.tuple(anyLength, anyLength, anyLength)
export const anyFactor = fc.oneof(
  fc.double({ min: 0.2, max: 4, noNaN: true }),
  fc.double({ min: -4, max: -0.2, noNaN: true }),
)
export const anyScale: fc.Arbitrary<Vec3> = fc.tuple(anyFactor, anyFactor, anyFactor)
export const anyQuat: fc.Arbitrary<Quat> = fc
  .tuple(anyLength, anyLength, anyLength, anyLength)
  .filter(quat => Math.hypot(...quat) > 0.1)
  .map(quat => quat.map(value => value / Math.hypot(...quat)) as Quat)

/** Up to `most` placements in a random tree: each hangs from an earlier one or from none. */
export function anyTree(most: number): fc.Arbitrary<Placement[]> {
  const one = fc.record({
    above: fc.nat(),
    top: fc.boolean(),
    translation: anyVec3,
    rotation: anyQuat,
    scale: anyScale,
    pivot: anyVec3,
    order: fc.integer({ min: -5, max: 5 }),
  })
  return fc
    .array(one, { minLength: 1, maxLength: most })
    .map(entries =>
      entries.map(({ above, top, ...fields }, i) =>
        testPlacement(i + 1, { ...fields, parentId: top || i === 0 ? null : testId((above % i) + 1) }),
      ),
    )
}

/**
 * What a mesh encloses: a sixth of the sum of the corners' triple products (the divergence theorem); negative if inside
 * out.
 */
export function meshVolume(mesh: Mesh): number {
  let sum = 0
  for (const { positions, indices } of mesh.primitives) {
    const at = (i: number) => new Vector3().fromArray(positions, indices[i]! * 3)
    for (let i = 0; i < indices.length; i += 3) sum += at(i).dot(at(i + 1).cross(at(i + 2))) / 6
  }
  return sum
}

/** A closed mesh of a made-up material around the given geometry, its pivot in the middle of its bottom. */
export function testSolid(...shapes: BufferGeometry[]): Solid {
  const builder = new MeshBuilder()
  for (const shape of shapes) builder.add(TEST_MATERIAL, shape)
  return new Solid(builder.build())
}

/** A level as the bytes of a whole binary glTF file. */
export async function levelGlb(
  name: string,
  level: LevelView,
  parts: ReadonlyMap<string, PartToHandOver>,
  instanced = false,
  pictures: ReadonlyMap<string, Picture> = new Map(),
  more: Partial<GlbOptions> = {},
  encoders: Encoders = {},
): Promise<Uint8Array> {
  const binary: Uint8Array[] = []
  const { head } = await writeLevelGlb(
    name,
    level,
    id => parts.get(id),
    { ...glbOptionsSchema.parse({}), instanced, ...more },
    {
      pictureOf: picture => pictures.get(picture)!,
      sink: bytes => void binary.push(bytes.slice()),
      encoders,
    },
  )
  return new Uint8Array(Buffer.concat([head, ...binary]))
}

export const TEST_MATERIAL: Material = {
  name: 'Plain',
  baseColor: [1, 1, 1],
  roughness: 1,
  metallic: 0,
  emissive: [0, 0, 0],
}

/**
 * A level whose placements show boxes of given sizes (width, height, depth), their pivots in the middle of their
 * bottoms.
 */
export function levelOfBoxes(boxes: (Partial<Placement> & { size?: Vec3 })[]) {
  const sizes = new Map<string, Vec3>()
  const level = bareView(
    boxes.map(({ size, ...fields }, i) => {
      if (size) sizes.set(testId(i + 1), size)
      return testPlacement(i + 1, size ? { kind: 'part', partId: testId(1000 + i), ...fields } : fields)
    }),
  )
  const solids = new Map([...sizes].map(([id, size]) => [level.need(id).partId!, testSolid(new BoxGeometry(...size))]))
  return { level, index: new LevelIndex(level, shape => solids.get(shape)) }
}

/** The world positions of all vertices of a placement and what hangs below it. */
export function worldVertices(level: LevelView, index: LevelIndex, id: string): Vector3[] {
  return level
    .subtree(id)
    .flatMap(below =>
      index
        .shownBy(below)
        .flatMap(({ solid, matrix }) =>
          solid.mesh.primitives.flatMap(({ positions }) =>
            Array.from({ length: positions.length / 3 }, (_, i) =>
              new Vector3().fromArray(positions, i * 3).applyMatrix4(matrix),
            ),
          ),
        ),
    )
}

/** The largest distance between points of the same places in two lists. */
export function farthestApart(a: readonly Vector3[], b: readonly Vector3[]): number {
  return Math.max(0, ...a.map((point, i) => point.distanceTo(b[i]!)))
}

const WIDTH = 800
const HEIGHT = 600

/** A pointer over a point of the world, seen from an eye, in a picture of 800 by 600. */
export function aimAt(eye: Vec3, target: Vec3, over: Vec3): Aim {
  const camera = new PerspectiveCamera(60, WIDTH / HEIGHT, 0.05, 500)
  camera.position.set(...eye)
  camera.lookAt(...target)
  camera.updateMatrixWorld()
  const projection = camera.projectionMatrix.clone().multiply(camera.matrixWorldInverse)
  const project = (point: Vector3) => {
    const seen = point.clone().applyMatrix4(projection)
    return { x: ((seen.x + 1) / 2) * WIDTH, y: ((1 - seen.y) / 2) * HEIGHT }
  }
  const at = project(new Vector3(...over))
  const ndc = (x: number, y: number) => ({ x: (x / WIDTH) * 2 - 1, y: 1 - (y / HEIGHT) * 2 })
  return {
    at,
    projection,
    project,
    ray: new Ray(camera.position.clone(), new Vector3(...over).sub(camera.position).normalize()),
    around: pixels => {
      const [a, b] = [ndc(at.x - pixels, at.y + pixels), ndc(at.x + pixels, at.y - pixels)]
      return { x0: a.x, y0: a.y, x1: b.x, y1: b.y }
    },
    sightTo: point => new Ray(camera.position.clone(), point.clone().sub(camera.position).normalize()),
    metresPerPixel: point => (2 * point.distanceTo(camera.position) * Math.tan(Math.PI / 6)) / HEIGHT,
  }
}
