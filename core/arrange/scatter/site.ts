/** The triangles of a shape, by material. */
export type Skin = readonly { positions: ArrayLike<number>; indices: ArrayLike<number> }[]

/** A thing whose surface copies stand on. Matrices are sixteen numbers, column by column, to the world. */
export type SurfaceAt = {
  stream: number
  /** What names it among all of its stream; 0 for the one that was picked itself. */
  below: number
  /** The placement or copy it is of. */
  owner: string
  shape: string
  matrix: readonly number[]
}

export type ThingAt = { shape: string; matrix: readonly number[] }

/** Metres that a source at size 1 reaches from its pivot in plan. */
export type SourceAt = { id: string; reach: number }

/** What a scatter finds where it is: plain data, for a worker. */
export type ScatterSite = {
  /** From the arrangement's axes to the world. */
  toWorld: readonly number[]
  surfaces: readonly SurfaceAt[]
  /** Those that each limit keeps its distance to, by its number. */
  things: readonly (readonly ThingAt[])[]
  sources: readonly SourceAt[]
}

/** Stands in place of a shape for the ground plane. */
export const PLANE = 'plane'
/** The stream of the ground plane, above those of all things. */
export const PLANE_STREAM = 1_000_000
