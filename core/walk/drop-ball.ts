/**
 * Where a ball that comes straight down first touches a triangle: the height of its middle, where it touches, and
 * whether it lies on the face and not on an edge or a corner.
 */
export type Touch = { height: number; x: number; y: number; z: number; isFace: boolean }

/** Steeper than this a face or an edge is upright, and nothing comes to lie on it. */
const UPRIGHT = 1e-9
/** A face's own edge counts as within it, so that nothing falls between two faces. */
const EDGE = 1e-12

/**
 * Where a ball of some radius that comes straight down at x, z first touches a triangle: its face, one of its edges or
 * a corner.
 *
 * @param t nine numbers for each triangle, @param at where the triangle begins
 * @returns null if the ball passes it
 */
export function dropBall(x: number, z: number, radius: number, t: Float64Array, at: number): Touch | null {
  const face = onFace(x, z, radius, t, at)
  // What lies on the face lies higher than what touches its edges.
  if (face) return face
  const best: Touch = { height: -Infinity, x: 0, y: 0, z: 0, isFace: false }
  const take: Take = (height, px, py, pz) => {
    if (height > best.height) Object.assign(best, { height, x: px, y: py, z: pz })
  }
  for (let k = 0; k < 3; k++) {
    const a = at + k * 3
    const b = at + ((k + 1) % 3) * 3
    onCorner(x, z, radius, t, a, take)
    onEdge(x, z, radius, t, a, b, take)
  }
  return best.height > -Infinity ? best : null
}

function onFace(x: number, z: number, radius: number, t: Float64Array, at: number): Touch | null {
  const [ax, ay, az] = [t[at]!, t[at + 1]!, t[at + 2]!]
  const [ux, uy, uz] = [t[at + 3]! - ax, t[at + 4]! - ay, t[at + 5]! - az]
  const [vx, vy, vz] = [t[at + 6]! - ax, t[at + 7]! - ay, t[at + 8]! - az]
  let [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
  const length = Math.hypot(nx, ny, nz)
  if (length === 0 || Math.abs(ny) < UPRIGHT * length) return null
  const sign = ny < 0 ? -1 : 1
  nx *= sign / length
  ny *= sign / length
  nz *= sign / length
  const height = ay + (radius - nx * (x - ax) - nz * (z - az)) / ny
  const [px, py, pz] = [x - radius * nx, height - radius * ny, z - radius * nz]
  // Within the triangle, seen from above.
  const area = ux * vz - uz * vx
  const s = ((px - ax) * vz - (pz - az) * vx) / area
  const r = (ux * (pz - az) - uz * (px - ax)) / area
  return s >= -EDGE && r >= -EDGE && s + r <= 1 + EDGE ? { height, x: px, y: py, z: pz, isFace: true } : null
}

type Take = (height: number, x: number, y: number, z: number) => void

function onCorner(x: number, z: number, radius: number, t: Float64Array, a: number, take: Take): void {
  const [dx, dz] = [x - t[a]!, z - t[a + 2]!]
  const rest = radius * radius - dx * dx - dz * dz
  if (rest >= 0) take(t[a + 1]! + Math.sqrt(rest), t[a]!, t[a + 1]!, t[a + 2]!)
}

function onEdge(x: number, z: number, radius: number, t: Float64Array, a: number, b: number, take: Take): void {
  let [ux, uy, uz] = [t[b]! - t[a]!, t[b + 1]! - t[a + 1]!, t[b + 2]! - t[a + 2]!]
  const length = Math.hypot(ux, uy, uz)
  if (length === 0) return
  ux /= length
  uy /= length
  uz /= length
  // Of the middle, from the corner: w + y · up, whose part across the edge has to be as long as the radius.
  const [wx, wz] = [x - t[a]!, z - t[a + 2]!]
  const along = wx * ux + wz * uz
  const [fx, fy, fz] = [wx - along * ux, -along * uy, wz - along * uz]
  const [ex, ey, ez] = [-uy * ux, 1 - uy * uy, -uy * uz]
  const ee = ex * ex + ey * ey + ez * ez
  if (ee < UPRIGHT) return
  const ef = ex * fx + ey * fy + ez * fz
  const rest = ef * ef - ee * (fx * fx + fy * fy + fz * fz - radius * radius)
  if (rest < 0) return
  const y = (-ef + Math.sqrt(rest)) / ee
  const place = along + y * uy
  if (place < 0 || place > length) return
  take(t[a + 1]! + y, t[a]! + place * ux, t[a + 1]! + place * uy, t[a + 2]! + place * uz)
}
