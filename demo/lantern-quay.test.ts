import { Box3, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { meshBounds, triangleCount } from '../core/mesh/mesh'
import { ShapeLibrary } from '../core/scene/shapes'
import type { Finding } from '../core/check/check'
import { LevelCheck } from '../core/check/check'
import { inOrder, nameOfThing } from '../core/check/report'
import { CheckSite } from '../core/check/site'
import type { Dealt } from '../core/arrange/scatter/deal'
import type { Scene } from '../core/scene/scene'
import { makeScene } from '../core/scene/scene'
import { LevelIndex } from '../core/scene/level-index'
import { dealAtOnce, dealerOver } from '../core/scene/scatter-site'
import { applyChange } from '../core/level/change'
import { bareView } from '../core/scene/level-view'
import { meshVolume } from '../tests/support'
import { withRelations } from '../core/relate/keep'
import { missOf } from '../core/relate/miss'
import { sayOf } from '../core/relate/say'
import { Standing } from '../core/relate/standing'
import { findLanding } from '../core/edit/snap/landing'
import { demoId, lanternQuayKit } from './kit'
import { lanternQuay } from './lantern-quay'

const kit = lanternQuayKit()
const shapes = new ShapeLibrary()
for (const { id, mesh } of kit) shapes.put(id, id, mesh)
const { placements, ...records } = lanternQuay()
const level = bareView(placements, records)
const index = new LevelIndex(level, shapes.solid)

describe('the kit', () => {
  it.each(kit.map(part => [part.name, part] as const))(
    '%s has its pivot in the middle of its bottom and unit normals',
    (_name, { mesh }) => {
      const { min, max } = meshBounds(mesh)
      expect(min.y).toBeCloseTo(0, 5)
      expect(min.x + max.x).toBeCloseTo(0, 5)
      expect(min.z + max.z).toBeCloseTo(0, 5)
      for (const { normals, positions, indices } of mesh.primitives) {
        for (let i = 0; i < normals.length; i += 3)
          expect(Math.hypot(normals[i]!, normals[i + 1]!, normals[i + 2]!)).toBeCloseTo(1, 4)
        expect(Math.max(...indices)).toBeLessThan(positions.length / 3)
      }
    },
  )

  it('turns its faces outwards: what a mesh encloses comes out positive', () => {
    for (const name of ['Crate', 'Barrel', 'Planter', 'Embankment', 'Bridge span', 'Stall frame', 'Railing 2 m']) {
      const { mesh } = kit.find(part => part.name === name)!
      expect(meshVolume(mesh), name).toBeGreaterThan(0)
    }
  })

  it('stays light', () => {
    for (const { name, mesh } of kit) expect(triangleCount(mesh), name).toBeLessThan(2000)
  })
})

describe('what is kept on the quay', () => {
  const kept = [...level.relations.values()]

  it('is a dozen and more, holds as it is, and follows', () => {
    expect(kept.length).toBeGreaterThanOrEqual(12)
    const standing = new Standing(level, [])
    for (const relation of kept) {
      const { metres = Infinity, degrees = Infinity, share = Infinity } = missOf(standing, index, relation) ?? {}
      expect(Math.max(metres, degrees, share), sayOf(level, relation)).toBeLessThan(1e-6)
    }
    const slab = demoId('placement/Quay slab 3')
    const [x, y, z] = level.need(slab).translation
    const { operations, unmet } = withRelations(level, index, [
      { do: 'put', id: slab, fields: { translation: [x, y + 0.3, z] } },
    ])
    expect(unmet).toEqual([])
    const lifted = operations.slice(1).flatMap(operation => {
      if (operation.do !== 'put') return []
      const before = level.need(operation.id)
      return [[before.name, Number((operation.fields.translation![1] - before.translation[1]).toFixed(6))]]
    })
    expect(lifted.toSorted()).toEqual([
      ['Crate 1', 0.3],
      ['Crate 2', 0.3],
      ['Crate 3', 0.3],
    ])
  })
})

describe('the level', () => {
  it('is a level that a level takes, with about a hundred placements', () => {
    const empty = bareView()
    applyChange(
      empty,
      [
        ...records.layers.map(({ id, ...fields }) => ({ do: 'put-layer' as const, id, fields })),
        ...records.stations.map(({ id, ...fields }) => ({ do: 'put-station' as const, id, fields })),
        ...records.blocks.map(({ id, ...fields }) => ({ do: 'put-block' as const, id, fields })),
        ...placements.map(({ id, ...fields }) => ({ do: 'put' as const, id, fields })),
      ],
      id => shapes.has(id),
    )
    expect(empty.size).toBeGreaterThan(90)
    expect(empty.size).toBeLessThan(140)
  })

  it('has ground of really different heights', () => {
    const heights = [0, -3, -6].map(
      z => findLanding(index, new Ray(new Vector3(5, 20, -9 + z), new Vector3(0, -1, 0)), 0)!.point[1],
    )
    expect(Math.max(...heights) - Math.min(...heights)).toBeGreaterThan(1)
  })

  it('repeats by rules: racks, stalls, lanterns, railings, kerb, steps and the approaches of the bridge', () => {
    const live = Object.fromEntries(
      [...level.arrangementIds].map(id => [level.need(id).name, index.shownBy(id).length]),
    )
    // Racks and stalls are two shapes each.
    expect(live).toMatchObject({
      'Ring of stalls': 8,
      'Lanterns along the edge': 8,
      'Steps to the water': 8,
      'Bridge approach': 2,
    })
    expect(live['Planter racks']).toBeGreaterThan(2 * 18)
    expect(live['Railings on the curve']).toBe(11)
    expect(live['Kerb']).toBe(22)
    // The lowest step is at the water, which lies 1.4 m below the quay.
    const steps = index.extents.boundsOf([demoId('placement/Steps to the water')], new Box3())
    expect(steps.max.y).toBeCloseTo(-0.17, 6)
    expect(steps.max.y - 7 * 0.17).toBeCloseTo(-1.36, 6)
    // A bollard stands on both banks.
    const bollards = index
      .shownBy(demoId('placement/Bridge approach'))
      .map(({ matrix }) => new Vector3().setFromMatrixPosition(matrix).z)
    for (const z of bollards) expect(z).toBeCloseTo(11.3, 6)
  })

  it('is clean but for the six findings of its story, and what is left as it is with a reason', () => {
    const parts = new Map(kit.map(part => [part.id, { ...part, inKit: true }]))
    const tagsOf = (part: string) => parts.get(part)?.tags ?? []
    const dealer = dealerOver(shapes)
    const dealt = new Map<string, Dealt | null>()
    const dealtOnce = (id: string) => {
      if (!dealt.has(id)) dealt.set(id, dealAtOnce(scene.level, { shapes, tagsOf }, dealer, id))
      return dealt.get(id)!
    }
    const scene: Scene = makeScene(placements, records, {
      solidOf: shapes.solid,
      tagsOf,
      lampsOf: part => parts.get(part)?.lamps ?? [],
      dealt: dealtOnce,
    })
    const level = scene.level
    const known = { part: (id: string) => parts.get(id), ids: () => parts.keys(), solidOf: shapes.solid }
    const check = new LevelCheck(new CheckSite(level, scene.index, known))
    for (const _ of check.all());
    const say = ({ of, things }: Finding) =>
      `${of}: ${things.map(id => nameOfThing({ level, kit: known }, id)).join(', ')}`
    expect(
      inOrder(check.findings)
        .filter(({ left }) => left === undefined)
        .map(say),
    ).toEqual([
      'floating: Planter that floats',
      'twice: Bench 1, Bench put twice',
      'camera-blocked: In the barrel, Barrel 1',
      'overlapping: Bench 2, Spare crate',
      'idle-light: Lost lamp',
      'empty-group: Signs, to come',
    ])
    expect(check.findings.filter(({ left }) => left !== undefined)).toHaveLength(4)
    // Four of them can be mended at once; the camera and the lamp need a hand.
    const { done, failed } = check.fix(check.findings.filter(({ left }) => left === undefined).map(({ key }) => key))
    expect([done.length, failed.length]).toEqual([4, 2])
  })

  it('leaves nothing floating: benches, planters and crates stand on something', () => {
    for (const name of [
      'Crate 1',
      'Crate 3',
      'Barrel 1',
      'Bench 1',
      'Planter on the bank',
      'Bench on the bank',
      'Basket 1',
    ]) {
      const id = demoId(`placement/${name}`)
      const box = index.extents.boundsOf([id], new Box3())
      const middle = box.getCenter(new Vector3())
      const below = index.raycast(
        new Ray(middle.clone().setY(box.min.y + 0.05), new Vector3(0, -1, 0)),
        other => other !== id,
      )
      expect(below, name).not.toBeNull()
      expect(Math.abs(below!.point.y - box.min.y), name).toBeLessThan(0.1)
    }
  })
})
