import { Vector3 } from 'three'
import { pivotOf } from '../edit/handles/pivot'
import { isRuleInBounds } from '../level/relation'
import type { Operation, Placement, Relation } from '../level/schema'
import type { Quat, Vec3 } from '../math/vectors'
import type { Finder } from '../scene/finder'
import { copyOf } from '../scene/copy-id'
import type { LevelView } from '../scene/level-view'
import type { ByHand, Given, Wanted } from './definition'
import { givenOf } from './definition'
import type { RelationIndex } from './graph'
import { holdersOf, indexOf, inOrder, relationsIn } from './graph'
import { aimRelationsAfter, isAim, putRelation, relationWritten, removeRelation } from './aims'
import { definitionOf } from './kinds'
import { relationsAfter } from './after'
import { holds } from './miss'
import { Standing, thingOf } from './standing'

type AnyGiven = Given<Relation['rule']['kind']> & { relation: Relation }

const NUMBERS = ['translation', 'rotation', 'scale'] as const

/** A thing, and what asks for its size, its turn and its place. */
type Following = { id: string; sizing: AnyGiven[]; turning: AnyGiven[]; placing: AnyGiven[] }

/** A relation that does not hold as things would stand, and why. */
export type Unmet = { relation: Relation; why: 'circle' | 'nothing there' | 'out of reach' }

export type Kept = {
  /** What was asked for, with what follows from it. */
  operations: Operation[]
  unmet: Unmet[]
}

/** Metres, and shares of a size or a turn, less than which nothing is put otherwise. */
const STILL = 1e-11
/** Metres, and shares, by which what is hung below something else may come to stand otherwise. */
const SAME = 1e-9
/** Metres off by which a place counts as not reached. */
const MISSED = 1e-6
/** Rounds in which a place is found; straight lines take one. */
const ROUNDS = 30
/** How much of a direction has to be new for a wish to have a say beside others. */
const NEW = 1e-6

/**
 * Operations with those added that let every relation hold: what hangs on something follows when that is moved, turned,
 * sized or removed, in the order in which things follow each other. One whose thing is moved by hand takes up how it
 * stands now; what is removed is let go of.
 *
 * @param finder of the level as it is before
 * @param anew things that stand as before, but show something else by now
 */
export function withRelations(
  level: LevelView,
  finder: Finder,
  operations: readonly Operation[],
  anew: Iterable<string> = [],
): Kept {
  const written = new Set(operations.flatMap(relationWritten))
  if (level.relations.size + level.aimingIds.size + written.size === 0 || !areWhole(level, operations))
    return { operations: [...operations], unmet: [] }
  return new Keeping(level, finder, operations, written, anew).done()
}

class Keeping {
  private readonly standing: Standing
  private readonly index: RelationIndex
  private readonly gone: Set<string>
  /** Relations that the change itself lets go of. */
  private readonly letGoOf: ReadonlySet<string>
  private readonly ownPuts: ReadonlyMap<string, Partial<Placement>>
  private readonly added: Operation[] = []
  private readonly unmet: Unmet[] = []

  constructor(
    private readonly level: LevelView,
    private readonly finder: Finder,
    private readonly operations: readonly Operation[],
    /** Those that were written with the change itself: they hold as they say. */
    private readonly fresh: ReadonlySet<string>,
    private readonly anew: Iterable<string>,
  ) {
    this.standing = new Standing(level, operations)
    this.gone = new Set(operations.flatMap(({ do: what, id }) => (what === 'remove' ? [id] : [])))
    this.letGoOf = new Set(operations.flatMap(({ do: what, id }) => (what === 'remove-relation' ? [id] : [])))
    // Who only lets go, as for a drag with its key held, need not sort all others for that at each move.
    this.index =
      fresh.size === this.letGoOf.size
        ? relationsIn(level)
        : indexOf([...relationsAfter(level, operations), ...aimRelationsAfter(level, operations)])
    this.ownPuts = new Map(
      operations.flatMap(operation => (operation.do === 'put' ? [[operation.id, operation.fields] as const] : [])),
    )
  }

  done(): Kept {
    if (this.gone.size > 0) this.letGoOfGone()
    const { order, circle } = inOrder(this.affected(), {
      parentOf: id => (this.standing.has(id) ? this.standing.parentOf(id) : null),
      byHeld: this.index.byHeld,
    })
    for (const id of order) {
      const following = this.follow(id)
      this.settle(following, true)
      this.write(id)
    }
    if (circle.length > 0) this.goRound(circle)
    return { operations: [...this.operations, ...this.added], unmet: this.unmet }
  }

  /** All that follow something that stands otherwise, and what follows them. What is made now is where it is put. */
  private affected(): Set<string> {
    const { byHeld, heldBy } = this.index
    const found = new Set<string>()
    const add = (held: string) => {
      if (byHeld.has(held) && this.level.has(held) && !this.gone.has(held)) found.add(held)
    }
    const reach = (id: string) => {
      add(id)
      for (const held of heldBy.get(id) ?? []) add(held)
      // The copies of what a source is in are others.
      if (this.level.arrangementIds.size > 0 && this.level.has(id))
        for (let at = this.level.arrangementAbove(id); at !== null; at = this.level.arrangementAbove(at))
          for (const held of heldBy.get(at) ?? []) add(held)
    }
    for (const id of this.standing.moved) if (this.isElsewhere(id)) reach(id)
    for (const id of this.anew) reach(id)
    for (const operation of this.operations)
      if (operation.do === 'put-relation')
        add(operation.fields.held ?? this.level.relations.get(operation.id)?.held ?? '')
      else if (relationWritten(operation).length > 0) add(operation.id)
    // The set grows while it is walked.
    for (const id of found)
      if (!this.level.hasChildren(id)) reach(id)
      else for (const below of this.level.subtree(id)) reach(below)
    return found
  }

  /** Whether a thing would stand otherwise than it does, and not only be called or hang otherwise. */
  private isElsewhere(id: string): boolean {
    if (!this.level.has(id)) return true
    const [before, after] = [this.level.worldMatrix(id).elements, this.standing.matrixOf(id).elements]
    return before.some((each, i) => Math.abs(each - after[i]!) > SAME)
  }

  private letGoOfGone(): void {
    const { byHeld, heldBy } = this.index
    const tied = new Set<Relation>()
    for (const id of this.gone) {
      for (const relation of byHeld.get(id) ?? []) tied.add(relation)
      for (const held of heldBy.get(id) ?? [])
        for (const relation of byHeld.get(held)!) if (holdersOf(relation).includes(id)) tied.add(relation)
    }
    for (const relation of tied) if (!this.letGoOf.has(relation.id)) this.letGo(relation)
  }

  /** What a camera aims at is a place from then on. */
  private letGo(relation: Relation): void {
    const { held } = relation
    if (!isAim(relation)) this.added.push(removeRelation(relation, this.standing.placement(held).own))
    else if (!this.gone.has(held)) {
      const at = this.standing.placeOf(relation.holders[0]!).toArray()
      this.added.push(
        putRelation(relation, { holders: [{ at, on: null, point: at }] }, this.standing.placement(held).own),
      )
    }
  }

  private givenOf = (relation: Relation): AnyGiven => givenOf(this.standing, this.finder, relation)

  /** What a thing follows, as it is after the change. */
  private follow(id: string): Following {
    const following: Following = { id, sizing: [], turning: [], placing: [] }
    for (const before of this.index.byHeld.get(id)!) {
      const relation = !this.letGoOf.has(before.id) && this.isHeldYet(before) ? this.adopted(before) : null
      if (!relation) continue
      const given = this.givenOf(relation)
      const { takes, place } = definitionOf(relation.rule)
      const freedoms = takes(relation.rule)
      if (freedoms.includes('size')) following.sizing.push(given)
      if (freedoms.includes('turn')) following.turning.push(given)
      if (place) following.placing.push(given)
    }
    return following
  }

  /**
   * Lets a thing stand as it is to.
   *
   * @param says whether what cannot be is said
   * @returns whether it stands otherwise now
   */
  private settle({ id, sizing, turning, placing }: Following, says: boolean): boolean {
    const before = this.standing.placement(id)
    for (const each of sizing) this.size(each)
    // Where it is to look depends on where it stands, and where it stands on how it is turned; where what it hangs from
    // is sized unevenly a turn comes near only.
    for (let round = 0; round < ROUNDS; round++) {
      const turned = turning.filter(each => this.turn(each, says && round === 0))
      this.place(id, placing, says && round === 0)
      if (turned.length === 0) break
      if (says && round === ROUNDS - 1)
        for (const { relation } of turned) this.unmet.push({ relation, why: 'out of reach' })
    }
    return this.standing.placement(id) !== before
  }

  /** Things that wait for each other, as cameras may that look at each other: gone round until all hold, or left. */
  private goRound(circle: readonly string[]): void {
    const following = circle.map(id => this.follow(id))
    for (let round = 0; round < ROUNDS; round++)
      if (!following.map(each => this.settle(each, false)).some(Boolean))
        return following.forEach(each => {
          this.settle(each, true)
          this.write(each.id)
        })
    for (const id of circle)
      for (const relation of this.index.byHeld.get(id)!) this.unmet.push({ relation, why: 'circle' })
  }

  /** Whether all that holds it is there; what is gone with this change lets go by itself. */
  private isHeldYet(relation: Relation): boolean {
    for (const { on } of relation.holders) {
      const holder = on === null ? null : thingOf(on)
      if (holder === null || (this.standing.has(holder) && !this.gone.has(holder))) continue
      if (!this.gone.has(holder)) this.unmet.push({ relation, why: 'nothing there' })
      return false
    }
    return true
  }

  /** The relation, as it is after its thing was moved by hand; null if that lets go of it. */
  private adopted(relation: Relation): Relation | null {
    const fields = this.ownPuts.get(relation.held)
    const isByHand =
      fields
      && this.level.has(relation.held)
      && !this.fresh.has(relation.id)
      && (fields.translation ?? fields.rotation ?? fields.scale)
    // What goes along with what holds it as it is to has nothing to take up.
    if (!isByHand || (this.isHolderMoved(relation) && holds(this.standing, this.finder, relation))) return relation
    const before = this.level.need(relation.held)
    const byHand: ByHand = {
      moved: this.standing.pivotOf(relation.held).sub(pivotOf(this.level, relation.held)),
      isTurned: isOther(fields.rotation, before.rotation),
      isSized: isOther(fields.scale, before.scale),
    }
    const after = definitionOf(relation.rule).adopt(this.givenOf(relation), byHand)
    const own = this.standing.placement(relation.held).own
    // Moved so far that no number says it, it is not kept any more.
    if (after === 'let go' || (after.rule && !isRuleInBounds(after.rule))) {
      this.added.push(removeRelation(relation, own))
      return null
    }
    if (Object.keys(after).length === 0) return relation
    this.added.push(putRelation(relation, after, own))
    return { ...relation, ...after }
  }

  private isHolderMoved(relation: Relation): boolean {
    return holdersOf(relation).some(holder => this.standing.isMoved(holder))
  }

  private size(given: AnyGiven): void {
    const factors = definitionOf(given.rule).size!(given)
    if (!factors) return void this.unmet.push({ relation: given.relation, why: 'nothing there' })
    if (Math.abs(factors.x - 1) + Math.abs(factors.y - 1) + Math.abs(factors.z - 1) < STILL) return
    const { held } = given.relation
    const scale = new Vector3(...this.standing.placement(held).scale).multiply(factors).toArray()
    this.standing.put(held, { scale })
  }

  /** @returns whether it was turned */
  private turn(given: AnyGiven, isFirst: boolean): boolean {
    const wanted = definitionOf(given.rule).turn!(given)
    if (!wanted) {
      if (isFirst) this.unmet.push({ relation: given.relation, why: 'nothing there' })
      return false
    }
    const { held } = given.relation
    const { rotation } = this.standing.placement(held)
    // Of two turns that are one the numbers may have the other sign.
    if (wanted === rotation || isSameTurn(wanted, rotation)) return false
    this.standing.put(held, { rotation: wanted })
    return true
  }

  private place(id: string, given: readonly AnyGiven[], isFirst: boolean): void {
    if (given.length === 0) return
    for (let round = 0; round < ROUNDS; round++) {
      const wanted: Wanted[] = []
      for (const each of given) {
        const asked = definitionOf(each.rule).place!(each)
        if (asked) wanted.push(...asked)
        else if (round === 0 && isFirst) this.unmet.push({ relation: each.relation, why: 'nothing there' })
      }
      const way = wayFor(wanted)
      if (way.length() < STILL) break
      const place = this.standing.pivotOf(id).add(way)
      if (this.standing.parentOf(id) !== null) place.applyMatrix4(this.standing.parentMatrix(id).clone().invert())
      this.standing.put(id, { translation: place.toArray() as Vec3 })
      // One way alone goes all of it at once.
      if (wanted.length < 2) return
      if (!given.some(({ rule }) => definitionOf(rule).bends?.(rule))) break
    }
    // Those that still ask for something contradict each other.
    for (const each of isFirst ? given : []) {
      const asked = definitionOf(each.rule).place!(each)
      if (asked?.some(({ by }) => Math.abs(by) > MISSED))
        this.unmet.push({ relation: each.relation, why: 'out of reach' })
    }
  }

  /** What is otherwise than the change itself puts it. */
  private write(id: string): void {
    const [before, own] = [this.level.get(id), this.ownPuts.get(id)]
    const after = this.standing.placement(id)
    if (after === before) return
    const fields: Partial<Pick<Placement, (typeof NUMBERS)[number]>> = {}
    for (const name of NUMBERS)
      if (isOther(after[name], own?.[name] ?? before![name])) Object.assign(fields, { [name]: after[name] })
    if (Object.keys(fields).length > 0) this.added.push({ do: 'put', id, fields })
  }
}

/**
 * Whether everything would stand somewhere after operations: it is there, or comes with all that takes, and hangs from
 * what is there.
 */
function areWhole(level: LevelView, operations: readonly Operation[]): boolean {
  const put = new Set(operations.flatMap(({ do: what, id }) => (what === 'put' ? [id] : [])))
  return operations.every(operation => {
    if (operation.do !== 'put' || copyOf(operation.id)) return true
    const { translation, rotation, scale, pivot, parentId } = operation.fields
    return (
      (level.has(operation.id) || Boolean(translation && rotation && scale && pivot))
      && (!parentId || level.has(parentId) || put.has(parentId))
    )
  })
}

/** Of two turns that are one the numbers may have the other sign. */
function isSameTurn(a: Quat, b: Quat): boolean {
  const sign = a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3] < 0 ? -1 : 1
  return Math.hypot(a[0] * sign - b[0], a[1] * sign - b[1], a[2] * sign - b[2], a[3] * sign - b[3]) < STILL
}

const isOther = (after: readonly number[] | undefined, before: readonly number[]) =>
  after !== undefined && after.some((each, i) => each !== before[i])

/**
 * The shortest way that goes as far along each direction as is asked, one after the other (Gram and Schmidt); of one
 * that lies in the span of those before nothing more is asked.
 *
 * @example
 * import { Vector3 } from 'three'
 * const [x, z] = [new Vector3(1, 0, 0), new Vector3(0, 0, 1)]
 * wayFor([{ along: x, by: 2 }, { along: z, by: 1 }, { along: x, by: 5 }]).toArray() // [2, 0, 1]
 */
export function wayFor(wanted: readonly Wanted[]): Vector3 {
  const [only] = wanted
  if (only && wanted.length === 1) return only.along.clone().multiplyScalar(only.by)
  const way = new Vector3()
  const taken: Vector3[] = []
  for (const { along, by } of wanted) {
    const left = along.clone()
    for (const other of taken) left.addScaledVector(other, -left.dot(other))
    const length = left.length()
    if (length < NEW) continue
    left.divideScalar(length)
    way.addScaledVector(left, (by - along.dot(way)) / length)
    taken.push(left)
  }
  return way
}
