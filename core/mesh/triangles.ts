// Two triangles, in plain numbers: where they are nearest, and whether they meet. Each is nine numbers of an array: its
// corners.

/** Where two shapes are nearest to each other: the square of the distance, and a point of each. */
export type Nearest = { squared: number; readonly a: Float64Array; readonly b: Float64Array }

/** @param squared only what is nearer is of interest */
export const noneYet = (squared = Infinity): Nearest => ({ squared, a: new Float64Array(3), b: new Float64Array(3) })

/**
 * Brings `best` down to the distance of two triangles, if that is less. They are nearest where a corner of one is
 * nearest to the other's face, or where two sides are; 0 where a side goes through a face.
 */
export function triangleDistance(a: Float64Array, i: number, b: Float64Array, j: number, best: Nearest): void {
  for (let corner = 0; corner < 9; corner += 3) {
    pointToTriangle(a, i + corner, b, j, best, false)
    pointToTriangle(b, j + corner, a, i, best, true)
  }
  for (let k = 0; k < 3; k++)
    for (let l = 0; l < 3; l++)
      sideToSide(a, i + k * 3, i + ((k + 1) % 3) * 3, b, j + l * 3, j + ((l + 1) % 3) * 3, best)
  if (best.squared === 0) return
  for (let k = 0; k < 3; k++) {
    sideThrough(a, i + k * 3, i + ((k + 1) % 3) * 3, b, j, best)
    sideThrough(b, j + k * 3, j + ((k + 1) % 3) * 3, a, i, best)
  }
}

const crossing = noneYet()

/** Whether a side of one of two triangles goes through the other. */
export function trianglesCross(a: Float64Array, i: number, b: Float64Array, j: number): boolean {
  for (let axis = 0; axis < 3; axis++) if (areParted(a, i + axis, b, j + axis)) return false
  // One that is wholly to one side of the other's plane is not crossed by it (Möller 1997).
  if (isAside(a, i, b, j) || isAside(b, j, a, i)) return false
  crossing.squared = Infinity
  for (let k = 0; k < 3 && crossing.squared > 0; k++) {
    sideThrough(a, i + k * 3, i + ((k + 1) % 3) * 3, b, j, crossing)
    if (crossing.squared > 0) sideThrough(b, j + k * 3, j + ((k + 1) % 3) * 3, a, i, crossing)
  }
  return crossing.squared === 0
}

/** Whether two triangles do not reach each other along an axis, whose coordinates are three apart. */
function areParted(a: Float64Array, i: number, b: Float64Array, j: number): boolean {
  const a0 = a[i]!,
    a1 = a[i + 3]!,
    a2 = a[i + 6]!
  const b0 = b[j]!,
    b1 = b[j + 3]!,
    b2 = b[j + 6]!
  return (
    (a0 < b0 && a0 < b1 && a0 < b2 && a1 < b0 && a1 < b1 && a1 < b2 && a2 < b0 && a2 < b1 && a2 < b2)
    || (b0 < a0 && b0 < a1 && b0 < a2 && b1 < a0 && b1 < a1 && b1 < a2 && b2 < a0 && b2 < a1 && b2 < a2)
  )
}

/** Of the numbers that are subtracted, how much of a height above a plane may be rounding. */
const ROUNDING = 1e-13

/** Whether a triangle is clearly to one side of another's plane. */
function isAside(a: Float64Array, i: number, t: Float64Array, j: number): boolean {
  const ox = t[j]!,
    oy = t[j + 1]!,
    oz = t[j + 2]!
  const ux = t[j + 3]! - ox,
    uy = t[j + 4]! - oy,
    uz = t[j + 5]! - oz
  const vx = t[j + 6]! - ox,
    vy = t[j + 7]! - oy,
    vz = t[j + 8]! - oz
  const nx = uy * vz - uz * vy,
    ny = uz * vx - ux * vz,
    nz = ux * vy - uy * vx
  const least =
    ROUNDING * (Math.abs(nx) + Math.abs(ny) + Math.abs(nz)) * (1 + Math.abs(ox) + Math.abs(oy) + Math.abs(oz))
  const one = dot(nx, ny, nz, a[i]! - ox, a[i + 1]! - oy, a[i + 2]! - oz)
  if (one <= least && one >= -least) return false
  const two = dot(nx, ny, nz, a[i + 3]! - ox, a[i + 4]! - oy, a[i + 5]! - oz)
  const three = dot(nx, ny, nz, a[i + 6]! - ox, a[i + 7]! - oy, a[i + 8]! - oz)
  return one > 0 ? two > least && three > least : two < -least && three < -least
}

const dot = (ax: number, ay: number, az: number, bx: number, by: number, bz: number) => ax * bx + ay * by + az * bz

function offer(
  best: Nearest,
  squared: number,
  ax: number,
  ay: number,
  az: number,
  bx: number,
  by: number,
  bz: number,
  swapped: boolean,
): void {
  if (squared >= best.squared) return
  best.squared = squared
  const [a, b] = swapped ? [best.b, best.a] : [best.a, best.b]
  a[0] = ax
  a[1] = ay
  a[2] = az
  b[0] = bx
  b[1] = by
  b[2] = bz
}

/**
 * The point of a triangle nearest to a point, by the region its foot lies in (Ericson, Real-Time Collision Detection,
 * 5.1.5, from memory).
 */
export function pointToTriangle(
  p: Float64Array,
  pi: number,
  t: Float64Array,
  ti: number,
  best: Nearest,
  swapped: boolean,
): void {
  const px = p[pi]!,
    py = p[pi + 1]!,
    pz = p[pi + 2]!
  const ax = t[ti]!,
    ay = t[ti + 1]!,
    az = t[ti + 2]!
  const abx = t[ti + 3]! - ax,
    aby = t[ti + 4]! - ay,
    abz = t[ti + 5]! - az
  const acx = t[ti + 6]! - ax,
    acy = t[ti + 7]! - ay,
    acz = t[ti + 8]! - az
  const apx = px - ax,
    apy = py - ay,
    apz = pz - az
  const d1 = dot(abx, aby, abz, apx, apy, apz),
    d2 = dot(acx, acy, acz, apx, apy, apz)
  let v = 0,
    w = 0
  if (!(d1 <= 0 && d2 <= 0)) {
    const bpx = apx - abx,
      bpy = apy - aby,
      bpz = apz - abz
    const d3 = dot(abx, aby, abz, bpx, bpy, bpz),
      d4 = dot(acx, acy, acz, bpx, bpy, bpz)
    const cpx = apx - acx,
      cpy = apy - acy,
      cpz = apz - acz
    const d5 = dot(abx, aby, abz, cpx, cpy, cpz),
      d6 = dot(acx, acy, acz, cpx, cpy, cpz)
    const vc = d1 * d4 - d3 * d2,
      vb = d5 * d2 - d1 * d6,
      va = d3 * d6 - d5 * d4
    if (d3 >= 0 && d4 <= d3) v = 1
    else if (d6 >= 0 && d5 <= d6) w = 1
    else if (vc <= 0 && d1 >= 0 && d3 <= 0) v = d1 - d3 > 0 ? d1 / (d1 - d3) : 0
    else if (vb <= 0 && d2 >= 0 && d6 <= 0) w = d2 - d6 > 0 ? d2 / (d2 - d6) : 0
    else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
      const whole = d4 - d3 + (d5 - d6)
      w = whole > 0 ? (d4 - d3) / whole : 0
      v = 1 - w
    } else {
      const whole = va + vb + vc
      v = vb / whole
      w = vc / whole
    }
  }
  const qx = ax + v * abx + w * acx,
    qy = ay + v * aby + w * acy,
    qz = az + v * abz + w * acz
  offer(best, (px - qx) ** 2 + (py - qy) ** 2 + (pz - qz) ** 2, px, py, pz, qx, qy, qz, swapped)
}

const clamp = (value: number) => (value < 0 ? 0 : value > 1 ? 1 : value)

/** Where two segments are nearest (Ericson, 5.1.9, from memory); also when they are parallel or points. */
function sideToSide(a: Float64Array, p: number, q: number, b: Float64Array, r: number, s: number, best: Nearest): void {
  const px = a[p]!,
    py = a[p + 1]!,
    pz = a[p + 2]!
  const rx = b[r]!,
    ry = b[r + 1]!,
    rz = b[r + 2]!
  const ux = a[q]! - px,
    uy = a[q + 1]! - py,
    uz = a[q + 2]! - pz
  const vx = b[s]! - rx,
    vy = b[s + 1]! - ry,
    vz = b[s + 2]! - rz
  const wx = px - rx,
    wy = py - ry,
    wz = pz - rz
  const uu = dot(ux, uy, uz, ux, uy, uz),
    vv = dot(vx, vy, vz, vx, vy, vz),
    vw = dot(vx, vy, vz, wx, wy, wz)
  let m = 0,
    n = 0
  if (uu === 0) n = vv === 0 ? 0 : clamp(vw / vv)
  else {
    const uw = dot(ux, uy, uz, wx, wy, wz)
    if (vv === 0) m = clamp(-uw / uu)
    else {
      const uv = dot(ux, uy, uz, vx, vy, vz)
      const across = uu * vv - uv * uv
      m = across > 1e-14 * uu * vv ? clamp((uv * vw - uw * vv) / across) : 0
      n = (uv * m + vw) / vv
      if (n < 0) {
        n = 0
        m = clamp(-uw / uu)
      } else if (n > 1) {
        n = 1
        m = clamp((uv - uw) / uu)
      }
    }
  }
  const ax = px + m * ux,
    ay = py + m * uy,
    az = pz + m * uz
  const bx = rx + n * vx,
    by = ry + n * vy,
    bz = rz + n * vz
  offer(best, (ax - bx) ** 2 + (ay - by) ** 2 + (az - bz) ** 2, ax, ay, az, bx, by, bz, false)
}

/** Whether a segment goes through a triangle (Möller and Trumbore 1997); then both points are where it does. */
function sideThrough(a: Float64Array, p: number, q: number, t: Float64Array, ti: number, best: Nearest): void {
  const px = a[p]!,
    py = a[p + 1]!,
    pz = a[p + 2]!
  const dx = a[q]! - px,
    dy = a[q + 1]! - py,
    dz = a[q + 2]! - pz
  const ax = t[ti]!,
    ay = t[ti + 1]!,
    az = t[ti + 2]!
  const ux = t[ti + 3]! - ax,
    uy = t[ti + 4]! - ay,
    uz = t[ti + 5]! - az
  const vx = t[ti + 6]! - ax,
    vy = t[ti + 7]! - ay,
    vz = t[ti + 8]! - az
  const hx = dy * vz - dz * vy,
    hy = dz * vx - dx * vz,
    hz = dx * vy - dy * vx
  const across = dot(ux, uy, uz, hx, hy, hz)
  if (across === 0) return
  const sx = px - ax,
    sy = py - ay,
    sz = pz - az
  const u = dot(sx, sy, sz, hx, hy, hz) / across
  if (u < 0 || u > 1) return
  const kx = sy * uz - sz * uy,
    ky = sz * ux - sx * uz,
    kz = sx * uy - sy * ux
  const v = dot(dx, dy, dz, kx, ky, kz) / across
  if (v < 0 || u + v > 1) return
  const m = dot(vx, vy, vz, kx, ky, kz) / across
  if (m < 0 || m > 1) return
  offer(best, 0, px + m * dx, py + m * dy, pz + m * dz, px + m * dx, py + m * dy, pz + m * dz, false)
}
