import { ExtrudeGeometry, PlaneGeometry, Shape } from 'three'
import type { Mesh } from '../../core/mesh/mesh'
import { chamferedBox } from '../../core/mesh/chamfered-box'
import { MeshBuilder } from '../../core/mesh/mesh-builder'
import { palette } from '../palette'

/** Width of the mortar between setts. */
const JOINT = 0.015

/**
 * 4 x 4 m of paving, 0.4 m thick: sixteen setts, and mortar flush with their tops, so that the grid's lines lie on firm
 * ground.
 */
export function quaySlab(): Mesh {
  const builder = new MeshBuilder().add(palette.masonry, chamferedBox(4, 0.34, 4, 0.005), [0, 0.17, 0])
  for (let row = 0; row < 4; row++) {
    for (let column = 0; column < 4; column++) {
      const worn = (row * 7 + column * 3) % 5 === 0
      builder.add(worn ? palette.pavingWorn : palette.paving, chamferedBox(1 - JOINT, 0.08, 1 - JOINT, 0.008), [
        column - 1.5,
        0.36,
        row - 1.5,
      ])
    }
  }
  const flat = (width: number, depth: number) => new PlaneGeometry(width, depth).rotateX(-Math.PI / 2)
  for (let line = -2; line <= 2; line++) {
    // Half a joint at the slab's edge; the neighbour has the other half.
    const width = Math.abs(line) === 2 ? JOINT / 2 : JOINT
    const at = line * (1 - JOINT / 8)
    builder.add(palette.masonry, flat(4, width), [0, 0.4, Math.abs(line) === 2 ? at : line])
    for (let row = 0; row < 4; row++)
      builder.add(palette.masonry, flat(width, 1 - JOINT), [Math.abs(line) === 2 ? at : line, 0.4, row - 1.5])
  }
  return builder.build()
}

/** 4 m of coping stones along the water, nosed towards +Z. */
export function quayEdge(): Mesh {
  const builder = new MeshBuilder()
  for (let stone = 0; stone < 3; stone++) {
    builder.add(palette.coping, chamferedBox(1.318, 0.4, 0.8, 0.035), [((stone - 1) * 4) / 3, 0.2, 0])
  }
  return builder.build()
}

/** 2 m of kerb in two stones, its face towards +Z. */
export function kerb(): Mesh {
  const builder = new MeshBuilder()
  for (const x of [-0.5, 0.5]) builder.add(palette.coping, chamferedBox(0.994, 0.16, 0.26, 0.025), [x, 0.08, 0])
  return builder.build()
}

/** 4 m of canal wall, 2.4 m high, in four courses set in running bond; the lowest is wet. */
export function canalWall(): Mesh {
  const builder = new MeshBuilder().add(palette.masonryDark, chamferedBox(4, 2.4, 0.44, 0.005), [0, 1.2, -0.08])
  for (let course = 0; course < 4; course++) {
    const stone = course === 0 ? palette.masonryDark : palette.masonry
    const lengths = course % 2 === 0 ? [1, 1, 1, 1] : [0.5, 1, 1, 1, 0.5]
    let x = -2
    for (const length of lengths) {
      builder.add(stone, chamferedBox(length - 0.02, 0.58, 0.3, 0.03), [x + length / 2, 0.3 + course * 0.6, 0.15])
      x += length
    }
  }
  return builder.build()
}

/** A footbridge of one arch, 8 m between its ends along X and 2.6 m wide, its deck rising 0.7 m to the crown. */
export function bridgeSpan(): Mesh {
  const deckAt = (x: number) => 1.3 + 0.7 * Math.cos(((x / 4) * Math.PI) / 2) ** 2
  const profile = (lift: number, top: (x: number) => number) => {
    const shape = new Shape().moveTo(-4, lift)
    for (let i = 0; i <= 16; i++) {
      const x = -4 + i / 2
      shape.lineTo(x, top(x))
    }
    return shape
  }
  const body = profile(0, deckAt).lineTo(4, 0).lineTo(3.2, 0)
  for (let i = 1; i < 14; i++) {
    const angle = (i / 14) * Math.PI
    body.lineTo(3.2 * Math.cos(angle), 1.55 * Math.sin(angle))
  }
  body.lineTo(-3.2, 0)
  const parapet = profile(1.3, x => deckAt(x) + 0.55)
  for (let i = 16; i > 0; i--) parapet.lineTo(-4 + i / 2, deckAt(-4 + i / 2))
  const coping = new Shape()
  for (let i = 0; i <= 16; i++) coping[i === 0 ? 'moveTo' : 'lineTo'](-4 + i / 2, deckAt(-4 + i / 2) + 0.67)
  for (let i = 16; i >= 0; i--) coping.lineTo(-4 + i / 2, deckAt(-4 + i / 2) + 0.55)

  const extrude = (shape: Shape, depth: number) => new ExtrudeGeometry(shape, { depth, bevelEnabled: false })
  const builder = new MeshBuilder().add(palette.masonry, extrude(body, 2.6), [0, 0, -1.3])
  for (const z of [-1.3, 1.06]) {
    builder.add(palette.pavingWorn, extrude(parapet, 0.24), [0, 0, z])
    builder.add(palette.coping, extrude(coping, 0.34), [0, 0, z - 0.05])
  }
  return builder.build()
}

/** Six steps of 0.15 m by 0.32 m, 2.4 m wide; going up towards -Z. */
export function stepsFlight(): Mesh {
  const builder = new MeshBuilder()
  for (let step = 0; step < 6; step++) {
    const height = 0.15 * (step + 1)
    builder.add(palette.masonry, chamferedBox(2.4, height - 0.05, 0.32, 0.005), [0, (height - 0.05) / 2, -0.32 * step])
    builder.add(palette.coping, chamferedBox(2.44, 0.05, 0.35, 0.015), [0, height - 0.025, -0.32 * step + 0.015])
  }
  return builder.build()
}

/** 8 x 8 m of still water. */
export function canalWater(): Mesh {
  return new MeshBuilder().add(palette.water, new PlaneGeometry(8, 8, 1, 1).rotateX(-Math.PI / 2)).build()
}

/** 2 m of iron railing, 1.05 m high, its line along X. */
export function railing(): Mesh {
  const builder = new MeshBuilder()
    .add(palette.iron, chamferedBox(2, 0.06, 0.07, 0.018), [0, 1.02, 0])
    .add(palette.iron, chamferedBox(2, 0.035, 0.035, 0.008), [0, 0.16, 0])
  for (const x of [-0.97, 0, 0.97]) builder.add(palette.iron, chamferedBox(0.06, 1.05, 0.06, 0.014), [x, 0.525, 0])
  for (let bar = 0; bar < 14; bar++) {
    if (bar !== 0) builder.add(palette.iron, chamferedBox(0.02, 0.86, 0.02, 0.004), [-1 + bar / 7 + 0.001, 0.58, 0])
  }
  return builder.build()
}

/** A jetty of nine planks on four posts, 2 m wide and 4 m out along Z, its deck 0.9 m up. */
export function plankJetty(): Mesh {
  const builder = new MeshBuilder()
  for (let plank = 0; plank < 9; plank++) {
    const pale = plank % 3 === 1
    builder.add(pale ? palette.plankPale : palette.plank, chamferedBox(2, 0.07, 0.42, 0.015), [
      0,
      0.865,
      -1.78 + plank * 0.445,
    ])
  }
  for (const x of [-0.75, 0.75]) {
    builder.add(palette.timber, chamferedBox(0.12, 0.14, 3.9, 0.02), [x, 0.76, 0])
    for (const z of [-1.7, 1.7]) builder.add(palette.timber, chamferedBox(0.18, 1.15, 0.18, 0.03), [x * 1.28, 0.575, z])
  }
  return builder.build()
}

/** How high the embankment's grass lies above its bottom, in metres, `x` and `z` counted from its middle. */
export function embankmentHeight(x: number, z: number): number {
  const fall = 0.5 - 0.5 * Math.tanh(z * 0.42)
  const bench = 0.22 * Math.exp(-((z - 1.5) ** 2) / 2.2)
  const folds = 0.16 * Math.sin(x * 0.55) * Math.cos(z * 0.6) + 0.07 * Math.sin(x * 1.3 + z)
  return 0.45 + 2.2 * fall + bench + folds * (0.35 + fall)
}

/**
 * A grassed bank, 24 x 12 m, that falls 2.2 m from its crest at -Z to its foot at +Z with folds and a bench half-way:
 * ground with real differences in height. Closed at the sides and below.
 */
export function embankment(): Mesh {
  const sheet = new PlaneGeometry(24, 12, 32, 16).rotateX(-Math.PI / 2)
  const position = sheet.getAttribute('position')
  for (let i = 0; i < position.count; i++) position.setY(i, embankmentHeight(position.getX(i), position.getZ(i)))
  sheet.computeVertexNormals()
  const builder = new MeshBuilder().add(palette.grass, sheet)

  const side = (along: (t: number) => [number, number], steps: number) => {
    const skirt = new PlaneGeometry(1, 1, steps, 1)
    const corner = skirt.getAttribute('position')
    for (let i = 0; i < corner.count; i++) {
      const [x, z] = along(corner.getX(i) + 0.5)
      corner.setXYZ(i, x, corner.getY(i) > 0 ? embankmentHeight(x, z) : 0, z)
    }
    skirt.computeVertexNormals()
    builder.add(palette.earth, skirt)
  }
  side(t => [-12 + 24 * t, 6], 32)
  side(t => [12 - 24 * t, -6], 32)
  side(t => [12, 6 - 12 * t], 16)
  side(t => [-12, -6 + 12 * t], 16)
  builder.add(palette.earth, new PlaneGeometry(24, 12).rotateX(Math.PI / 2))
  return builder.build()
}
