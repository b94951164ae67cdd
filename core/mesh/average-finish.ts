import { Triangle, Vector3 } from 'three'
import type { Material, Mesh, Primitive } from './mesh'

const found = new WeakMap<Mesh, Material>()

/**
 * The finish that a mesh has all in all, seen from so far that it is a few pixels: the mean of its finishes by their
 * area, vertices' colours included. One with pictures is taken as it is if it covers most.
 *
 * @param mesh of one triangle at least
 */
export function averageFinish(mesh: Mesh): Material {
  let average = found.get(mesh)
  if (!average) found.set(mesh, (average = averageOf(mesh)))
  return average
}

function averageOf({ primitives }: Mesh): Material {
  const areas = primitives.map(areaOf)
  const all = areas.reduce((sum, area) => sum + area, 0)
  const most = primitives[areas.indexOf(Math.max(...areas))]!.material
  if (most.textures || !(all > 0)) return most
  const mean = (of: (primitive: Primitive) => number) =>
    primitives.reduce((sum, primitive, i) => sum + (of(primitive) * areas[i]!) / all, 0)
  const colorOf = (primitive: Primitive, k: number) => primitive.material.baseColor[k]! * meanColor(primitive, k)
  const opacity = mean(({ material }) => (material.cutoff === undefined ? (material.opacity ?? 1) : 1))
  return {
    name: most.name,
    baseColor: [mean(each => colorOf(each, 0)), mean(each => colorOf(each, 1)), mean(each => colorOf(each, 2))],
    roughness: mean(({ material }) => material.roughness),
    metallic: mean(({ material }) => material.metallic),
    emissive: [
      mean(({ material }) => material.emissive[0]),
      mean(({ material }) => material.emissive[1]),
      mean(({ material }) => material.emissive[2]),
    ],
    // Little that is clear among much that is not is not seen as such.
    ...(opacity < 0.5 ? { opacity } : {}),
  }
}

const [a, b, c, triangle] = [new Vector3(), new Vector3(), new Vector3(), new Triangle()]

/** In square metres. */
function areaOf({ positions, indices }: Primitive): number {
  let sum = 0
  for (let i = 0; i + 2 < indices.length; i += 3) {
    a.fromArray(positions, indices[i]! * 3)
    b.fromArray(positions, indices[i + 1]! * 3)
    c.fromArray(positions, indices[i + 2]! * 3)
    sum += triangle.set(a, b, c).getArea()
  }
  return sum
}

/** The mean of one channel of the vertices' own colours; 1 if they have none. */
function meanColor({ colors }: Primitive, k: number): number {
  if (!colors || colors.length === 0) return 1
  let sum = 0
  for (let i = k; i < colors.length; i += 4) sum += colors[i]!
  return sum / (colors.length / 4)
}
