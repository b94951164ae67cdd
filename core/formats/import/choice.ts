import { Vector3 } from 'three'
import type { Mesh } from '../../mesh/mesh'
import { meshBounds, picturesOf, triangleCount } from '../../mesh/mesh'
import { mergeMeshes } from '../../mesh/merge-meshes'
import { reduceMesh } from '../../mesh/reduce'
import type { Lamp, Socket } from '../../level/part'
import { MOST_LAMPS } from '../../level/part'
import type { Picture, Texture, TextureSlot } from '../../mesh/texture'
import type { Vec3 } from '../../math/vectors'
import type { Foreign } from './gltf-parts'
import type { Standing } from './standing'
import { stand } from './standing'

/** What a person chooses when something is brought in. */
export type ImportChoice = Standing & {
  /** All of it as one part; else each thing at its top as one. */
  whole: boolean
  /** Triangles that each part may have; as many as it has if null. */
  triangles: number | null
  /** Pixels that the longer side of a texture may have; as many as it has if null. */
  pixels: number | null
}

/** A part as it would be brought in. */
export type ImportedPart = {
  name: string
  mesh: Mesh
  sockets: Socket[]
  lamps: Lamp[]
  /** Metres along its axes. */
  size: Vec3
  triangles: { before: number; after: number }
  /** How far the surface may lie from the one of the file, in metres. */
  error: number
}

/**
 * What would be brought in by a choice.
 *
 * @param smaller gives a picture whose longer side has at most so many pixels; the same one if it has
 */
export async function chosenParts(
  { tops, pictures }: Foreign,
  choice: ImportChoice,
  smaller: (name: string, picture: Picture, pixels: number) => Promise<{ name: string; picture: Picture }>,
): Promise<{ parts: ImportedPart[]; pictures: Map<string, Picture> }> {
  const shown = choice.whole
    ? [
        {
          name: tops[0]!.name,
          mesh: mergeMeshes(tops.map(({ mesh }) => mesh)),
          sockets: tops.flatMap(top => top.sockets),
          lamps: tops.flatMap(top => top.lamps).slice(0, MOST_LAMPS),
        },
      ]
    : tops
  const parts: ImportedPart[] = []
  const used = new Map<string, Picture>()
  for (const { name, mesh, sockets: given, lamps: shining } of shown) {
    const before = triangleCount(mesh)
    const { mesh: standing, sockets, lamps } = stand(mesh, choice, given, shining)
    const { mesh: reduced, error } =
      choice.triangles === null ? { mesh: standing, error: 0 } : await reduceMesh(standing, choice.triangles)
    const renamed = new Map<string, Pick<Texture, 'picture' | 'type'>>()
    for (const each of picturesOf(reduced)) {
      const picture = pictures.get(each)!
      const made = choice.pixels === null ? { name: each, picture } : await smaller(each, picture, choice.pixels)
      used.set(made.name, made.picture)
      renamed.set(each, { picture: made.name, type: made.picture.type })
    }
    const box = meshBounds(reduced).getSize(new Vector3())
    parts.push({
      name,
      sockets,
      lamps,
      mesh: withPictures(reduced, renamed),
      size: box.toArray(),
      triangles: { before, after: triangleCount(reduced) },
      error,
    })
  }
  return { parts, pictures: used }
}

function withPictures(mesh: Mesh, renamed: ReadonlyMap<string, Pick<Texture, 'picture' | 'type'>>): Mesh {
  if (renamed.size === 0) return mesh
  return {
    primitives: mesh.primitives.map(primitive => {
      const { textures } = primitive.material
      if (!textures) return primitive
      const changed = Object.entries(textures).map(([slot, texture]) => [
        slot as TextureSlot,
        { ...texture, ...renamed.get(texture.picture) },
      ])
      return { ...primitive, material: { ...primitive.material, textures: Object.fromEntries(changed) } }
    }),
  }
}
