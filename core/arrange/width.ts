import type { Vec3 } from '../math/vectors'

/** How far a box reaches along a way of any length: two that stand side by side along it are as far apart. */
export function widthAlong(way: Vec3, size: Vec3): number {
  const length = Math.hypot(...way)
  if (length === 0) return size[0]
  // One box is clear of the next as soon as the way has left it along any one axis.
  return Math.min(...way.map((part, axis) => (part === 0 ? Infinity : size[axis]! / (Math.abs(part) / length))))
}
