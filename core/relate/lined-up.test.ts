import fc from 'fast-check'
import { Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyVec3, levelOfBoxes, testId } from '../../tests/support'
import { align } from '../edit/lineup/align'
import { distribute } from '../edit/lineup/distribute'
import { ALIGN_PLACES } from '../edit/lineup/extent'
import { match } from '../edit/lineup/match'
import { applyChange } from '../level/change'
import type { Operation } from '../level/schema'
import type { Quat, Vec3 } from '../math/vectors'
import { withRelations } from './keep'
import { alignedOffers, distributedOffers, matchedOffers } from './lined-up'
import { puttingRelations } from '../edit/copied'

const ids = [1, 2, 3, 4].map(testId)
function scene(places: readonly Vec3[], turns: readonly Quat[] = []) {
  const { level, index } = levelOfBoxes(
    places.map((translation, i) => ({ size: [1, 2, 0.5], translation, rotation: turns[i] ?? [0, 0, 0, 1] })),
  )
  let next = 700
  const fresh = () => testId(next++)
  const change = (operations: Operation[]) => {
    const kept = withRelations(level, index, operations)
    index.update(applyChange(level, kept.operations).touched)
    return kept
  }
  const along = (axes: Quaternion, axis: number, id: string, place: (typeof ALIGN_PLACES)[number]) => {
    const direction = new Vector3().setComponent(axis, 1).applyQuaternion(axes)
    const pivot = new Vector3().setFromMatrixPosition(level.worldMatrix(id)).dot(direction)
    const max = index.extents.extreme([id], direction)!.reach
    const min = -index.extents.extreme([id], direction.clone().negate())!.reach
    return { pivot, max, min, centre: (min + max) / 2 }[place]
  }
  return { level, index, fresh, change, along }
}
const four = fc.array(anyVec3, { minLength: 4, maxLength: 4 })

describe('what is aligned and kept', () => {
  it('stays in line with what it was aligned to, along any axes, wherever that is moved', () => {
    fc.assert(
      fc.property(
        four,
        fc.array(anyQuat, { minLength: 4, maxLength: 4 }),
        anyQuat,
        fc.constantFrom(...ALIGN_PLACES),
        anyVec3,
        (places, turns, turn, place, way) => {
          const { level, index, fresh, change, along } = scene(places, turns)
          const axes = new Quaternion(...turn)
          const rules = [{ place, target: 'last' as const }, null, { place, target: 'last' as const }]
          change(align(level, index, ids, axes, rules))
          const offers = alignedOffers(level, index, ids, axes, rules)
          expect(offers).toHaveLength(6)
          const { unmet } = change(puttingRelations(offers, fresh))
          expect(unmet).toEqual([])
          const [x, y, z] = level.need(ids[3]!).translation
          change([{ do: 'put', id: ids[3]!, fields: { translation: [x + way[0], y + way[1], z + way[2]] } }])
          for (const axis of [0, 2])
            for (const id of ids) expect(along(axes, axis, id, place)).toBeCloseTo(along(axes, axis, ids[3]!, place), 4)
        },
      ),
      { numRuns: 60 },
    )
  })

  it('is kept to nothing where there is no thing for it', () => {
    const { level, index } = scene([
      [0, 0, 0],
      [1, 2, 0],
      [4, 0, 0],
      [9, 0, 0],
    ])
    const rules = [
      { place: 'min' as const, target: 'all' as const },
      { place: 'min' as const, target: 'value' as const, value: 3 },
      null,
    ]
    expect(alignedOffers(level, index, ids, new Quaternion(), rules)).toEqual([])
  })
})

describe('what is distributed and kept', () => {
  it('stays at its share of the way, or so far from the one before', () => {
    fc.assert(
      fc.property(four, fc.constantFrom('gaps', 'places', 'gap'), anyVec3, (places, by, way) => {
        const apart = places.map((place, i) => [place[0] + i * 400, place[1], place[2]] as Vec3)
        const { level, index, fresh, change, along } = scene(apart)
        const axes = new Quaternion()
        const rule =
          by === 'gap' ? { by, gap: 0.75 } : by === 'places' ? { by, place: 'pivot' as const } : { by: 'gaps' as const }
        const how = { axes, axis: 0 as const, rule }
        change(distribute(level, index, ids, how))
        const offers = distributedOffers(level, index, ids, how)
        expect(offers).toHaveLength(by === 'gap' ? 3 : 2)
        change(puttingRelations(offers, fresh))
        const mover = by === 'gap' ? ids[0]! : ids[3]!
        const [x, y, z] = level.need(mover).translation
        change([{ do: 'put', id: mover, fields: { translation: [x + way[0], y, z] } }])
        const at = ids.map(id => along(axes, 0, id, 'pivot'))
        const steps = at.slice(1).map((each, i) => each - at[i]!)
        // Boxes of one metre: gaps of three quarters make steps of 1.75.
        for (const step of steps) expect(step).toBeCloseTo(by === 'gap' ? 1.75 : (at[3]! - at[0]!) / 3, 4)
      }),
      { numRuns: 60 },
    )
  })
})

describe('what is matched and kept', () => {
  it('has the height, the turn and the place of the other for good; unlike sizes cannot be kept', () => {
    const { level, index, fresh, change } = scene([
      [0, 0, 0],
      [3, 0, 0],
      [6, 0, 0],
      [9, 0, 0],
    ])
    change([{ do: 'put', id: ids[0]!, fields: { scale: [1, 3, 1], rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2] } }])
    for (const what of ['height', 'turn', 'position'] as const) {
      const matching = { from: ids[0]!, what }
      change(match(level, index, [ids[1]!], matching))
      const offers = matchedOffers(level, index, [ids[1]!], matching)
      expect(offers).toHaveLength(what === 'position' ? 3 : 1)
      change(puttingRelations(offers, fresh))
    }
    change([{ do: 'put', id: ids[0]!, fields: { scale: [1, 1.5, 1], rotation: [0, 0, 0, 1], translation: [1, 2, 3] } }])
    const { scale, rotation, translation } = level.need(ids[1]!)
    expect(scale[1]).toBeCloseTo(1.5, 9)
    expect(Math.abs(rotation[3])).toBeCloseTo(1, 9)
    expect(translation).toEqual([1, 2, 3])
    expect(matchedOffers(level, index, [ids[2]!], { from: ids[0]!, what: 'size' })).toEqual([])
  })
})
