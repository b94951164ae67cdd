import type { RelationRule } from '../core/level/relation'
import type { Relation } from '../core/level/schema'
import type { Vec3 } from '../core/math/vectors'
import { demoId } from './kit'

/** A thing of the quay, and a point on it in its own axes. */
type Point = readonly [name: string, point?: Vec3]

function keep([held, point = [0, 0, 0]]: Point, rule: RelationRule, ...holders: Point[]): Relation {
  const of = (name: string) => demoId(`placement/${name}`)
  return {
    id: demoId(`relation/${held} ${rule.kind}`),
    held: of(held),
    point,
    // Where the points were last is only asked once what they are on is gone.
    holders: holders.map(([name, on = [0, 0, 0]]) => ({ at: on, on: of(name), point: on })),
    rule,
  }
}

const on = (held: string, holder: string, rest: 'lowest' | 'clear' = 'lowest') =>
  keep([held], { kind: 'on', rest, leaning: false, offset: 0, stays: false }, [holder])

/** The awning's back edge before the back of its frame, as it is turned. */
const awning = (stall: string) =>
  keep(
    [`${stall}: awning`, [0, 0, -1.2]],
    { kind: 'flush', against: [0, 0, -1], face: [0, 0, -1], opposite: false, gap: 0.05, turns: true },
    [`${stall}: frame`, [0, 0, -1]],
  )

/** Along the edge, between the first and the last of the row. */
const inRow = (number: number, share: number) =>
  keep(
    [`Lantern post ${number}`],
    { kind: 'between', share, axes: [true, false, false] },
    ['Lantern post 1'],
    ['Lantern post 5'],
  )

/** What stays as it is on the quay: goods on counters, lanterns along the edge, awnings on their frames. */
export const KEPT: Relation[] = [
  on('Basket 1', 'Fruit stall: frame'),
  on('Basket 2', 'Fruit stall: frame'),
  on('Basket 3', 'Tea stall: frame'),
  on('Crate 1', 'Quay slab 3'),
  on('Crate 2', 'Quay slab 3'),
  on('Crate 3', 'Crate 1', 'clear'),
  on('Barrel 1', 'Quay slab 7'),
  on('Barrel 2', 'Quay slab 7'),
  awning('Fruit stall'),
  awning('Spice stall'),
  awning('Tea stall'),
  awning('Lamp stall'),
  // 4.4 m from each to the next, on the 18 m from -9.4 to 8.6.
  inRow(2, 4.4 / 18),
  inRow(3, 8.8 / 18),
  inRow(4, 13.2 / 18),
  on('Bandstand', 'Quay slab 6'),
  keep(['Bandstand'], { kind: 'between', share: 0.575, axes: [true, false, false] }, ['Spice stall'], ['Lamp stall']),
]
