import fc from 'fast-check'
import type { Light } from 'three'
import {
  BoxGeometry,
  DirectionalLight,
  MathUtils,
  Matrix4,
  PerspectiveCamera,
  PointLight,
  Quaternion,
  SpotLight,
  Vector3,
} from 'three'
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js'
import { validateBytes } from 'gltf-validator'
import { describe, expect, it } from 'vitest'
import type { ArrangementOwn } from '../../core/arrange/arrangement'
import { RULES } from '../../core/arrange/rules'
import { cameraOwn, lightOwn, markerOwn } from '../../core/level/create'
import { KINDS } from '../../core/level/kinds'
import type { Lamp } from '../../core/level/part'
import { LevelView } from '../../core/scene/level-view'
import { levelGlb, testId, testPlacement, testSolid } from '../support'
import { turnTo } from '../../core/edit/aim'
import { sunAt, sunRotation } from '../../core/level/sun'
import {
  blackBody,
  candelaOfPoint,
  colorOfKelvin,
  coneShare,
  falloff,
  lumenOfArea,
  solidAngle,
} from '../../core/math/photometry'
import { fieldOf, focalOf, frameAt, horizontalOf } from '../../core/math/lens'
import { exposureFactor } from '../../core/level/sky'

it('a spot gives off the lumen it says: its falloff summed over rings of its cone', () => {
  for (const [inner, outer] of [
    [0, 40],
    [20, 40],
    [39.99, 40],
    [10, 85],
    [0, 89],
    [1, 2],
  ] as const) {
    // 2π sin θ dθ of candela times the share at θ, by the midpoint rule.
    const rings = 200_000
    const step = ((outer / rings) * Math.PI) / 180
    let sum = 0
    for (let i = 0; i < rings; i++) {
      const angle = (i + 0.5) * step
      sum += coneShare((angle * 180) / Math.PI, inner, outer) * 2 * Math.PI * Math.sin(angle) * step
    }
    expect(solidAngle(inner, outer) / sum).toBeCloseTo(1, 4)
  }
})

describe('lenses', () => {
  it('give the angles of a 36 x 24 mm frame: 50 mm 39.6 x 27.0, 24 mm 73.7 x 53.1, 35 mm 54.4 x 37.8 degrees (lens tables; from memory)', () => {
    for (const [focal, horizontal, vertical] of [
      [50, 39.6, 27],
      [24, 73.7, 53.1],
      [35, 54.4, 37.8],
    ] as const) {
      const field = fieldOf(focal, 36 / 24, 36)
      expect(field).toBeCloseTo(vertical, 1)
      expect(horizontalOf(field, 36 / 24)).toBeCloseTo(horizontal, 1)
      expect(focalOf(field, 36 / 24, 36)).toBeCloseTo(focal, 9)
      expect(horizontalOf(horizontalOf(field, 2.39), 1 / 2.39)).toBeCloseTo(field, 9)
    }
  })

  it("see what three's camera sees: the corners of its frustum near and far", () => {
    fc.assert(
      fc.property(
        fc.double({ min: 5, max: 150, noNaN: true }),
        fc.double({ min: 0.3, max: 3, noNaN: true }),
        (field, aspect) => {
          const camera = new PerspectiveCamera(field, aspect, 0.5, 40)
          for (const [distance, z] of [
            [0.5, -1],
            [40, 1],
          ] as const) {
            const corners = [
              [1, 1],
              [-1, 1],
              [-1, -1],
              [1, -1],
            ].map(([x, y]) => new Vector3(x, y, z).unproject(camera))
            frameAt(field, aspect, distance).forEach((corner, i) =>
              expect(new Vector3(...corner).distanceTo(corners[i]!)).toBeLessThan(
                1e-4 * distance * Math.tan(MathUtils.degToRad(field / 2)) * Math.max(aspect, 1) + 1e-3,
              ),
            )
          }
        },
      ),
    )
  })

  it("aim as three's cameras look, whatever they hang from", () => {
    const place = fc.tuple(
      fc.double({ min: -9, max: 9, noNaN: true }),
      fc.double({ min: -9, max: 9, noNaN: true }),
      fc.double({ min: -9, max: 9, noNaN: true }),
    )
    fc.assert(
      fc.property(place, place, place, ([x, y, z], [a, b, c], turn) => {
        const [eye, target] = [new Vector3(x, y, z), new Vector3(a, b, c)]
        fc.pre(Math.hypot(x - a, z - c) > 0.1)
        const above = new Matrix4().makeRotationFromQuaternion(
          new Quaternion().setFromAxisAngle(new Vector3(...turn).addScalar(20).normalize(), turn[0]),
        )
        const camera = new PerspectiveCamera()
        camera.position.copy(eye)
        camera.lookAt(target)
        const found = new Quaternion(...turnTo(eye, target, above)!).premultiply(
          new Quaternion().setFromRotationMatrix(above),
        )
        expect(found.angleTo(camera.quaternion)).toBeLessThan(1e-6)
      }),
    )
    expect(turnTo(new Vector3(1, 2, 3), new Vector3(1, 2, 3), new Matrix4())).toBeNull()
  })
})

/**
 * The sun's declination and hour angle to 0.01°, by the low-precision formulas of the Astronomical Almanac (page C5;
 * from memory): mean longitude, anomaly and ecliptic longitude, obliquity, right ascension and sidereal time.
 */
function almanac(latitude: number, longitude: number, days: number): { altitude: number; azimuth: number } {
  const rad = MathUtils.degToRad
  const L = 280.46 + 0.9856474 * days
  const g = rad(357.528 + 0.9856003 * days)
  const lambda = rad(L + 1.915 * Math.sin(g) + 0.02 * Math.sin(2 * g))
  const epsilon = rad(23.439 - 0.0000004 * days)
  const ra = Math.atan2(Math.cos(epsilon) * Math.sin(lambda), Math.cos(lambda))
  const dec = Math.asin(Math.sin(epsilon) * Math.sin(lambda))
  const sidereal = rad(280.46061837 + 360.98564736629 * days + longitude)
  const h = sidereal - ra
  const phi = rad(latitude)
  const altitude = Math.asin(Math.sin(phi) * Math.sin(dec) + Math.cos(phi) * Math.cos(dec) * Math.cos(h))
  const azimuth = Math.atan2(
    -Math.sin(h) * Math.cos(dec),
    Math.cos(phi) * Math.sin(dec) - Math.sin(phi) * Math.cos(dec) * Math.cos(h),
  )
  return { altitude: MathUtils.radToDeg(altitude), azimuth: (MathUtils.radToDeg(azimuth) + 360) % 360 }
}

describe('the sun', () => {
  const places = { Oslo: [59.91, 10.75, 1], Quito: [-0.18, -78.47, -5], Wellington: [-41.29, 174.78, 12] } as const
  /** Days from noon of 1 January 2000, by the calendar of the language. */
  const daysTo = (time: string, zone: number) =>
    (Date.parse(`${time}:00Z`) - Date.UTC(2000, 0, 1, 12)) / 86_400_000 - zone / 24

  it("stands where the Almanac's formulas have it, to 0.2°, at solstices and an equinox in three places", () => {
    for (const [latitude, longitude, zone] of Object.values(places)) {
      for (const date of ['2026-06-21', '2026-12-21', '2026-03-20']) {
        for (const hour of ['09:30', '12:00', '16:45']) {
          const time = `${date}T${hour}`
          const found = sunAt({ latitude, longitude, time, zone, north: 0 })
          const expected = almanac(latitude, longitude, daysTo(time, zone))
          expect(Math.abs(found.altitude - expected.altitude), `${time} at ${latitude}`).toBeLessThan(0.2)
          if (expected.altitude < 85)
            expect(
              Math.abs(((found.azimuth - expected.azimuth + 540) % 360) - 180),
              `${time} at ${latitude}`,
            ).toBeLessThan(0.2)
        }
      }
    }
  })

  it('at noon of the solstices stands 90° less the latitude, more or less the obliquity of 23.44°, high', () => {
    // Noon by the sun at Greenwich's meridian: clock time less the equation of time, which is about -2 minutes in June
    // and +2 in December.
    for (const [date, obliquity] of [
      ['2026-06-21', 23.44],
      ['2026-12-21', -23.44],
    ] as const) {
      expect(sunAt({ latitude: 51.48, longitude: 0, time: `${date}T12:00`, zone: 0, north: 0 }).altitude).toBeCloseTo(
        90 - 51.48 + obliquity,
        0,
      )
    }
  })

  it('shines from there: north is -Z, and can be turned', () => {
    const place = { latitude: 51.48, longitude: 0, time: '2026-03-20T12:00', zone: 0, north: 0 }
    const shines = (north: number) =>
      new Vector3(0, 0, -1).applyQuaternion(new Quaternion(...sunRotation({ ...place, north })))
    // From the south, which is +Z, down to the north.
    expect(shines(0).z).toBeLessThan(-0.7)
    expect(Math.abs(shines(0).x)).toBeLessThan(0.06)
    expect(shines(0).y).toBeCloseTo(-Math.sin(MathUtils.degToRad(sunAt(place).altitude)), 9)
    expect(shines(90).x).toBeGreaterThan(0.7)
  })
})

describe('brightness', () => {
  it('of point and spot lights is in candela, lumen by steradian (KHR_lights_punctual; SI brochure, 9th edition)', () => {
    expect(candelaOfPoint(4 * Math.PI)).toBe(1)
    expect(candelaOfPoint(1256.637)).toBeCloseTo(100, 3)
    // Without a soft edge a cone's own: 2π(1 - cos), for a whole ball and a half.
    expect(solidAngle(180, 180)).toBeCloseTo(4 * Math.PI, 2)
    expect(solidAngle(90, 90)).toBeCloseTo(2 * Math.PI, 2)
    expect(lumenOfArea(1000, 0.5)).toBeCloseTo(1570.796, 3)
  })

  it('falls off with the square of the distance, to nothing at the range; spots fade between their cones', () => {
    expect(falloff(2, 0)).toBe(0.25)
    expect(falloff(2, 1000)).toBeCloseTo(0.25, 9)
    expect(falloff(5, 10)).toBeCloseTo((1 - 0.5 ** 4) / 25, 12)
    expect(falloff(10, 10)).toBe(0)
    expect(falloff(11, 10)).toBe(0)
    expect([coneShare(0, 20, 40), coneShare(20, 20, 40), coneShare(40, 20, 40), coneShare(50, 20, 40)]).toEqual([
      1,
      expect.closeTo(1, 9),
      expect.closeTo(0, 9),
      0,
    ])
    expect(coneShare(30, 20, 40)).toBeGreaterThan(0.1)
  })

  it('of a clear noon at EV 15 is about full: sunny 16 (common practice, no source)', () => {
    expect(100_000 * exposureFactor(15)).toBeGreaterThan(2)
    expect(100_000 * exposureFactor(15)).toBeLessThan(Math.PI)
    expect(exposureFactor(4) / exposureFactor(5)).toBe(2)
  })

  it('by temperature has the chromaticity of a black body: CIE illuminant A at 2,856 K is 0.44757, 0.40745 (CIE 15; from memory)', () => {
    const [x, y] = blackBody(2856)
    expect(x).toBeCloseTo(0.44757, 2)
    expect(y).toBeCloseTo(0.40745, 2)
    // Equal energy is near 5,455 K, and 6,500 K near white in sRGB; a candle is orange, the sky blue.
    expect(colorOfKelvin(6600)).toMatch(/^#f[c-f]f[0-9a-f]f[0-9a-f]$|^#fff/)
    expect(colorOfKelvin(2000)).toMatch(/^#ff[78]/)
    expect(colorOfKelvin(20_000)).toMatch(/ff$/)
  })
})

describe('handed over', () => {
  const ring: ArrangementOwn = { ...KINDS.arrangement.first, rule: { ...RULES.line.first, count: 3 } }
  const lamp: Lamp = {
    at: [0, 2, 0],
    rotation: [0, 0, 0, 1],
    light: lightOwn({ light: 'point', color: '#ffcc88', intensity: 80, range: 9 }),
  }
  const level = new LevelView(
    [
      testPlacement(1, {
        kind: 'camera',
        own: cameraOwn({ fieldOfView: 42, aspect: 2.39, near: 0.2, far: 250 }),
        translation: [1, 2, 3],
        rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2],
      }),
      testPlacement(2, {
        kind: 'light',
        own: lightOwn({ light: 'sun', intensity: 90_000 }),
        rotation: [-Math.SQRT1_2, 0, 0, Math.SQRT1_2],
      }),
      testPlacement(3, {
        kind: 'light',
        own: lightOwn({ light: 'spot', intensity: 500, range: 12, innerCone: 20, outerCone: 35 }),
        translation: [0, 4, 0],
      }),
      testPlacement(4, { kind: 'light', own: lightOwn({ light: 'area', intensity: 1000, width: 2, height: 0.5 }) }),
      testPlacement(5, { kind: 'light', own: lightOwn({ light: 'point', on: false }) }),
      testPlacement(6, { kind: 'part', partId: testId(77), own: { lamp: 0.5 } }),
      testPlacement(7, { kind: 'arrangement', own: ring, translation: [0, 0, 9] }),
      testPlacement(8, { kind: 'part', partId: testId(77), parentId: testId(7) }),
      testPlacement(9, { kind: 'light', own: lightOwn({ light: 'point' }), parentId: testId(7) }),
      testPlacement(10, {
        kind: 'marker',
        own: markerOwn('volume', {
          tags: ['water'],
          fields: [
            { key: 'boats', type: 'number', value: 3 },
            { key: 'night', type: 'yes-no', value: true },
          ],
        }),
        scale: [2, 3, 4],
      }),
    ],
    {},
    { ground: null, dealt: () => null, lampsOf: partId => (partId === testId(77) ? [lamp] : []) },
  )
  const parts = new Map([[testId(77), { name: 'Post', mesh: testSolid(new BoxGeometry(1, 1, 1)).mesh }]])

  it.each([false, true])(
    "pass the Khronos validator and mean the same in three's loader (instanced: %s)",
    async instanced => {
      const glb = await levelGlb('Lights', level, parts, instanced)
      const { issues } = await validateBytes(glb, { maxIssues: 20 })
      expect(issues.messages.filter(({ severity }) => severity < 2)).toEqual([])
      const { scene, cameras } = await new GLTFLoader().parseAsync(glb.slice().buffer, '')
      scene.updateMatrixWorld(true)
      const camera = cameras[0] as PerspectiveCamera
      expect([camera.fov, camera.aspect, camera.near, camera.far].map(value => Number(value.toFixed(6)))).toEqual([
        42, 2.39, 0.2, 250,
      ])
      expect(new Vector3(0, 0, -1).transformDirection(camera.matrixWorld).x).toBeCloseTo(-1, 6)
      const lights: Light[] = []
      scene.traverse(object => (object as Light).isLight && lights.push(object as Light))
      const [sun] = lights.filter(light => light instanceof DirectionalLight)
      expect(sun!.intensity).toBe(90_000)
      const spots = lights.filter(light => light instanceof SpotLight)
      expect(
        spots.map(spot => [spot.intensity, spot.distance, Number(MathUtils.radToDeg(spot.angle).toFixed(4))]),
      ).toEqual([
        [500, 12, 35],
        [1000, 10, 90],
      ])
      const points = lights.filter(light => light instanceof PointLight)
      // One that is off, one of a part at half its strength; of three copies, in turn, a lamp, a light and a lamp.
      expect(points.map(({ intensity }) => intensity).sort((a, b) => a - b)).toEqual([0, 40, 64, 80, 80])
      const lamps = points
        .filter(({ intensity }) => intensity === 80)
        .map(light => new Vector3().setFromMatrixPosition(light.matrixWorld))
      const copies = [...level.shapes(testId(7))].flatMap(({ matrices }) =>
        [0, 1].map(i =>
          new Vector3(0, 2, 0)
            .applyMatrix4(new Matrix4().fromArray(matrices, i * 16))
            .applyMatrix4(level.worldMatrix(testId(7))),
        ),
      )
      for (const at of copies) expect(Math.min(...lamps.map(each => each.distanceTo(at)))).toBeLessThan(1e-5)
      const extras: Record<string, unknown>[] = []
      scene.traverse(({ userData }) => userData.marker && extras.push(userData.marker as Record<string, unknown>))
      expect(extras).toEqual([
        {
          marker: 'volume',
          text: '',
          tags: ['water'],
          shape: 'box',
          color: '#0e6e6e',
          fields: { boats: 3, night: true },
        },
      ])
    },
  )
})
