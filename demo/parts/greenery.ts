import { ConeGeometry, CylinderGeometry, IcosahedronGeometry, SphereGeometry } from 'three'
import type { Material, Mesh } from '../../core/mesh/mesh'
import { MeshBuilder } from '../../core/mesh/mesh-builder'
import { palette } from '../palette'

/** A blade of three sides, its foot at the origin. */
const blade = (width: number, height: number) => new ConeGeometry(width, height, 3, 1, true).translate(0, height / 2, 0)

/** Five reeds of up to 1.3 m, three of them with a brown head. */
export function reed(): Mesh {
  const builder = new MeshBuilder()
  for (let i = 0; i < 5; i++) {
    const [x, z] = [0.09 * Math.cos(i * 2.4), 0.09 * Math.sin(i * 2.4)]
    const height = 0.85 + i * 0.11
    builder.add(palette.leafDark, blade(0.014, height), [x, 0, z], [4 * Math.cos(i), 0, 5 * Math.sin(i * 3)])
    if (i > 1) builder.add(palette.timber, new CylinderGeometry(0.022, 0.022, 0.14, 5), [x, height * 0.9, z])
  }
  return builder.build()
}

/** A tuft of nine blades, 0.3 m high. */
export function grassTuft(): Mesh {
  const builder = new MeshBuilder()
  for (let i = 0; i < 9; i++) {
    const angle = i * 2.4
    builder.add(
      i % 3 === 0 ? palette.leafDark : palette.leaf,
      blade(0.018, 0.2 + (i % 4) * 0.035),
      [0.05 * Math.cos(angle), 0, 0.05 * Math.sin(angle)],
      [18 * Math.sin(angle), 0, -18 * Math.cos(angle)],
    )
  }
  return builder.build()
}

/** A flower on a stem: petals around a middle. */
function flower(petals: Material, many: number, height: number, size: number): Mesh {
  const builder = new MeshBuilder()
    .add(palette.leaf, blade(0.01, height))
    .add(palette.leaf, blade(0.03, height * 0.45), [0.02, 0, 0], [0, 0, -28])
  for (let i = 0; i < many; i++) {
    const angle = (i * 2 * Math.PI) / many
    builder.add(petals, new SphereGeometry(size * 0.42, 4, 2).scale(1, 0.35, 0.7).rotateY(-angle), [
      size * 0.55 * Math.cos(angle),
      height,
      size * 0.55 * Math.sin(angle),
    ])
  }
  return builder.add(palette.ochre, new SphereGeometry(size * 0.28, 5, 3), [0, height + size * 0.08, 0]).build()
}

export const meadowStar = () => flower(palette.cream, 6, 0.28, 0.07)
export const plumBell = () => flower(palette.plum, 5, 0.4, 0.055)

/** A stone of the field, 0.5 m wide, worn round. */
export function fieldStone(): Mesh {
  const ball = new IcosahedronGeometry(0.25, 1)
  const position = ball.getAttribute('position')
  for (let i = 0; i < position.count; i++) {
    const [x, y, z] = [position.getX(i), position.getY(i), position.getZ(i)]
    const bump = 1 + 0.12 * Math.sin(13 * x + 5 * z) + 0.1 * Math.sin(17 * z - 9 * y)
    position.setXYZ(i, x * bump, y * bump * 0.62, z * bump * 0.85)
  }
  ball.computeVertexNormals()
  return new MeshBuilder().add(palette.masonry, ball).build()
}

/** A fallen leaf, curled a little, 0.14 m long. */
export function fallenLeaf(color: Material): Mesh {
  return new MeshBuilder().add(color, new SphereGeometry(0.07, 6, 2).scale(1, 0.16, 0.55)).build()
}
