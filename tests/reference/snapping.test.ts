import bunny from 'bunny'
import type { BufferGeometry } from 'three'
import {
  BoxGeometry,
  BufferAttribute,
  BufferGeometry as Geometry,
  Ray,
  SphereGeometry,
  TorusKnotGeometry,
  Vector3,
} from 'three'
import { TeapotGeometry } from 'three/examples/jsm/geometries/TeapotGeometry.js'
import { describe, expect, it } from 'vitest'
import { setDown } from '../../core/edit/snap/set-down'
import { findSnapPoint } from '../../core/edit/snap/vertex'
import { applyChange } from '../../core/level/change'
import { Pcg32 } from '../../core/math/random'
import type { Vec3 } from '../../core/math/vectors'
import { Solid } from '../../core/mesh/solid'
import { LevelIndex } from '../../core/scene/level-index'
import { bareView } from '../../core/scene/level-view'
import { aimAt, testId, testPlacement, worldVertices } from '../support'

const material = {
  name: 'Stone',
  baseColor: [1, 1, 1] as const,
  roughness: 1,
  metallic: 0,
  emissive: [0, 0, 0] as const,
}

function solidOf(geometry: BufferGeometry): Solid {
  const positions = Float32Array.from(geometry.getAttribute('position').array)
  const indices = geometry.getIndex()
    ? Uint32Array.from(geometry.getIndex()!.array)
    : Uint32Array.from({ length: positions.length / 3 }, (_, i) => i)
  return new Solid({ primitives: [{ material, positions, normals: new Float32Array(positions.length), indices }] })
}

/** The Stanford bunny (Stanford University Computer Graphics Laboratory), as the package `bunny` carries it. */
function bunnyGeometry(): BufferGeometry {
  const geometry = new Geometry()
  geometry.setAttribute('position', new BufferAttribute(Float32Array.from(bunny.positions.flat()), 3))
  geometry.setIndex(bunny.cells.flat())
  return geometry.scale(0.2, 0.2, 0.2).center()
}

/** Each triangle with corners of its own, as files often have them. */
const unwelded = (geometry: BufferGeometry) => geometry.toNonIndexed()

const shapes: Record<string, BufferGeometry> = {
  'a ball of 64 sides': new SphereGeometry(1, 64, 64),
  'the bunny': bunnyGeometry(),
  'the bunny, each triangle by itself': unwelded(bunnyGeometry()),
  'the teapot (Newell 1975)': new TeapotGeometry(0.8, 12),
  'a knot, each triangle by itself': unwelded(new TorusKnotGeometry(0.8, 0.25, 200, 24)),
}

describe('vertex snap', () => {
  it.each(Object.entries(shapes))(
    'finds on %s whatever looking at every vertex finds, along its outline too, and behind a post',
    (_, geometry) => {
      const solid = solidOf(geometry)
      const post = solidOf(new BoxGeometry(0.2, 4, 0.2))
      const level = bareView([
        testPlacement(1, {
          kind: 'part',
          partId: testId(1001),
          rotation: [0, Math.sin(0.3), 0, Math.cos(0.3)],
          scale: [1, 1.2, -0.9],
        }),
        testPlacement(2, { kind: 'part', partId: testId(1002), translation: [0.3, 0, 2] }),
      ])
      const solids = new Map([
        [testId(1001), solid],
        [testId(1002), post],
      ])
      const index = new LevelIndex(level, shape => solids.get(shape))
      const places = new Map<string, Vector3>()
      for (const { mesh, matrix } of [1, 2].map(n => ({
        mesh: solids.get(testId(1000 + n))!.mesh,
        matrix: level.worldMatrix(testId(n)),
      }))) {
        const { positions } = mesh.primitives[0]!
        for (let i = 0; i < positions.length; i += 3) {
          const point = new Vector3().fromArray(positions, i).applyMatrix4(matrix)
          places.set(point.toArray().join(), point)
        }
      }
      const numbers = new Pcg32([0, 11], [0, 1])
      const random = () => numbers.share()
      const eye: Vec3 = [0.4, 1.5, 7]
      let [caught, hidden] = [0, 0]
      for (let i = 0; i < 60; i++) {
        const turn = random() * 2 * Math.PI
        // Every other place is near the outline.
        const far = i % 2 ? 0.9 + random() * 0.2 : random() * 1.2
        const aim = aimAt(eye, [0, 0, 0], [far * Math.cos(turn), far * Math.sin(turn), 0.2])
        let least = Infinity
        for (const point of places.values()) {
          const seen = aim.project(point)!
          const distance = Math.hypot(seen.x - aim.at.x, seen.y - aim.at.y)
          if (distance > 14 || distance >= least) continue
          const sight = aim.sightTo(point)
          const hit = index.raycast(sight)
          if (!hit || hit.distance >= sight.origin.distanceTo(point) * 0.999 - 0.001) least = distance
          else hidden++
        }
        const found = findSnapPoint(level, index, aim, new Set(['vertex']), () => true)
        if (least === Infinity) expect(found).toBeNull()
        else {
          const seen = aim.project(found!.point)!
          expect(Math.hypot(seen.x - aim.at.x, seen.y - aim.at.y)).toBeCloseTo(least, 6)
          caught++
        }
      }
      expect(caught).toBeGreaterThan(30)
      expect(hidden).toBeGreaterThan(30)
    },
  )
})

describe('set down', () => {
  it.each(Object.entries(shapes))(
    '%s stands on another bunny with no vertex below it, as looking at every one of them says',
    (_, geometry) => {
      const solids = new Map([
        [testId(1001), solidOf(bunnyGeometry().scale(6, 6, 6))],
        [testId(1002), solidOf(geometry)],
      ])
      const random = new Pcg32([0, 3], [0, 1])
      const between = (low: number, high: number) => low + (high - low) * random.share()
      let rested = 0
      for (let i = 0; i < 12; i++) {
        const turn = between(0, Math.PI)
        const level = bareView([
          testPlacement(1, { kind: 'part', partId: testId(1001) }),
          testPlacement(2, {
            kind: 'part',
            partId: testId(1002),
            translation: [between(-2, 2), 9, between(-2, 2)],
            rotation: [Math.sin(turn), 0, 0, Math.cos(turn)],
            scale: [0.4, 0.5, 0.4],
            pivot: [between(-1, 1), 0, 0],
          }),
        ])
        const index = new LevelIndex(level, shape => solids.get(shape))
        const { operations, down } = setDown(
          level,
          index,
          new Set([testId(2)]),
          { rest: 'clear', leaning: false, offset: 0 },
          { above: 1, below: 30 },
        )
        if (down.length === 0) continue
        applyChange(level, operations)
        const ground = (point: Vector3) =>
          index.raycast(new Ray(point.clone().setY(20), new Vector3(0, -1, 0)), id => id === testId(1))
        const gaps = worldVertices(level, index, testId(2)).map(
          point => point.y - (ground(point)?.point.y ?? -Infinity),
        )
        // A vertex within a cell of the underside may be a little lower than the one that stands for it, where the
        // ground is steep.
        expect(Math.min(...gaps)).toBeGreaterThan(-0.05)
        expect(Math.min(...gaps)).toBeLessThan(1e-3)
        rested++
      }
      expect(rested).toBeGreaterThan(6)
    },
  )
})
