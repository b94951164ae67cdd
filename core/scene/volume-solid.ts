import { BoxGeometry } from 'three'
import { MeshBuilder } from '../mesh/mesh-builder'
import { Solid } from '../mesh/solid'

let made: Solid | null = null

/** A box of 1 m each way that stands on the ground: what a volume reaches, under its size. */
export function volumeSolid(): Solid {
  return (made ??= new Solid(
    new MeshBuilder()
      .add(
        { name: 'Volume', baseColor: [1, 1, 1], roughness: 1, metallic: 0, emissive: [0, 0, 0] },
        new BoxGeometry(1, 1, 1),
      )
      .build(),
  ))
}
