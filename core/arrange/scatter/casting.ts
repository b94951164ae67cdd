import type { Quick } from '../../math/random'
import type { PlanBox } from './facets'

/** Candidates that were taken. */
export type Cast = {
  count: number
  /** In the world, three numbers each. */
  places: Float64Array
  /** The facet each is on. */
  facets: Int32Array
  /** Two numbers below 2^23 each, which together with the surface name it. */
  names: Int32Array
  /** In the order taken; candidates per square metre up to it. */
  births: Float64Array
  /** Whether no room is left for any more. */
  full: boolean
}

export type CastOptions = {
  /** Births before this are taken. */
  until: number
  /** Metres between any two. */
  apart: number
  /** Whether the distance is larger at first and shrinks down to `apart`. */
  even: boolean
  /** How far a candidate keeps others away by itself, by its names; null if none does. */
  roomOf: ((facet: number, name: number, other: number) => number) | null
  /** The least and the most of that. */
  rooms: readonly [number, number]
  /** Whether a candidate may be taken at all. */
  accept: ((x: number, y: number, z: number, facet: number, chance: Quick) => boolean) | null
  /** How a ball of the world lies to where copies are wanted: farther out than a margin, wholly inside, or neither. */
  reach: ((x: number, y: number, z: number, radius: number, margin: number) => 'out' | 'across' | 'in') | null
  /** The box in plan around where copies are wanted, wider by a margin; null where they are wanted everywhere. */
  around: ((margin: number) => PlanBox | null) | null
  /** Those that count; all if null. */
  counts: ((x: number, y: number, z: number) => boolean) | null
  /** No more of those are taken. */
  most: number
  /** Metres within which anything else that `accept` goes by changes. */
  keptOff: number
  /** Those that stand already, over the same facets. */
  standing?: Cast
}
