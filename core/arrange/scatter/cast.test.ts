import fc from 'fast-check'
import { Matrix4, PlaneGeometry, TorusGeometry } from 'three'
import { describe, expect, it } from 'vitest'
import { IDENTITY, skinOf, SQUARE } from '../../../tests/scatter-support'
import type { Cast, CastOptions } from './casting'
import { cast } from './cast'
import type { Facets } from './facets'
import { facetsOf } from './facets'
import { areaAt, birthAt, evenDistance, levelOf } from './levels'

const FREE: CastOptions = {
  until: Infinity,
  apart: 0,
  even: false,
  roomOf: null,
  rooms: [0, 0],
  accept: null,
  reach: null,
  around: null,
  counts: null,
  most: Infinity,
  keptOff: 0,
}

function castNow(facets: Facets, options: Partial<CastOptions>): Cast {
  const casting = cast(facets, { ...FREE, ...options })
  for (;;) {
    const { done, value } = casting.next()
    if (done) return value
  }
}

const hills = new PlaneGeometry(8, 8, 6, 6).rotateX(-Math.PI / 2)
const position = hills.getAttribute('position')
for (let i = 0; i < position.count; i++) position.setY(i, Math.sin(position.getX(i)) * Math.cos(position.getZ(i)))
const SKINS = { square: SQUARE, hills: skinOf(hills), ring: skinOf(new TorusGeometry(2, 0.7, 8, 16)) }

/** The same without pieces, cells and levels: all candidates in order, each compared with all before it. */
function oneByOne(facets: Facets, { until, apart, even, roomOf, most }: CastOptions): string[] {
  const all = castNow(facets, { until })
  const taken: { at: number[]; room: number }[] = []
  const names: string[] = []
  for (let i = 0; i < all.count && taken.length < most; i++) {
    const at = [...all.places.subarray(i * 3, i * 3 + 3)]
    const [first, second] = [all.names[i * 2]!, all.names[i * 2 + 1]!]
    const room = roomOf?.(all.facets[i]!, first, second) ?? 0
    const distance = even ? evenDistance(areaAt(levelOf(all.births[i]!)), apart) : apart
    const isTooNear = taken.some(
      other =>
        Math.hypot(...at.map((value, axis) => value - other.at[axis]!))
        < Math.max(distance, roomOf ? room + other.room : 0),
    )
    if (isTooNear) continue
    taken.push({ at, room })
    names.push(`${first} ${second}`)
  }
  return names
}

const namesOf = ({ count, names }: Cast) =>
  Array.from({ length: count }, (_, i) => `${names[i * 2]!} ${names[i * 2 + 1]!}`)

describe('casting', () => {
  it('takes whom going through all candidates one by one would take: property, over flat, hilly and closed surfaces', () => {
    let most = 0
    fc.assert(
      fc.property(
        fc.constantFrom<keyof typeof SKINS>('square', 'hills', 'ring'),
        fc.integer({ min: 1, max: 1000 }),
        fc.double({ min: 0.05, max: 2, noNaN: true }),
        fc.constantFrom('apart', 'even', 'rooms', 'even rooms'),
        fc.option(fc.integer({ min: 1, max: 60 })),
        (shape, seed, apart, kind, count) => {
          const matrix = shape === 'square' ? new Matrix4().makeScale(8, 1, 8).toArray() : IDENTITY
          const facets = facetsOf(
            [{ stream: 1, below: 0, owner: '', shape, matrix }],
            name => SKINS[name as keyof typeof SKINS],
            seed,
            false,
            null,
          )
          const hasRooms = kind.endsWith('rooms')
          const options: CastOptions = {
            ...FREE,
            // Two thousand candidates or so, far beyond what has room.
            until: birthAt(25) * 0.9,
            apart: hasRooms ? apart / 4 : apart,
            even: kind.startsWith('even'),
            roomOf: hasRooms ? (_facet, first, second) => apart * (0.1 + 0.4 * (((first ^ second) % 97) / 97)) : null,
            rooms: hasRooms ? [apart * 0.1, apart * 0.5] : [0, 0],
            most: count ?? Infinity,
          }
          const found = namesOf(castNow(facets, options))
          most = Math.max(most, found.length)
          expect(found).toEqual(oneByOne(facets, options))
        },
      ),
      { numRuns: 60 },
    )
    expect(most).toBeGreaterThan(300)
  })

  it('finds the same when it is done again and beside another, whatever room was left to it', () => {
    const facets = facetsOf(
      [{ stream: 1, below: 0, owner: '', shape: 'hills', matrix: IDENTITY }],
      () => SKINS.hills,
      1,
      false,
      null,
    )
    const distances = [0.06, 0.05] as const
    const alone = distances.map(apart => namesOf(castNow(facets, { apart })))
    const begun = distances.map(apart => cast(facets, { ...FREE, apart }))
    expect(begun.map(casting => casting.next().done)).toEqual([false, false])
    const between = castNow(facets, { apart: 0.055 })
    expect(between.count).toBeGreaterThan(alone[0]!.length)
    const ended = begun.map(casting => {
      for (;;) {
        const { done, value } = casting.next()
        if (done) return namesOf(value)
      }
    })
    expect(ended).toEqual(alone)
    expect(distances.map(apart => namesOf(castNow(facets, { apart })))).toEqual(alone)
  })
})
