import {
  BufferAttribute,
  BufferGeometry,
  CylinderGeometry,
  IcosahedronGeometry,
  LatheGeometry,
  SphereGeometry,
  TorusGeometry,
  Vector2,
} from 'three'
import type { Material, Mesh } from '../../core/mesh/mesh'
import { chamferedBox } from '../../core/mesh/chamfered-box'
import { MeshBuilder } from '../../core/mesh/mesh-builder'
import type { Vec3 } from '../../core/math/vectors'
import { palette } from '../palette'

/** Four posts, 3 x 2 m, with a counter towards +Z and a board below it. */
export function stallFrame(): Mesh {
  const builder = new MeshBuilder()
  for (const x of [-1.45, 1.45]) {
    builder.add(palette.timber, chamferedBox(0.1, 2.2, 0.1, 0.02), [x, 1.1, 0.95])
    builder.add(palette.timber, chamferedBox(0.1, 2.5, 0.1, 0.02), [x, 1.25, -0.95])
    builder.add(palette.timber, chamferedBox(0.08, 0.08, 1.9, 0.015), [x, 0.92, 0])
  }
  builder.add(palette.timber, chamferedBox(3, 0.09, 0.09, 0.018), [0, 2.12, 0.95])
  builder.add(palette.timber, chamferedBox(3, 0.09, 0.09, 0.018), [0, 2.42, -0.95])
  builder.add(palette.plankPale, chamferedBox(3.1, 0.07, 0.95, 0.02), [0, 0.98, 0.62])
  builder.add(palette.plank, chamferedBox(2.86, 0.05, 0.8, 0.015), [0, 0.34, 0.55])
  for (let board = 0; board < 7; board++) {
    builder.add(board % 2 ? palette.plank : palette.plankPale, chamferedBox(0.4, 0.82, 0.05, 0.014), [
      -1.23 + board * 0.41,
      0.53,
      0.98,
    ])
  }
  return builder.build()
}

/** A lean-to awning, 3.4 x 2.5 m, striped, falling towards +Z, with a scalloped edge. */
export function awning(cloth: Material): Mesh {
  const builder = new MeshBuilder()
  const stripes = 8
  const width = 3.4 / stripes
  const [backY, frontY] = [0.72, 0.3]
  for (let stripe = 0; stripe < stripes; stripe++) {
    const material = stripe % 2 === 0 ? cloth : palette.cream
    const x = -1.7 + (stripe + 0.5) * width
    builder.add(material, slopedSheet(width, 2.5, backY, frontY, 0.04), [x, 0, 0])
    builder.add(material, scallop(width, 0.3, 0.03), [x, frontY, 1.25])
  }
  return builder.build()
}

/** A cast post with a glass lantern, 3.2 m high. */
export function lanternPost(): Mesh {
  const post = new LatheGeometry(
    [
      [0, 0],
      [0.2, 0],
      [0.2, 0.1],
      [0.11, 0.22],
      [0.075, 0.4],
      [0.06, 0.9],
      [0.05, 2.45],
      [0.085, 2.5],
      [0.085, 2.56],
      [0.03, 2.62],
    ].map(([r, y]) => new Vector2(r, y)),
    12,
  )
  return new MeshBuilder()
    .add(palette.iron, post)
    .add(palette.iron, chamferedBox(0.28, 0.05, 0.28, 0.015), [0, 2.66, 0])
    .add(palette.glow, new CylinderGeometry(0.17, 0.12, 0.34, 8), [0, 2.85, 0])
    .add(palette.iron, new CylinderGeometry(0.03, 0.24, 0.15, 8), [0, 3.095, 0])
    .add(palette.iron, new SphereGeometry(0.035, 8, 6), [0, 3.185, 0])
    .build()
}

/** A slatted crate, 0.8 m each way. */
export function crate(): Mesh {
  const builder = new MeshBuilder().add(palette.timber, chamferedBox(0.72, 0.72, 0.72, 0.005), [0, 0.4, 0])
  for (const [turn, out] of [
    [0, 0.38],
    [90, 0.38],
    [180, 0.38],
    [270, 0.38],
  ] as const) {
    const angle = (turn * Math.PI) / 180
    const place = (x: number, y: number): Vec3 => [
      x * Math.cos(angle) + out * Math.sin(angle),
      y,
      -x * Math.sin(angle) + out * Math.cos(angle),
    ]
    for (let slat = 0; slat < 4; slat++) {
      builder.add(
        slat % 2 ? palette.plank : palette.plankPale,
        chamferedBox(0.74, 0.175, 0.035, 0.012),
        place(0, 0.115 + slat * 0.19),
        [0, turn, 0],
      )
    }
  }
  for (const x of [-0.365, 0.365]) {
    for (const z of [-0.365, 0.365]) builder.add(palette.timber, chamferedBox(0.07, 0.8, 0.07, 0.015), [x, 0.4, z])
  }
  for (let slat = 0; slat < 4; slat++) {
    builder.add(slat % 2 ? palette.plankPale : palette.plank, chamferedBox(0.175, 0.03, 0.78, 0.01), [
      -0.285 + slat * 0.19,
      0.785,
      0,
    ])
  }
  return builder.build()
}

/** An oak barrel, 0.95 m high and 0.68 m across. */
export function barrel(): Mesh {
  const bulge = (y: number) => 0.26 + 0.08 * Math.cos((((y - 0.475) / 0.475) * Math.PI) / 2)
  const staves = [
    new Vector2(0, 0),
    ...Array.from({ length: 9 }, (_, i) => new Vector2(bulge((i * 0.95) / 8), (i * 0.95) / 8)),
    new Vector2(0.225, 0.95),
    new Vector2(0.225, 0.91),
    new Vector2(0, 0.91),
  ]
  const builder = new MeshBuilder().add(palette.plank, new LatheGeometry(staves, 18))
  for (const y of [0.09, 0.3, 0.65, 0.86]) {
    builder.add(
      palette.hoop,
      new CylinderGeometry(bulge(y + 0.03) + 0.008, bulge(y - 0.03) + 0.008, 0.06, 18, 1, true),
      [0, y, 0],
    )
  }
  return builder.build()
}

/** A wicker basket heaped with fruit, 0.6 m across. */
export function basket(): Mesh {
  const wall = [
    [0, 0],
    [0.2, 0],
    [0.24, 0.12],
    [0.29, 0.28],
    [0.31, 0.3],
    [0.27, 0.3],
    [0, 0.24],
  ].map(([r, y]) => new Vector2(r, y))
  const builder = new MeshBuilder()
    .add(palette.wicker, new LatheGeometry(wall, 14))
    .add(palette.timber, new TorusGeometry(0.3, 0.022, 6, 18).rotateX(Math.PI / 2), [0, 0.3, 0])
  heap(builder, [palette.ochre, palette.red, palette.plum], 0.2, 0.3, 11)
  return builder.build()
}

/** A bench of five slats on two iron stands, 1.8 m long, its back at -Z. */
export function bench(): Mesh {
  const builder = new MeshBuilder()
  for (let slat = 0; slat < 3; slat++)
    builder.add(palette.plank, chamferedBox(1.8, 0.045, 0.13, 0.014), [0, 0.45, 0.16 - slat * 0.15])
  for (let slat = 0; slat < 2; slat++) {
    builder.add(
      palette.plankPale,
      chamferedBox(1.8, 0.12, 0.04, 0.014),
      [0, 0.62 + slat * 0.16, -0.25 - slat * 0.035],
      [-12, 0, 0],
    )
  }
  for (const x of [-0.7, 0.7]) {
    builder.add(palette.iron, chamferedBox(0.06, 0.43, 0.06, 0.014), [x, 0.215, 0.17])
    builder.add(palette.iron, chamferedBox(0.06, 0.9, 0.06, 0.014), [x, 0.44, -0.26], [-8, 0, 0])
    builder.add(palette.iron, chamferedBox(0.06, 0.05, 0.46, 0.012), [x, 0.41, -0.03])
  }
  return builder.build()
}

/** A clinker rowing boat, 3.4 m long, its bow towards +Z. */
export function rowingBoat(): Mesh {
  const stations = 13
  const ribs = 9
  const outline = (inset: number) =>
    Array.from({ length: stations }, (_, s) => {
      const t = s / (stations - 1)
      const z = -1.7 + 3.4 * t
      const beam = Math.max(0.02, (0.66 - inset) * Math.sin(Math.PI * (0.16 + 0.84 * t)) ** 0.6 * (t > 0.98 ? 0.05 : 1))
      const sheer = 0.46 + 0.2 * (2 * t - 1) ** 2 + 0.06 * t
      const keel = 0.02 + inset * 0.8 + 0.24 * Math.max(0, t - 0.72) ** 1.5 * 4
      return Array.from({ length: ribs }, (_, r): Vec3 => {
        const u = (2 * r) / (ribs - 1) - 1
        const x = beam * Math.sign(u) * Math.abs(u) ** 0.8
        return [x, keel + (sheer - inset * 0.2 - keel) * Math.abs(u) ** 2.6, z]
      })
    })
  const builder = new MeshBuilder()
    .add(palette.hull, loft(outline(0), false))
    .add(palette.plankPale, loft(outline(0.05), true))
    .add(palette.timber, transomOf(outline(0)[0]!))
  for (const z of [-0.9, 0.05, 0.85])
    builder.add(palette.plank, chamferedBox(z === 0.05 ? 1.16 : 1.02, 0.045, 0.26, 0.012), [0, 0.36, z])
  const rim = outline(0)
  for (const side of [0, ribs - 1]) {
    for (let s = 0; s + 1 < stations; s++) {
      const a = rim[s]![side]!
      const b = rim[s + 1]![side]!
      const [dx, dy, dz] = [b[0] - a[0], b[1] - a[1], b[2] - a[2]]
      const flat = Math.hypot(dx, dz)
      const turn: Vec3 = [(-Math.atan2(dy, flat) * 180) / Math.PI, (Math.atan2(dx, dz) * 180) / Math.PI, 0]
      builder.add(
        palette.timber,
        chamferedBox(0.07, 0.06, Math.hypot(flat, dy) + 0.03, 0.012).rotateX((turn[0] * Math.PI) / 180),
        [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2],
        [0, turn[1], 0],
      )
    }
  }
  return builder.build()
}

/** A timber planter, 1.2 x 0.5 m, full of flowers and leaves. */
export function planter(): Mesh {
  const builder = new MeshBuilder()
    .add(palette.timber, chamferedBox(1.12, 0.42, 0.42, 0.01), [0, 0.25, 0])
    .add(palette.soil, chamferedBox(1.06, 0.04, 0.36, 0.005), [0, 0.46, 0])
    .add(palette.plankPale, chamferedBox(1.2, 0.06, 0.07, 0.018), [0, 0.46, 0.215])
    .add(palette.plankPale, chamferedBox(1.2, 0.06, 0.07, 0.018), [0, 0.46, -0.215])
  for (const x of [-0.565, 0.565]) {
    builder.add(palette.plankPale, chamferedBox(0.07, 0.06, 0.5, 0.018), [x, 0.46, 0])
    for (const z of [-0.19, 0.19]) builder.add(palette.timber, chamferedBox(0.09, 0.5, 0.09, 0.018), [x, 0.25, z])
  }
  for (let board = 0; board < 3; board++) {
    for (const z of [-0.22, 0.22])
      builder.add(palette.plank, chamferedBox(1.02, 0.12, 0.03, 0.01), [0, 0.11 + board * 0.135, z])
  }
  const flowers = [palette.red, palette.ochre, palette.plum, palette.red]
  for (let tuft = 0; tuft < 7; tuft++) {
    const x = -0.45 + tuft * 0.15
    const z = tuft % 2 ? 0.07 : -0.07
    builder.add(
      tuft % 2 ? palette.leaf : palette.leafDark,
      new IcosahedronGeometry(0.14, 0),
      [x, 0.55 + (tuft % 3) * 0.03, z],
      [tuft * 40, tuft * 70, 0],
    )
    builder.add(
      flowers[tuft % 4]!,
      new IcosahedronGeometry(0.055, 0),
      [x + 0.03, 0.69 + (tuft % 3) * 0.03, z * 1.4],
      [tuft * 25, 0, 0],
    )
  }
  return builder.build()
}

/** A framed glass screen against the wind, 2 m wide and 1.6 m high. */
export function glassScreen(): Mesh {
  const builder = new MeshBuilder()
    .add(palette.glass, chamferedBox(1.9, 1.36, 0.02, 0.004), [0, 0.85, 0])
    .add(palette.iron, chamferedBox(2, 0.06, 0.07, 0.015), [0, 1.57, 0])
    .add(palette.iron, chamferedBox(2, 0.06, 0.07, 0.015), [0, 0.15, 0])
  for (const x of [-0.97, 0.97]) {
    builder.add(palette.iron, chamferedBox(0.06, 1.6, 0.07, 0.015), [x, 0.8, 0])
    builder.add(palette.iron, chamferedBox(0.08, 0.05, 0.5, 0.015), [x, 0.025, 0])
  }
  return builder.build()
}

/** A terracotta-coloured round platform, 4.9 m across and 0.4 m high, with a step: the bandstand's floor. */
export function bandstand(): Mesh {
  return new MeshBuilder()
    .add(palette.coping, new CylinderGeometry(2.4, 2.44, 0.2, 40), [0, 0.1, 0])
    .add(palette.clay, new CylinderGeometry(2, 2, 0.19, 40), [0, 0.295, 0])
    .add(palette.coping, new TorusGeometry(2, 0.045, 6, 40).rotateX(Math.PI / 2), [0, 0.375, 0])
    .build()
}

/** Round fruit in a spiral heap. */
function heap(builder: MeshBuilder, materials: Material[], radius: number, y: number, count: number): void {
  for (let i = 0; i < count; i++) {
    const out = radius * Math.sqrt(1 - i / count)
    const angle = i * 2.39996
    builder.add(materials[i % materials.length]!, new IcosahedronGeometry(0.075, 1), [
      out * Math.cos(angle),
      y + (0.1 * i) / count,
      out * Math.sin(angle),
    ])
  }
}

/** A sheet of cloth with thickness, falling from the back to the front. */
function slopedSheet(width: number, depth: number, backY: number, frontY: number, thickness: number): BufferGeometry {
  const angle = Math.atan2(backY - frontY, depth)
  const length = Math.hypot(depth, backY - frontY)
  return chamferedBox(width, thickness, length, 0.008)
    .rotateX(angle)
    .translate(0, (backY + frontY) / 2, 0)
}

/** A rounded tongue of cloth hanging from its top edge. */
function scallop(width: number, drop: number, thickness: number): BufferGeometry {
  return new CylinderGeometry(width / 2, width / 2, thickness, 12, 1, false, -Math.PI / 2, Math.PI)
    .rotateX(Math.PI / 2)
    .scale(1, drop / (width / 2), 1)
}

/** The skin through rows of points; `inside` turns it over. */
function loft(rows: Vec3[][], inside: boolean): BufferGeometry {
  const columns = rows[0]!.length
  const indices: number[] = []
  for (let s = 0; s + 1 < rows.length; s++) {
    for (let r = 0; r + 1 < columns; r++) {
      const a = s * columns + r
      const [b, c, d] = [a + 1, a + columns, a + columns + 1]
      indices.push(...(inside ? [a, c, b, b, c, d] : [a, b, c, b, d, c]))
    }
  }
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(Float32Array.from(rows.flat(2)), 3))
  geometry.setIndex(indices)
  geometry.computeVertexNormals()
  return geometry
}

/** The flat stern that closes a boat's first row of points. */
function transomOf(row: Vec3[]): BufferGeometry {
  const points = row.flat()
  const normals = row.flatMap(() => [0, 0, -1])
  const indices: number[] = []
  for (let i = 1; i + 1 < row.length; i++) indices.push(0, i + 1, i, 0, i, i + 1)
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(Float32Array.from(points), 3))
  geometry.setAttribute('normal', new BufferAttribute(Float32Array.from(normals), 3))
  geometry.setIndex(indices)
  return geometry
}
