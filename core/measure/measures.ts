import type { MeasureKind } from '../level/measure'
import type { Measure } from '../level/schema'
import type { MeasureDefinition, Measured, Where } from './definition'
import { placedOf, placeOfEnd } from './definition'
import { angle } from './kinds/angle'
import { area } from './kinds/area'
import { clearance } from './kinds/clearance'
import { height } from './kinds/height'
import { length } from './kinds/length'
import { slope } from './kinds/slope'
import { tape } from './kinds/tape'

/** Every kind of measure. A further one is a file, a line here and one in what each needs. */
export const MEASURES: Record<MeasureKind, MeasureDefinition> = { tape, angle, slope, area, height, clearance, length }

/**
 * What a measure comes to as things stand; an end whose thing is gone stays where it was, and that is said.
 *
 * @example
 * import { Matrix4, Quaternion } from 'three'
 * import { bareView } from '../scene/level-view'
 * const ends = [[0, 0, 0], [3, 0, 4]].map(at => ({ at, on: null, point: at }))
 * const level = bareView()
 * const where = { level, matrixOf: () => new Matrix4(), shownBy: () => [], below: () => null, axes: new Quaternion() }
 * measureNow({ kind: 'tape', ends, sides: [], connected: false }, where).facts[0].value // 5
 */
export function measureNow(
  { kind, ends, sides, connected }: Pick<Measure, 'kind' | 'ends' | 'sides' | 'connected'>,
  where: Where,
): Measured {
  const places = ends.map(end => placeOfEnd(end, where))
  const things = sides.map(side => side.filter(id => where.level.has(id)))
  const gone = places.filter(({ isGone }) => isGone).length + sides.flat().filter(id => !where.level.has(id)).length
  const measured = MEASURES[kind].measure(
    places.map(({ at }) => at),
    where,
    {
      sides: things.map(side => placedOf(side, where)),
      things,
      ons: ends.map(({ on }) => (on !== null && where.level.has(on) ? on : null)),
      connected,
    },
  )
  return gone === 0
    ? measured
    : {
        ...measured,
        remarks: [
          ...measured.remarks,
          gone === 1
            ? 'A thing it was on is gone; that end stays where it was.'
            : `${gone} things it was on are gone; those ends stay where they were.`,
        ],
      }
}

/** The things a measure has to do with: it changes when they move. */
export function thingsOf({ ends, sides }: Pick<Measure, 'ends' | 'sides'>): Set<string> {
  return new Set([...ends.flatMap(({ on }) => on ?? []), ...sides.flat()])
}
