/** x, y, z. */
export type Vec3 = [number, number, number]

/** A quaternion x, y, z, w, as in glTF; of unit length unless said otherwise. */
export type Quat = [number, number, number, number]
