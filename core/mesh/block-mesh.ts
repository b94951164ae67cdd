import { Vector3 } from 'three'
import type { Material, Mesh } from './mesh'
import type { BlockShape } from './block'

/**
 * The mesh of a block: closed, wound counter-clockwise from outside, its pivot in the middle of its bottom (of a slab:
 * of its top), its front towards +Z. Flat faces have flat normals, round ones smooth.
 */
export function blockMesh(block: BlockShape, material: Material): Mesh {
  const writer = new FaceWriter()
  switch (block.type) {
    case 'box':
      writer.extrude(rectangle(block.depth, 0, block.height), block.width)
      break
    case 'slab':
      writer.extrude(rectangle(block.depth, -block.thickness, 0), block.width)
      break
    case 'wedge':
      writer.extrude(
        [
          [-block.depth / 2, 0],
          [-block.depth / 2, block.height],
          [block.depth / 2, 0],
        ],
        block.width,
      )
      break
    case 'steps':
      writer.extrude(stepsProfile(block.depth, block.height, block.count), block.width)
      break
    case 'cylinder':
      writer.revolve(
        [
          [0, 0],
          [block.radius, 0],
          [block.radius, block.height],
          [0, block.height],
        ],
        block.sides,
      )
      break
    case 'cone':
      writer.revolve(
        [[0, 0], [block.radius, 0], [block.top, block.height], ...(block.top > 0 ? [[0, block.height] as const] : [])],
        block.sides,
      )
      break
    case 'tube': {
      const inner = block.radius - block.wall
      writer.revolve(
        [
          [inner, 0],
          [block.radius, 0],
          [block.radius, block.height],
          [inner, block.height],
          [inner, 0],
        ],
        block.sides,
      )
      break
    }
    case 'ball':
      writer.revolve(arc(0, block.radius, block.radius, -90, 180, Math.ceil(block.sides / 2)), block.sides, true)
      break
    case 'ring':
      writer.revolve(
        arc(block.radius, block.thickness / 2, block.thickness / 2, -180, 360, Math.max(6, Math.ceil(block.sides / 2))),
        block.sides,
        true,
      )
      break
  }
  return { primitives: [{ material, ...writer.arrays() }] }
}

/** A point of a profile: how far from the axis or along the depth, and how high. */
type ProfilePoint = readonly [number, number]

/** From the foot of the back over the top to the foot of the front. */
function rectangle(depth: number, bottom: number, top: number): ProfilePoint[] {
  return [
    [-depth / 2, bottom],
    [-depth / 2, top],
    [depth / 2, top],
    [depth / 2, bottom],
  ]
}

function stepsProfile(depth: number, height: number, count: number): ProfilePoint[] {
  const profile: ProfilePoint[] = [[-depth / 2, 0]]
  for (let step = count; step >= 1; step--) {
    const [front, back] = [depth / 2 - (depth * (step - 1)) / count, depth / 2 - (depth * step) / count]
    profile.push([step === count ? -depth / 2 : back, (height * step) / count], [front, (height * step) / count])
  }
  return [...profile, [depth / 2, 0]]
}

/**
 * Points on a circle about `(out, up)`, from an angle on by another; its end is exactly its beginning if it goes all
 * round.
 */
function arc(out: number, up: number, radius: number, from: number, by: number, pieces: number): ProfilePoint[] {
  return Array.from({ length: pieces + 1 }, (_, i): ProfilePoint => {
    const turn = by === 360 ? i % pieces : i
    const angle = ((from + (by * turn) / pieces) * Math.PI) / 180
    const x = out + radius * Math.cos(angle)
    return [Math.abs(x) < 1e-12 ? 0 : x, up + radius * Math.sin(angle)]
  })
}

class FaceWriter {
  private readonly positions: number[] = []
  private readonly normals: number[] = []
  private readonly indices: number[] = []

  arrays() {
    return {
      positions: Float64Array.from(this.positions),
      normals: Float32Array.from(this.normals),
      indices: Uint32Array.from(this.indices),
    }
  }

  /**
   * A profile in depth and height, drawn out along X to both sides of the middle. All of it can be seen from its first
   * point.
   */
  extrude(profile: readonly ProfilePoint[], width: number): void {
    const side = (x: number) => profile.map(([z, y]) => new Vector3(x, y, z))
    const [left, right] = [side(-width / 2), side(width / 2)]
    this.polygon(left, new Vector3(-1, 0, 0))
    this.polygon(right, new Vector3(1, 0, 0))
    profile.forEach(([z, y], i) => {
      const next = (i + 1) % profile.length
      const [nextZ, nextY] = profile[next]!
      // Going over the top from back to front, outside lies above.
      const normal = new Vector3(0, nextZ - z, y - nextY)
      this.polygon([left[i]!, right[i]!, right[next]!, left[next]!], normal.normalize())
    })
  }

  /**
   * A profile in distance from the axis and height, turned about the vertical; it runs upwards on the outside. Where it
   * begins or ends on the axis, or comes back to its beginning, the shape is closed.
   *
   * @param smooth rounds the profile as well, not only the way around
   */
  revolve(profile: readonly ProfilePoint[], sides: number, smooth = false): void {
    const around = Array.from({ length: sides }, (_, i) => (2 * Math.PI * i) / sides).map(
      angle => [Math.cos(angle), Math.sin(angle)] as const,
    )
    const at = ([out, y]: ProfilePoint, i: number) =>
      new Vector3(out * around[i % sides]![0], y, -out * around[i % sides]![1])
    const turned = ([out, up]: ProfilePoint, i: number) =>
      new Vector3(out * around[i % sides]![0], up, -out * around[i % sides]![1])
    const segmentNormals = profile.slice(1).map(([out, y], k): ProfilePoint => {
      const [fromOut, fromY] = profile[k]!
      const length = Math.hypot(out - fromOut, y - fromY)
      return [(y - fromY) / length, (fromOut - out) / length]
    })
    const closed = profile[0]![0] === profile.at(-1)![0] && profile[0]![1] === profile.at(-1)![1]
    const normalAt = (k: number, segment: number): ProfilePoint => {
      if (!smooth) return segmentNormals[segment]!
      const [before, after] = [
        segmentNormals[k - 1] ?? (closed ? segmentNormals.at(-1)! : null),
        segmentNormals[k] ?? (closed ? segmentNormals[0]! : null),
      ]
      if (!before || !after) return [0, Math.sign((before ?? after)![1])]
      const sum: ProfilePoint = [before[0] + after[0], before[1] + after[1]]
      const length = Math.hypot(...sum)
      return [sum[0] / length, sum[1] / length]
    }
    segmentNormals.forEach((_, k) => {
      const [low, high] = [profile[k]!, profile[k + 1]!]
      const [lowNormal, highNormal] = [normalAt(k, k), normalAt(k + 1, k)]
      for (let i = 0; i < sides; i++) {
        const corners = [
          [at(low, i), turned(lowNormal, i)],
          [at(low, i + 1), turned(lowNormal, i + 1)],
          [at(high, i + 1), turned(highNormal, i + 1)],
          [at(high, i), turned(highNormal, i)],
        ] as const
        // On the axis two corners are one.
        const used = corners.filter((_corner, c) => !(low[0] === 0 && c === 1) && !(high[0] === 0 && c === 3))
        this.fan(
          used.map(([point]) => point),
          used.map(([, normal]) => normal),
        )
      }
    })
  }

  /**
   * A flat polygon, all of it to be seen from its first point, that looks along `normal`, whichever way round its
   * points are given.
   */
  private polygon(points: readonly Vector3[], normal: Vector3): void {
    const [a, b, c] = points as [Vector3, Vector3, Vector3]
    const turns = b.clone().sub(a).cross(c.clone().sub(a)).dot(normal)
    const ordered = turns < 0 ? [a, ...points.slice(1).reverse()] : points
    this.fan(
      ordered,
      ordered.map(() => normal),
    )
  }

  private fan(points: readonly Vector3[], normals: readonly Vector3[]): void {
    const first = this.positions.length / 3
    points.forEach((point, i) => {
      this.positions.push(point.x, point.y, point.z)
      this.normals.push(normals[i]!.x, normals[i]!.y, normals[i]!.z)
    })
    for (let i = 2; i < points.length; i++) this.indices.push(first, first + i - 1, first + i)
  }
}
