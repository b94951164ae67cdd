import type { Box3 } from 'three'
import { applyChange } from '../level/change'
import { mergeOperations } from '../level/merge'
import type { Exemption, Operation } from '../level/schema'
import { BoxTree } from '../math/box-tree'
import { affectedBy } from '../scene/affected'
import { relationsIn } from '../relate/graph'
import { copyOf } from '../scene/copy-id'
import type { CheckDefinition, Found, Limits } from './definition'
import { FixError, SEVERITIES } from './definition'
import type { CheckName } from './kinds'
import { CHECK_NAMES, checkOf } from './kinds'
import type { CheckSite } from './site'
import { AROUND } from './site'

/** Something found, with what it is called by: its kind and its things. */
export type Finding = Found & { of: CheckName; key: string; /** Why it is left as it is, if it is. */ left?: string }

/** Of what mends a finding the first, or what may be done in its place. */
export type FixWay = 'fix' | 'instead'

/** What of a fix could be done, and what could not, with the reason. */
export type FixOutcome = { operations: Operation[]; done: string[]; failed: { key: string; why: string }[] }

export const keyOf = (of: CheckName, things: readonly string[]) => `${of} ${[...things].sort().join(' ')}`

/** The kinds of findings that are looked for one by one, by what is asked. */
const asked = (what: CheckDefinition['looksAt']) => CHECK_NAMES.filter(name => checkOf(name).looksAt === what)
const BY_SUBJECT = { shown: asked('shown'), placement: asked('placement'), part: asked('part') }
const BY_CONTACT = CHECK_NAMES.filter(name => checkOf(name).byContact)

/** How often progress is said while everything is looked at. */
const SOME = 16

/**
 * What is wrong with a level, kept up to date: after a change only what it touches is looked at again, what it was near
 * and is near now, and what watches these places.
 *
 * @example
 * import { createPlacement } from '../level/create'
 * import { LevelIndex } from '../scene/level-index'
 * import { bareView } from '../scene/level-view'
 * import { CheckSite } from './site'
 * const id = '00000000-0000-7000-8000-000000000001'
 * const level = bareView([createPlacement({ id, name: 'Stalls', kind: 'group' })])
 * const kit = { part: () => undefined, ids: () => [], solidOf: () => undefined }
 * const check = new LevelCheck(new CheckSite(level, new LevelIndex(level, kit.solidOf), kit))
 * for (const _ of check.all());
 * check.findings.map(({ of, things }) => [of, things]) // [['empty-group', [id]]]
 */
export class LevelCheck {
  private readonly byKey = new Map<string, Finding>()
  /** Of the findings that were looked for anew while something is mended, whether they were there before. */
  private mending: Map<string, boolean> | null = null
  private readonly bySubject = new Map<string, string[]>()
  /** Where a change has to be for a subject to be looked at again. */
  private readonly tree = new BoxTree()
  private readonly leaves = new Map<string, number[]>()
  private readonly subjectOf = new Map<number, string>()
  private readonly boxes = new Map<number, Box3>()
  // Of each subject as it was looked at last: the leaf of its own box, its part, and what it hung from.
  private readonly ownLeaf = new Map<string, number>()
  private readonly partOf = new Map<string, string>()
  private readonly parentOf = new Map<string, string>()
  private readonly limitsOf = new Map<CheckName, Limits | null>()

  constructor(readonly site: CheckSite) {
    this.readLimits()
  }

  /** All that was found, the worse kinds first; what is left as it is has its reason. */
  get findings(): Finding[] {
    const { exemptions } = this.site.level
    const found = [...this.byKey.values()]
    if (exemptions.size === 0) return found
    const reasons = new Map(
      [...exemptions.values()].map(exemption => [keyOf(exemption.of as CheckName, exemption.things), exemption]),
    )
    return found.map(finding => {
      const exemption = reasons.get(finding.key)
      return exemption && this.isWithin(finding, exemption) ? { ...finding, left: exemption.reason } : finding
    })
  }

  /** How many findings there are. */
  get count(): number {
    return this.byKey.size
  }

  /** All that is looked at, in the order in which it is. */
  subjects(): string[] {
    const { level, kit } = this.site
    return [...[...level.placements()].map(({ id }) => id), ...kit.ids()]
  }

  /** Looks at everything, and gives way now and then. @returns how much is done, from 0 to 1 */
  *all(): Generator<number> {
    yield* this.lookThrough(this.subjects())
  }

  /** Looks at some subjects, at a few at least, and gives way now and then. @returns how much is done, from 0 to 1 */
  *lookThrough(subjects: readonly string[], only?: readonly CheckName[]): Generator<number> {
    for (const [i, subject] of subjects.entries()) {
      if (i % SOME === 0) yield i / subjects.length
      this.look(subject, only)
    }
    // What is watched is put together now, in pieces, and not when the first change asks for it.
    for (const _ of this.tree.settling()) yield 1
  }

  /**
   * Looks again at what a change may have made otherwise; the level and its index have it already.
   *
   * @param written the placements, layers and blocks that were written
   * @param besides parts of the kit that were
   * @returns the subjects that were looked at
   */
  recheck(written: ReadonlySet<string>, besides: Iterable<string> = []): ReadonlySet<string> {
    const { site } = this
    const { level } = site
    const touched = affectedBy(level, written, id => site.isGround(id))
    const moved = new Set<string>([...besides, ...site.keptOtherwise()])
    for (const id of touched) {
      if (!level.has(id)) moved.add(id)
      else for (const below of level.subtree(id)) moved.add(below)
    }
    const subjects = this.concernedBy(moved)
    // What touched something that moved may stand no longer, and all that hangs together with it, however far.
    const byContact = new Set<string>()
    for (const id of subjects) site.forget(id)
    for (const id of subjects) if (level.has(id)) this.touches(id, byContact)
    for (const id of subjects) this.look(id)
    for (const id of byContact) if (!subjects.has(id)) this.look(id, BY_CONTACT)
    return subjects
  }

  /** All that has to be looked at again because of what moved: it, its likes, what is or was near it, and its parts. */
  private concernedBy(moved: ReadonlySet<string>): Set<string> {
    const { site } = this
    const { level } = site
    const subjects = new Set(moved)
    for (const id of moved) {
      for (const namesakes of site.count(id)) for (const same of namesakes) subjects.add(same)
      // Where it was.
      for (const leaf of this.leaves.get(id) ?? [])
        if (this.ownLeaf.get(id) === leaf) this.watching(this.boxes.get(leaf)!, subjects)
      for (const partner of site.touchedBefore(id)) subjects.add(partner)
      const { parentId, partId } = level.get(id) ?? {}
      for (const other of [parentId, partId, this.partOf.get(id)]) if (other) subjects.add(other)
      for (const held of relationsIn(level).heldBy.get(id) ?? []) subjects.add(held)
      site.forget(id)
    }
    for (const parent of this.parentsBefore(moved)) subjects.add(parent)
    for (const id of moved) if (level.has(id)) this.watching(site.boxOf(id), subjects)
    return subjects
  }

  /**
   * After limits were set: looks at everything for the kinds concerned, and gives way now and then.
   *
   * @returns how much is done, from 0 to 1
   */
  *relimit(): Generator<number> {
    const before = new Map(this.limitsOf)
    this.readLimits()
    const changed = CHECK_NAMES.filter(
      name => JSON.stringify(before.get(name)) !== JSON.stringify(this.limitsOf.get(name)),
    )
    if (changed.length === 0) return
    const { level } = this.site
    if (changed.some(name => checkOf(name).byContact)) for (const { id } of level.placements()) this.site.forget(id)
    yield* this.lookThrough(this.subjects(), changed)
  }

  /** The limits in force for a kind; null if it is not looked for. */
  limits(of: CheckName): Limits | null {
    return this.limitsOf.get(of)!
  }

  /**
   * Mends findings, one after the other, each as things stand after those before it. What is said to be done leaves no
   * such finding. The level is left as it was: the operations are what would be done.
   */
  fix(keys: readonly string[], by: FixWay = 'fix'): FixOutcome {
    const done: string[] = []
    const failed: FixOutcome['failed'] = []
    const operations: Operation[] = []
    const undo: Operation[][] = []
    for (const key of keys) {
      const finding = this.byKey.get(key)
      // Mended along with one before it.
      if (!finding) {
        done.push(key)
        continue
      }
      try {
        const mended = this.mendCleanly(finding, by)
        undo.push(...mended.undo)
        operations.push(...mended.operations)
        done.push(key)
      } catch (error) {
        if (!(error instanceof FixError)) throw error
        failed.push({ key, why: error.message })
      }
    }
    this.mending = null
    for (const inverse of undo.toReversed()) this.write(inverse)
    return { operations: mergeOperations(operations), done, failed }
  }

  /**
   * Mends a finding so that nothing else comes to be wrong that is as bad: what its fix leaves hanging is set down as
   * well, and where that will not do the next way is tried. It is written; `undo` takes it back.
   */
  private mendCleanly(finding: Finding, by: FixWay): { operations: Operation[]; undo: Operation[][] } {
    this.mending = new Map()
    let why: FixError | null = null
    for (const way of this.waysToMend(finding, by)) {
      const [operations, undo]: [Operation[], Operation[][]] = [[], []]
      const write = (made: readonly Operation[]) => {
        undo.push(this.write(made).inverse)
        operations.push(...made)
      }
      try {
        write(way)
        if (this.byKey.has(finding.key)) throw new FixError('It would still be found afterwards.')
        for (const { key } of this.worseThan(finding)) {
          const again = this.byKey.get(key)
          if (again) write(this.mend(again))
        }
        const [worse] = this.worseThan(finding)
        if (worse || this.byKey.has(finding.key))
          throw new FixError(
            worse
              ? `Something else would be wrong then: ${checkOf(worse.of).name.toLowerCase()}.`
              : 'It would still be found afterwards.',
          )
        return { operations, undo }
      } catch (error) {
        for (const inverse of undo.toReversed()) this.write(inverse)
        if (!(error instanceof FixError)) throw error
        why ??= error
      }
    }
    throw why ?? new FixError('Nothing can be done about it.')
  }

  /** What is found that was not before, and is at least as bad as a finding. */
  private worseThan({ of }: Finding): Finding[] {
    const least = SEVERITIES.indexOf(checkOf(of).severity)
    const fresh = [...(this.mending ?? [])].flatMap(([key, wasThere]) => (wasThere ? [] : (this.byKey.get(key) ?? [])))
    return fresh.filter(each => !checkOf(each.of).isAside && SEVERITIES.indexOf(checkOf(each.of).severity) <= least)
  }

  private waysToMend(finding: Finding, by: FixWay): Operation[][] {
    const { fix } = checkOf(finding.of)
    const first = this.mend(finding, by)
    if (by === 'instead') return [first]
    return [
      first,
      ...(fix?.by === 'operations' ? (fix.otherwise?.(this.site, finding, this.limits(finding.of)!) ?? []) : []),
    ]
  }

  private mend(finding: Finding, by: FixWay = 'fix'): Operation[] {
    const { fix } = checkOf(finding.of)
    if (fix?.by !== 'operations') throw new FixError('This has to be mended by hand.')
    const { level } = this.site
    const locked =
      finding.of === 'left-over'
        ? undefined
        : finding.things.find(id => level.has(id) && copyOf(id) === null && level.isLocked(id))
    const way = by === 'instead' && fix.instead ? fix.instead : fix
    const operations = way.operations(this.site, finding, this.limits(finding.of)!)
    if (locked && operations.some(({ id }) => id === locked))
      throw new FixError(`${level.need(locked).name} is locked.`)
    if (operations.length === 0) throw new FixError('Nothing can be done about it.')
    return operations
  }

  /** Writes to the level behind the index and looks again. */
  private write(operations: readonly Operation[]): { inverse: Operation[] } {
    const { level, index } = this.site
    const { inverse, touched } = applyChange(level, operations)
    const affected = affectedBy(level, touched, id => this.site.isGround(id))
    index.update(affected)
    this.recheck(touched)
    return { inverse }
  }

  /** What they hung from when they were looked at last. */
  private parentsBefore(ids: ReadonlySet<string>): string[] {
    return [...ids].flatMap(id => this.parentOf.get(id) ?? [])
  }

  /** The subjects that a change within a box may make otherwise. */
  private watching(box: Box3, into: Set<string>): void {
    if (box.isEmpty()) return
    const { min, max } = box
    this.tree.query(
      (x0, y0, z0, x1, y1, z1) =>
        x0 > max.x || x1 < min.x || y0 > max.y || y1 < min.y || z0 > max.z || z1 < min.z ? 'outside' : 'across',
      leaf => {
        into.add(this.subjectOf.get(leaf)!)
      },
    )
  }

  /** All that hangs together with a subject, by what each touched when it was last looked at. */
  private together(id: string, into: Set<string>): void {
    const waiting = [id]
    for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
      for (const other of this.site.touchedBefore(at)) {
        if (into.has(other) || !this.isFollowed(other)) continue
        into.add(other)
        waiting.push(other)
      }
    }
  }

  /** The same by what a subject touches now. */
  private touches(id: string, into: Set<string>): void {
    if (!this.isFollowed(id) || this.site.own(id).length === 0) return
    for (const other of this.site.touchedBy(id)) {
      if (into.has(other) || !this.isFollowed(other)) continue
      into.add(other)
      this.together(other, into)
    }
  }

  /** Whether what touches it hangs on it: not of what stands by itself. */
  private isFollowed(id: string): boolean {
    return this.site.level.has(id) && !this.site.level.arrangementIds.has(id) && !this.site.isGround(id)
  }

  /** Finds what is wrong with one subject, in place of what was found before. @param only these kinds */
  private look(subject: string, only?: readonly CheckName[]): void {
    const { site } = this
    const keys = this.bySubject.get(subject) ?? []
    const kept = only ? keys.filter(key => !only.includes(this.byKey.get(key)!.of)) : []
    for (const key of keys) {
      if (kept.includes(key)) continue
      this.mending?.set(key, this.mending.get(key) ?? true)
      this.byKey.delete(key)
    }
    const found: string[] = [...kept]
    for (const of of this.kindsFor(subject)) {
      const limits = this.limitsOf.get(of)
      if (!limits || (only && !only.includes(of))) continue
      for (const each of checkOf(of).find(site, subject, limits)) {
        const key = keyOf(of, each.things)
        this.mending?.set(key, this.mending.get(key) ?? this.byKey.has(key))
        this.byKey.set(key, { ...each, of, key })
        found.push(key)
      }
    }
    if (found.length > 0) this.bySubject.set(subject, found)
    else this.bySubject.delete(subject)
    this.watchFor(subject, only !== undefined)
  }

  private kindsFor(subject: string): readonly CheckName[] {
    const { level } = this.site
    const placement = level.get(subject)
    if (!placement) return BY_SUBJECT.part
    const isShown =
      (placement.kind === 'part' || placement.kind === 'block') && !level.isSource(subject) && !level.isHidden(subject)
    return isShown ? [...BY_SUBJECT.shown, ...BY_SUBJECT.placement] : BY_SUBJECT.placement
  }

  /**
   * Remembers where a change has to be for a subject to be looked at again.
   *
   * @param adds keeps what was watched before
   */
  private watchFor(subject: string, adds: boolean): void {
    const { site } = this
    const watched = site.takeWatched()
    const before = adds ? (this.leaves.get(subject) ?? []) : []
    if (!adds) {
      for (const leaf of this.leaves.get(subject) ?? []) {
        this.tree.remove(leaf)
        this.subjectOf.delete(leaf)
        this.boxes.delete(leaf)
      }
      this.ownLeaf.delete(subject)
    }
    const leaves = [...before]
    const insert = (box: Box3) => {
      const leaf = this.tree.insert(box)
      this.subjectOf.set(leaf, subject)
      this.boxes.set(leaf, box)
      leaves.push(leaf)
      return leaf
    }
    const placement = site.level.get(subject)
    if (!adds) {
      this.partOf.delete(subject)
      this.parentOf.delete(subject)
      if (placement) {
        if (placement.partId) this.partOf.set(subject, placement.partId)
        if (placement.parentId) this.parentOf.set(subject, placement.parentId)
        const box = site.boxOf(subject)
        if (!box.isEmpty()) this.ownLeaf.set(subject, insert(box.expandByScalar(AROUND)))
      }
    }
    // Looked at in part it mostly watches what it did before.
    for (const box of watched) if (!leaves.some(leaf => this.boxes.get(leaf)!.containsBox(box))) insert(box)
    if (leaves.length > 0) this.leaves.set(subject, leaves)
    else this.leaves.delete(subject)
  }

  private readLimits(): void {
    const set = new Map([...this.site.level.limits.values()].map(limit => [limit.of, limit]))
    for (const name of CHECK_NAMES) {
      const { limits, offAtFirst } = checkOf(name)
      const given = set.get(name)
      const isOff = given ? given.off : offAtFirst === true
      this.limitsOf.set(
        name,
        isOff
          ? null
          : Object.fromEntries(Object.entries(limits).map(([key, { first }]) => [key, given?.values[key] ?? first])),
      )
    }
    // What counts as touching.
    this.site.gap = this.limits('floating')?.gap ?? this.site.gap
  }

  /** A finding stays left while it is no worse than when that was said, give or take what its kind allows. */
  private isWithin({ of, amount }: Finding, exemption: Exemption): boolean {
    if (amount === null || exemption.amount === null) return true
    const [slack = 0] = Object.values(this.limits(of) ?? {})
    return Math.abs(amount - exemption.amount) <= Math.abs(slack) + 1e-9
  }
}
