import type { Vector3 } from 'three'
import type { Vec3 } from './vectors'

/** A length to the micrometre, which is as good as meshes in single precision are; without a minus before 0. */
export const toMicrometre = (metres: number): number => Math.round(metres * 1e6) / 1e6 + 0

/** A point in metres with each coordinate to the micrometre. */
export const pointToMicrometre = (point: Vector3): Vec3 => point.toArray().map(toMicrometre) as Vec3
