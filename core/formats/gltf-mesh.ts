import type { Document, Mesh as GltfMesh, Material as GltfMaterial } from '@gltf-transform/core'
import { Primitive as GltfPrimitive } from '@gltf-transform/core'
import type { Material, Mesh, Primitive } from '../mesh/mesh'
import { compactIndices, singlePositions } from '../mesh/mesh'
import { FARTHEST } from '../level/fields'
import { GlbError } from './glb-intake'

/** Writes one glTF material for each distinct finish of a file. */
export class MaterialWriter {
  private readonly made = new Map<string, GltfMaterial>()

  constructor(private readonly gltf: Document) {}

  get(material: Material): GltfMaterial {
    const key = JSON.stringify(material)
    let found = this.made.get(key)
    if (!found) {
      found = this.gltf.createMaterial(material.name)
        .setBaseColorFactor([...material.baseColor, material.opacity ?? 1])
        .setAlphaMode(material.opacity === undefined ? 'OPAQUE' : 'BLEND')
        .setRoughnessFactor(material.roughness)
        .setMetallicFactor(material.metallic)
        .setEmissiveFactor([...material.emissive])
      this.made.set(key, found)
    }
    return found
  }
}

/** Writes a mesh into a glTF file that has one buffer. */
export function writeMesh(gltf: Document, name: string, mesh: Mesh, materials: MaterialWriter): GltfMesh {
  const buffer = gltf.getRoot().listBuffers()[0] ?? gltf.createBuffer()
  const target = gltf.createMesh(name)
  for (const primitive of mesh.primitives) {
    const accessor = (type: 'VEC3' | 'SCALAR', array: Float32Array | Uint16Array | Uint32Array) =>
      gltf.createAccessor().setType(type).setArray(array as Float32Array<ArrayBuffer>).setBuffer(buffer)
    target.addPrimitive(gltf.createPrimitive()
      .setMaterial(materials.get(primitive.material))
      .setAttribute('POSITION', accessor('VEC3', singlePositions(primitive)))
      .setAttribute('NORMAL', accessor('VEC3', primitive.normals))
      .setIndices(accessor('SCALAR', compactIndices(primitive))))
  }
  return target
}

/**
 * Reads a glTF mesh of triangles.
 * @throws GlbError if a primitive has no positions, normals or indices that make sense
 */
export function readMesh(mesh: GltfMesh): Mesh {
  return { primitives: mesh.listPrimitives().map(readPrimitive) }
}

function readPrimitive(primitive: GltfPrimitive): Primitive {
  const positions = primitive.getAttribute('POSITION')?.getArray()
  const normals = primitive.getAttribute('NORMAL')?.getArray()
  const indices = primitive.getIndices()?.getArray()
  if (!positions || !normals || !indices) throw new GlbError('the mesh needs positions, normals and indices')
  if (primitive.getMode() !== GltfPrimitive.Mode.TRIANGLES) throw new GlbError('the mesh is not made of triangles')
  const count = positions.length / 3
  if (primitive.getAttribute('POSITION')!.getType() !== 'VEC3' || count < 1) throw new GlbError('the mesh has no vertices')
  if (positions.some(value => !(Math.abs(value) <= FARTHEST))) throw new GlbError('the mesh has a vertex that is nowhere, or too far away')
  if (normals.length !== positions.length || normals.some(value => !Number.isFinite(value))) throw new GlbError('the mesh does not have a normal for each vertex')
  if (indices.length < 3 || indices.length % 3 !== 0) throw new GlbError('the mesh has no whole triangles')
  if (indices.some(index => index >= count)) throw new GlbError('a triangle names a vertex that is not there')
  return {
    material: readMaterial(primitive.getMaterial()),
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    indices: Uint32Array.from(indices),
  }
}

function readMaterial(material: GltfMaterial | null): Material {
  if (!material) return { name: 'Plain', baseColor: [1, 1, 1], roughness: 1, metallic: 1, emissive: [0, 0, 0] }
  const [r, g, b, alpha] = material.getBaseColorFactor()
  return {
    name: material.getName(),
    baseColor: [r, g, b],
    roughness: material.getRoughnessFactor(),
    metallic: material.getMetallicFactor(),
    emissive: material.getEmissiveFactor(),
    ...material.getAlphaMode() === 'BLEND' ? { opacity: alpha } : {},
  }
}
