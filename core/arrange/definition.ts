import type { Vector3 } from 'three'
import type { z } from 'zod'
import type { Vec3 } from '../math/vectors'
import type { WrittenAxes } from '../units/height'
import type { RuleField } from './fields'
import type { CopyKeys, CopyPlace } from './keys'
import type { GroundBelow } from './path/ground'
import type { PathRule } from './path/rule'
import type { ScatterRule } from './scatter/rule'

/**
 * A place on the stage by which a rule can be taken hold of; `between` makes a new point of a path when it is dragged.
 */
export type RuleGrip = { at: Vector3; between?: true }

/** What dragging a grip makes of a rule, and how far the arrangement itself moves, along its own axes. */
export type GripDragged<R> = { rule: R; shift?: Vec3 }

/**
 * All there is to know about one kind of rule. Places and lengths are metres in the arrangement's axes, angles degrees.
 */
export type RuleDefinition<R extends { type: string }> = {
  schema: z.ZodObject & z.ZodType<R>
  /** A rule as it comes. */
  first: R
  /**
   * A rule as it comes, for sources of a size along X, Y and Z: with its copies side by side, none of them in another.
   */
  sideBySide: (rule: R, size: Vec3) => R
  /** What people call it, and what its arrangements are named after. */
  name: string
  /** The number that is at fault where there are too many copies. */
  countedBy: keyof R & string
  /** How many copies it makes. */
  count: (rule: R) => number
  /** No fewer than it makes, without working them out: what is too many has to be refused before that. */
  most: (rule: R) => number
  /** The first copy that grows beyond what can be worked with, by its index; null if none does. */
  firstBeyond: (rule: R) => number | null
  /**
   * Writes the matrix of each copy, sixteen numbers each, column by column, in the order of their indices.
   *
   * @param out at least sixteen times `count` long; nothing is allocated per copy
   */
  write: (rule: R, out: Float64Array | Float32Array) => void
  /** What names each copy. */
  keys: (rule: R) => CopyKeys
  /** What people call one copy; they count from one. */
  nameOf: (rule: R, place: CopyPlace) => string
  grips: (rule: R) => RuleGrip[]
  /** Whether grips are points on the surfaces of the level, dragged along them; others float above the copies. */
  gripsOnSurface: boolean
  /** The numbers that its grips change, in words. @param length prints metres */
  gripText: (rule: R, length: (metres: number) => string, axes: WrittenAxes) => string
  /**
   * The rule around another middle, at its origin, its first copy staying where it is; null for rules without a middle.
   */
  aroundMiddle: ((rule: R, first: Vector3) => R) | null
  /** The rule with a grip dragged to a place. @param index of the grip as `grips` gives them */
  drag: (rule: R, index: number, to: Vector3) => GripDragged<R>
  /** Whether the sources stay to be seen where they stand, each with one copy that is no thing by itself. */
  keepsSources: boolean
  /** Whether its copies stand on whatever ground is there. */
  hugsGround: (rule: R) => boolean
  /** Puts copies that do so on the ground, in their matrices. */
  settle: (rule: R, matrices: Float64Array, ground: GroundBelow) => void
  /**
   * The path that pieces are bent along, so that each of the first copies has a mesh of its own; null if they stay as
   * they are.
   */
  bentAlong: (rule: R) => PathRule | null
  /** The scatter that it is, whose copies depend on the surfaces they are dealt on; null for all others. */
  scattered: (rule: R) => ScatterRule | null
  /** The ids of things elsewhere in the level that it depends on. */
  refersTo: (rule: R) => string[]
  /** The same of other things and sources, such as their duplicates. @param idOf gives the id itself where it stays */
  referringTo: (rule: R, idOf: (id: string) => string) => R
  /**
   * What has to be said about it where it is changed: what does not come out as asked for.
   *
   * @param length prints metres
   */
  remarks: (rule: R, length: (metres: number) => string) => string[]
  /** Its numbers and choices as a form has them. */
  fields: (rule: R) => RuleField[]
}

/** Of rules whose copies stand as they are where the rule says, whatever is below. */
export const STANDS_STRAIGHT = { hugsGround: () => false, settle: () => {}, bentAlong: () => null }

/** Of rules that say by themselves where their copies are. */
export const BY_ITSELF = { scattered: () => null, refersTo: () => [], referringTo: <R>(rule: R) => rule }
