import type { Quaternion } from 'three'
import { Vector3 } from 'three'
import { directionsOf } from '../edit/handles/axes'
import { pivotOf } from '../edit/handles/pivot'
import type { AlignRule } from '../edit/lineup/align'
import type { DistributeRule } from '../edit/lineup/distribute'
import type { AlignPlace } from '../edit/lineup/extent'
import { coordinateOf, extentOf } from '../edit/lineup/extent'
import type { Matching } from '../edit/lineup/match'
import type { RelationRule } from '../level/relation'
import { topmost } from '../level/tree'
import type { Vec3 } from '../math/vectors'
import type { LevelIndex } from '../scene/level-index'
import type { LevelView } from '../scene/level-view'
import { endAt } from '../measure/definition'
import { missOf } from './miss'
import { pointIn, Standing } from './standing'
import type { Offer } from './definition'
import { onOffers } from './suggest'

// What keeps things as they have been lined up.

type Axis = 0 | 1 | 2
/** Off by less than this, in metres or shares, something counts as lined up. */
const OFF = 1e-6

/** The point of a thing, above its pivot or beside it, that is at a place of its extent along an axis. */
function pointAt(level: LevelView, index: LevelIndex, id: string, axes: Quaternion, axis: Axis, place: AlignPlace) {
  const extent = extentOf(level, index, id, axes, axis)
  return pivotOf(level, id).addScaledVector(directionsOf(axes)[axis], coordinateOf(extent, place) - extent.pivot)
}

function offer(
  level: LevelView,
  held: string,
  at: Vector3,
  holders: readonly (readonly [string, Vector3])[],
  rule: RelationRule,
): Offer {
  return {
    held,
    point: pointIn(level.worldMatrix(held), at),
    holders: holders.map(([id, place]) => endAt(level, id, place)),
    rule,
  }
}

const tidied = (metres: number) => (Math.abs(metres) < OFF ? 0 : metres)

/** One point so far from another along a direction, as they are. */
function apartOffer(level: LevelView, held: string, at: Vector3, holder: string, from: Vector3, along: Vector3): Offer {
  const distance = tidied(along.dot(at.clone().sub(from)))
  return offer(level, held, at, [[holder, from]], { kind: 'apart', along: along.toArray(), distance })
}

/**
 * What keeps things aligned: to the thing they were aligned to, or on the ground below each.
 *
 * @param rules as `align` was given them
 * @returns nothing for what has no thing to be kept to, as a value and the box around all
 */
export function alignedOffers(
  level: LevelView,
  index: LevelIndex,
  ids: readonly string[],
  axes: Quaternion,
  rules: readonly (AlignRule | null)[],
): Offer[] {
  const tops = topmost(level, new Set(ids))
  return rules.flatMap((rule, number) => {
    if (!rule || tops.length === 0) return []
    if (rule.target === 'ground') return tops.flatMap(id => onOffers(level, index, id).slice(0, 1))
    if (rule.target !== 'first' && rule.target !== 'last') return []
    const axis = number as Axis
    const holder = rule.target === 'first' ? tops[0]! : tops.at(-1)!
    const from = pointAt(level, index, holder, axes, axis, rule.targetPlace ?? rule.place)
    return tops
      .filter(id => id !== holder)
      .map(id =>
        apartOffer(
          level,
          id,
          pointAt(level, index, id, axes, axis, rule.place),
          holder,
          from,
          directionsOf(axes)[axis],
        ),
      )
  })
}

/**
 * What keeps things distributed: each at its share of the way from the first to the last, or so far from the one
 * before.
 *
 * @returns nothing for shares along what is no axis of the world
 */
export function distributedOffers(
  level: LevelView,
  index: LevelIndex,
  ids: readonly string[],
  { axes, axis, rule }: { axes: Quaternion; axis: Axis; rule: DistributeRule },
): Offer[] {
  const place: AlignPlace = rule.by === 'places' ? rule.place : 'centre'
  const tops = topmost(level, new Set(ids))
    .map(id => ({ id, at: coordinateOf(extentOf(level, index, id, axes, axis), place) }))
    .sort((a, b) => a.at - b.at)
    .map(({ id }) => id)
  const at = (id: string, which: AlignPlace) => pointAt(level, index, id, axes, axis, which)
  const along = directionsOf(axes)[axis]
  if (rule.by === 'gap')
    return tops.slice(1).map((id, i) => apartOffer(level, id, at(id, 'min'), tops[i]!, at(tops[i]!, 'max'), along))
  const isOfWorld = along.toArray().some(each => Math.abs(each) > 1 - OFF)
  if (!isOfWorld || tops.length < 3) return []
  const [first, last] = [tops[0]!, tops.at(-1)!]
  const [from, to] = [at(first, place), at(last, place)]
  const whole = along.dot(to.clone().sub(from))
  if (Math.abs(whole) < OFF) return []
  return tops.slice(1, -1).map(id => {
    const own = at(id, place)
    const share = along.dot(own.clone().sub(from)) / whole
    const onAxes = along.toArray().map(each => Math.abs(each) > 0.5) as [boolean, boolean, boolean]
    return offer(
      level,
      id,
      own,
      [
        [first, from],
        [last, to],
      ],
      { kind: 'between', share, axes: onAxes },
    )
  })
}

/** What keeps things matched to another; nothing for what can be matched only once, as the sizes of unlike parts. */
export function matchedOffers(
  level: LevelView,
  index: LevelIndex,
  ids: readonly string[],
  { from, what, axes = [true, true, true] }: Matching,
): Offer[] {
  const place = pivotOf(level, from)
  const rules: RelationRule[] =
    what === 'position'
      ? [0, 1, 2].flatMap((axis): RelationRule[] =>
          axes[axis]
            ? [{ kind: 'apart', along: new Vector3().setComponent(axis, 1).toArray() as Vec3, distance: 0 }]
            : [],
        )
      : what === 'height' || axes.every(Boolean)
        ? [{ kind: 'same', of: what, times: 1 }]
        : []
  const standing = new Standing(level, [])
  return topmost(level, new Set(ids))
    .filter(id => id !== from)
    .flatMap(id => rules.map(rule => offer(level, id, pivotOf(level, id), [[from, place]], rule)))
    .filter(made => {
      const miss = missOf(standing, index, made)
      return miss !== null && miss.metres < OFF && miss.share < OFF && miss.degrees < 1e-4
    })
}
