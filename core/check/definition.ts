import type { Operation } from '../level/schema'
import type { Vec3 } from '../math/vectors'
import type { LevelAxis } from '../units/height'
import type { CheckSite } from './site'

/** How bad it is: what people will see or run into, what will cost somebody time, what may be meant so. */
export const SEVERITIES = ['error', 'warning', 'note'] as const
export type Severity = (typeof SEVERITIES)[number]

/** A number that can be set beside a kind of finding. */
export type LimitSpec = {
  label: string
  first: number
  quantity: 'length' | 'angle' | 'factor'
  least?: number
  most?: number
  axis?: LevelAxis
  otherEnd?: string
}

/** The limits in force, by their names. */
export type Limits<L extends string = string> = Readonly<Record<L, number>>

/** One thing that was found. */
export type Found = {
  /** One or two: things, copies, or a part of the kit. The first is what a fix is done to. */
  things: readonly string[]
  /** By how much, in the unit of its kind; null where that is no number. */
  amount: number | null
  /** Where to look, in the world. */
  at: Vec3
  /** A second number for the words, such as a count. */
  more?: number
}

/** What is needed to say a finding in words. */
export type Words = { name: (id: string) => string; length: (metres: number) => string }

/** A finding cannot be mended by itself, and why. */
export class FixError extends Error {
  override name = 'FixError'
}

/** What mends a finding: operations, or a baked mesh, which only the page can have made. */
export type Fix<L extends string> =
  | {
      does: string
      by: 'operations'
      operations(site: CheckSite, found: Found, limits: Limits<L>): Operation[]
      /** What else would mend it, for where that would make something else wrong. */
      otherwise?(site: CheckSite, found: Found, limits: Limits<L>): Operation[][]
      /** What may be done in its place, where both are right and only the person knows which is meant. */
      instead?: { does: string; operations(site: CheckSite, found: Found, limits: Limits<L>): Operation[] }
    }
  | { does: string; by: 'bake'; what: 'size' | 'both' }

/**
 * All there is to know about one kind of finding. What takes limits is written as methods, so that kinds with any
 * limits are of one type.
 */
export type CheckDefinition<L extends string = string> = {
  /** What its group in the list is called. */
  name: string
  severity: Severity
  /** What it means, and why it matters. */
  explains: string
  limits: Readonly<Record<L, LimitSpec>>
  /** Whether it is looked for if nothing is said. */
  offAtFirst?: true
  /** What is asked one by one: things that show something, any placements, parts of the kit. */
  looksAt: 'shown' | 'placement' | 'part'
  /** Whether it is only told on the side, in no count: nothing is wrong with the level. */
  isAside?: true
  /** Whether an answer hangs on what touches what, however far that goes. */
  byContact?: true
  /**
   * What is wrong with one of them. What lies farther away than a metre and matters has to be watched, by `site.watch`.
   */
  find(site: CheckSite, id: string, limits: Limits<L>): Found[]
  says: (found: Found, words: Words) => string
  fix?: Fix<L>
}
