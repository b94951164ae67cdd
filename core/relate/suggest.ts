import { Box3, Matrix3, Ray, Vector3 } from 'three'
import { pivotOf } from '../edit/handles/pivot'
import type { RelationRule, RuleOf } from '../level/relation'
import { endAt } from '../measure/definition'
import type { Vec3 } from '../math/vectors'
import { movingWith } from '../scene/copies'
import type { Finder } from '../scene/finder'
import type { LevelView } from '../scene/level-view'
import type { Shown } from '../scene/shown'
import type { Offer } from './definition'
import { givenOf } from './definition'
import { definitionOf } from './kinds'
import { heightOf } from './reach'
import { lookIn, pointIn, Standing } from './standing'

/** Metres by which two things may miss each other and still count as meant to meet. */
const NEAR = 0.002
/** Directions count as the same when their cosine is this near to 1. */
const PARALLEL = 1e-6
/** Metres above a thing's lowest point from which it is looked for what it stands on. */
const ABOVE = 0.5
/** Metres by which what is under a thing's foot may lie lower: a joint of a paving, the space between boards. */
const JOINT = 0.06
/** Things around that are looked at, and offers that are made of them. */
const [MOST_AROUND, MOST] = [60, 12]
/** Metres around a thing in which it may be in the middle between two others. */
const AROUND = 6

const ownPoint = (level: LevelView, id: string, place: Vector3): Vec3 => pointIn(level.worldMatrix(id), place)

/** The middle of what a thing shows, in the world; its pivot's place if it shows nothing. */
function middleOf(level: LevelView, finder: Finder, id: string): Vector3 {
  const box = finder.extents.boundsOf(level.subtree(id), new Box3())
  return box.isEmpty() ? new Vector3().setFromMatrixPosition(level.worldMatrix(id)) : box.getCenter(new Vector3())
}

/** What a thing stands on, lies flush with and is in the middle of right now, the nearest first. */
export function offersFor(level: LevelView, finder: Finder, id: string): Offer[] {
  return [...onOffers(level, finder, id), ...faceOffers(level, finder, id), ...middleOffers(level, finder, id)].slice(
    0,
    MOST,
  )
}

/** How a thing rests on another, if nothing else is said. */
const RESTING: OnRule = { rest: 'lowest', leaning: false, offset: 0 }
type OnRule = Pick<RuleOf<'on'>, 'rest' | 'leaning' | 'offset'>

/**
 * What a thing stands on; kept as it stands, also where it is sunk in or raised a little. One whose foot is over a
 * joint or between boards rests on what touches it first, where nothing else was said.
 */
export function onOffers(level: LevelView, finder: Finder, id: string, how?: OnRule): Offer[] {
  const { rest, leaning, offset } = how ?? RESTING
  const own = movingWith(level, [id])
  const lowest = rest === 'pivot' ? null : finder.extents.extreme(level.subtree(id), new Vector3(0, -1, 0))
  const foot = lowest?.middle.clone() ?? pivotOf(level, id)
  const hit = finder.raycast(new Ray(foot.clone().setY(foot.y + ABOVE), new Vector3(0, -1, 0)), at => !own.has(at))
  if (!hit) return []
  const off = Math.abs(hit.point.y - foot.y)
  const onIt = (by: OnRule['rest']): Offer => ({
    held: id,
    point: [0, 0, 0],
    holders: [endAt(level, hit.copy ?? hit.id, hit.point)],
    rule: { kind: 'on', rest: by, leaning, offset, stays: false },
  })
  if (off <= NEAR + Math.abs(offset)) return [asItStands(level, finder, onIt(rest))]
  const first =
    (how === undefined || rest === 'clear') && off <= JOINT ? asItStands(level, finder, onIt('clear')) : null
  return first?.rule.kind === 'on' && Math.abs(first.rule.offset) <= NEAR ? [first] : []
}

/** An offer to rest on something whose number is what it is now. */
function asItStands(level: LevelView, finder: Finder, offer: Offer): Offer {
  const [wanted] = definitionOf(offer.rule).place?.(givenOf(new Standing(level, []), finder, offer)) ?? []
  if (offer.rule.kind !== 'on' || !wanted || Math.abs(wanted.by) < 1e-6) return offer
  return { ...offer, rule: { ...offer.rule, offset: offer.rule.offset - wanted.by } }
}

type Face = { place: Vector3; look: Vector3 }

/** The six faces of a box along some axes: their middles, and the ways they look, in the world. */
function facesOf({ solid, matrix }: Pick<Shown, 'solid' | 'matrix'>): Face[] {
  const { min, max } = solid.bounds
  const normals = new Matrix3().getNormalMatrix(matrix)
  return [0, 1, 2].flatMap(axis =>
    [-1, 1].map(side => {
      const place = min.clone().add(max).multiplyScalar(0.5)
      place.setComponent(axis, side < 0 ? min.getComponent(axis) : max.getComponent(axis))
      const look = new Vector3().setComponent(axis, side).applyMatrix3(normals).normalize()
      return { place: place.applyMatrix4(matrix), look }
    }),
  )
}

/** The faces of a thing's boxes that lie against faces of others, or in one plane with them. */
function faceOffers(level: LevelView, finder: Finder, id: string): Offer[] {
  const own = movingWith(level, [id])
  const box = finder.extents.boundsOf(level.subtree(id), new Box3())
  if (box.isEmpty()) return []
  const around: Shown[] = []
  finder.near(
    box.clone().expandByScalar(NEAR * 5),
    shown => {
      if (around.length < MOST_AROUND) around.push(shown)
    },
    at => !own.has(at),
  )
  const found = new Map<string, Offer & { rank: number }>()
  for (const mine of finder.shownBy(id).flatMap(facesOf))
    for (const shown of around)
      for (const face of facesOf(shown)) {
        const along = mine.look.dot(face.look)
        if (1 - Math.abs(along) > PARALLEL) continue
        const gap = face.look.dot(mine.place.clone().sub(face.place))
        // What stands on the same ground is flush with it below: that it stands there is offered.
        if (
          Math.abs(gap) > NEAR
          || (along > 0 && face.look.y < -0.5)
          || (Math.abs(face.look.y * along) > 0.5 && along < 0)
        )
          continue
        const opposite = along < 0
        const holder = shown.copy ?? shown.id
        const key = `${holder} ${opposite}`
        const rank = opposite ? 0 : 1
        if (found.has(key) && !opposite) continue
        found.set(key, {
          rank,
          held: id,
          point: ownPoint(level, id, mine.place),
          holders: [endAt(level, holder, face.place)],
          rule: {
            kind: 'flush',
            against: lookIn(level.worldMatrix(holder), face.look),
            face: lookIn(level.worldMatrix(id), mine.look),
            opposite,
            gap: Math.abs(gap) < 1e-6 ? 0 : gap,
            turns: true,
          },
        })
      }
  return [...found.values()].sort((a, b) => a.rank - b.rank).map(({ rank: _, ...offer }) => offer)
}

/** Pairs of things of one part that a thing is in the middle of, along each axis on which they are apart. */
function middleOffers(level: LevelView, finder: Finder, id: string): Offer[] {
  const own = movingWith(level, [id])
  const middle = middleOf(level, finder, id)
  const around: { id: string; part: string; at: Vector3 }[] = []
  finder.near(
    new Box3(middle.clone(), middle.clone()).expandByScalar(AROUND),
    ({ id: at, copy }) => {
      const part = level.get(at)?.partId
      if (part && around.length < MOST_AROUND)
        around.push({ id: copy ?? at, part, at: middleOf(level, finder, copy ?? at) })
    },
    at => !own.has(at),
  )
  const offers: (Offer & { apart: number })[] = []
  for (const [i, one] of around.entries())
    for (const other of around.slice(i + 1)) {
      if (one.part !== other.part) continue
      const way = other.at.clone().sub(one.at)
      const off = one.at.clone().lerp(other.at, 0.5).sub(middle)
      const isApart = way.toArray().map((each, axis) => axis !== 1 && Math.abs(each) > 0.05)
      if (!isApart.some(Boolean) || off.toArray().some((each, axis) => isApart[axis] && Math.abs(each) > NEAR)) continue
      offers.push({
        apart: way.length(),
        held: id,
        point: ownPoint(level, id, middle),
        holders: [one, other].map(each => endAt(level, each.id, each.at)),
        rule: { kind: 'between', share: 0.5, axes: [isApart[0]!, false, isApart[2]!] },
      })
    }
  return offers
    .sort((a, b) => a.apart - b.apart)
    .slice(0, 3)
    .map(({ apart: _, ...offer }) => offer)
}

/** What one thing could keep to others that are picked with it: distances, the middle, its look, size and turn. */
export function offersAmong(level: LevelView, finder: Finder, held: string, others: readonly string[]): Offer[] {
  const place = (id: string) => new Vector3().setFromMatrixPosition(level.worldMatrix(id))
  const offer = (rule: RelationRule, holders: readonly string[] = others.slice(0, 1)): Offer => ({
    held,
    point: ownPoint(level, held, place(held)),
    holders: holders.map(id => endAt(level, id, place(id))),
    rule,
  })
  const [first] = others
  if (first === undefined) return []
  const way = place(held).sub(place(first))
  const standing = new Standing(level, [])
  const [own, other] = [heightOf(standing, finder, held), heightOf(standing, finder, first)]
  const offers = [
    offer({ kind: 'apart', along: null, distance: way.length() }),
    ...([0, 1, 2] as const).map(axis => {
      const along: Vec3 = [0, 0, 0]
      along[axis] = 1
      return offer({ kind: 'apart', along, distance: way.getComponent(axis) })
    }),
    offer({ kind: 'facing', upright: true }),
    offer({ kind: 'same', of: 'turn', times: 1 }),
    offer({ kind: 'same', of: 'size', times: 1 }),
    ...(own && other ? [offer({ kind: 'same', of: 'height', times: Number((own / other).toPrecision(9)) })] : []),
  ]
  return others.length === 1
    ? offers
    : [offer({ kind: 'between', share: 0.5, axes: [true, false, true] }, others.slice(0, 16)), ...offers]
}
