import type {
  Accessor,
  Mesh as GltfMesh,
  Node as GltfNode,
  Primitive as GltfPrimitive,
  Skin as GltfSkin,
} from '@gltf-transform/core'
import { Primitive as PrimitiveMode } from '@gltf-transform/core'
import { Matrix4, Vector3 } from 'three'
import { FARTHEST } from '../math/farthest'
import type { Material, Mesh, Primitive } from '../mesh/mesh'
import { MOST_TRIANGLES } from '../mesh/mesh'
import { TEXTURE_SLOTS } from '../mesh/texture'
import { GlbError } from './glb-chunks'
import { MaterialReader } from './gltf-material'

/** Reads the shapes of a glTF file, and gathers their pictures and what has to be said of them. */
export class PrimitiveReader {
  readonly materials = new MaterialReader()
  readonly notes = new Set<string>()
  private triangles = 0

  /** @param most triangles that are taken in */
  constructor(private readonly most = MOST_TRIANGLES) {}

  /**
   * A shape in its own axes; in the world's if it is a skin, which stands where its joints say.
   *
   * @param node that shows it
   */
  primitivesOf(mesh: GltfMesh, node: GltfNode | null): Primitive[] {
    const where = mesh.getName() || node?.getName() || 'a mesh'
    return mesh
      .listPrimitives()
      .flatMap(primitive => this.readPrimitive(primitive, where, node?.getSkin() ?? null) ?? [])
  }

  /** Counts triangles that are taken in. @throws GlbError beyond what is */
  count(triangles: number): void {
    this.triangles += triangles
    if (this.triangles > this.most)
      throw new GlbError(
        `it has more than ${this.most.toLocaleString('en')} triangles, which is more than is taken in here`,
      )
  }

  private readPrimitive(primitive: GltfPrimitive, where: string, skin: GltfSkin | null): Primitive | null {
    const position = primitive.getAttribute('POSITION')
    const order = position && trianglesOf(primitive, position.getCount())
    if (!position || !order) {
      this.notes.add('Points and lines in it are left out.')
      return null
    }
    if (order.length < 3) return null
    const count = position.getCount()
    const positions = skinned(primitive, skin, floats(position, 3))
    if (positions.some(value => !(Math.abs(value) <= FARTHEST)))
      throw new GlbError(`${where}: a vertex is nowhere, or too far away`)
    if (order.some(vertex => vertex >= count))
      throw new GlbError(`${where}: a triangle names a vertex that is not there`)
    if (primitive.listTargets().length > 0)
      this.notes.add('Shapes to blend to are left out; it is taken as it is without them.')
    const normals = primitive.getAttribute('NORMAL')
    const uvs = [0, 1].flatMap(set => {
      const found = primitive.getAttribute(`TEXCOORD_${set}`)
      return found?.getCount() === count ? [floats(found, 2)] : []
    })
    const color = primitive.getAttribute('COLOR_0')
    const given = {
      material: this.materialOf(primitive, uvs.length),
      positions,
      indices: order,
      ...(uvs.length > 0 ? { uvs } : {}),
      ...(color?.getCount() === count
        ? { colors: withOpacity(floats(color, color.getElementSize()), color.getElementSize()) }
        : {}),
    }
    // Of a skin the normals are worked out anew as well: they would lie as before it was bent.
    if (!normals || normals.getCount() !== count || skin) return flat(given)
    return { ...given, normals: upright(floats(normals, 3)) }
  }

  /** Without textures for which there are no coordinates. */
  private materialOf(primitive: GltfPrimitive, sets: number): Material {
    const { textures, ...material } = this.materials.read(primitive.getMaterial())
    const kept = TEXTURE_SLOTS.flatMap(slot =>
      textures?.[slot] && textures[slot].texCoord < sets ? [[slot, textures[slot]] as const] : [],
    )
    if (kept.length < Object.keys(textures ?? {}).length)
      this.notes.add('A texture is left out, because there are no texture coordinates for it.')
    return kept.length > 0 ? { ...material, textures: Object.fromEntries(kept) } : material
  }
}

/**
 * Reads a mesh of a file as it is written here: whole triangles, each corner with a normal, textures with coordinates.
 *
 * @throws GlbError if it is otherwise, or makes no sense
 */
export function readPlainMesh(mesh: GltfMesh, reader: PrimitiveReader): Mesh {
  for (const primitive of mesh.listPrimitives()) demandPlain(primitive)
  const primitives = reader.primitivesOf(mesh, null)
  const [note] = reader.notes
  if (note !== undefined) throw new GlbError(note)
  return { primitives }
}

/** What vertices may have besides their positions, as it is written here and called. */
const BESIDE_POSITIONS = {
  NORMAL: ['VEC3', 'normal'],
  TEXCOORD_0: ['VEC2', 'texture coordinate'],
  TEXCOORD_1: ['VEC2', 'texture coordinate of its second set'],
  COLOR_0: ['VEC4', 'colour'],
} as const

/** @throws GlbError if something of a primitive would have to be made up */
function demandPlain(primitive: GltfPrimitive): void {
  const [position, normal, indices] = [
    primitive.getAttribute('POSITION'),
    primitive.getAttribute('NORMAL'),
    primitive.getIndices(),
  ]
  if (!position || !normal || !indices) throw new GlbError('the mesh needs positions, normals and indices')
  if (primitive.getMode() !== PrimitiveMode.Mode.TRIANGLES) throw new GlbError('the mesh is not made of triangles')
  const count = position.getCount()
  if (position.getType() !== 'VEC3' || count < 1) throw new GlbError('the mesh has no vertices')
  if (indices.getCount() < 3 || indices.getCount() % 3 !== 0) throw new GlbError('the mesh has no whole triangles')
  for (const [name, [type, inWords]] of Object.entries(BESIDE_POSITIONS)) {
    const accessor = primitive.getAttribute(name)
    if (!accessor) continue
    const array = accessor.getArray()
    const isWhole =
      accessor.getType() === type
      && accessor.getCount() === count
      && array instanceof Float32Array
      && array.every(Number.isFinite)
    if (!isWhole) throw new GlbError(`the mesh does not have a ${inWords} for each vertex`)
  }
}

/** The vertices of triangles in turn, however they are listed (glTF 2.0, 3.7.2.1); null if they are no triangles. */
function trianglesOf(primitive: GltfPrimitive, count: number): Uint32Array | null {
  const listed = primitive.getIndices()?.getArray()
  const order = listed ? Uint32Array.from(listed) : Uint32Array.from({ length: count }, (_, i) => i)
  const { TRIANGLES, TRIANGLE_STRIP, TRIANGLE_FAN } = PrimitiveMode.Mode
  const mode = primitive.getMode()
  if (mode === TRIANGLES) return order.subarray(0, order.length - (order.length % 3))
  if (mode !== TRIANGLE_STRIP && mode !== TRIANGLE_FAN) return null
  const out: number[] = []
  for (let i = 2; i < order.length; i++) {
    if (mode === TRIANGLE_FAN) out.push(order[i - 1]!, order[i]!, order[0]!)
    else out.push(order[i - 2]!, ...(i % 2 === 0 ? [order[i - 1]!, order[i]!] : [order[i]!, order[i - 1]!]))
  }
  return Uint32Array.from(out)
}

/** An attribute as plain numbers, whatever it is stored as. */
function floats(accessor: Accessor, size: number): Float32Array {
  const [array, count] = [accessor.getArray(), accessor.getCount()]
  if (array instanceof Float32Array) return array.slice(0, count * size)
  const out = new Float32Array(count * size)
  const element: number[] = []
  for (let i = 0; i < count; i++) out.set(accessor.getElement(i, element).slice(0, size), i * size)
  return out
}

/** Colours with an opacity each, which glTF may leave out. @param size numbers of each */
function withOpacity(colors: Float32Array, size: number): Float32Array {
  if (size === 4) return colors
  return Float32Array.from({ length: (colors.length / 3) * 4 }, (_, i) =>
    i % 4 === 3 ? 1 : colors[(i >> 2) * 3 + (i % 4)]!,
  )
}

/** Normals of unit length; where one is nothing, it points upwards. */
function upright(normals: Float32Array): Float32Array {
  for (let i = 0; i < normals.length; i += 3) {
    const length = Math.hypot(normals[i]!, normals[i + 1]!, normals[i + 2]!)
    // What is of unit length stays as it is, to the last digit.
    if (Math.abs(length - 1) < 1e-4) continue
    if (length > 0 && Number.isFinite(length)) for (let k = 0; k < 3; k++) normals[i + k]! /= length
    else normals.set([0, 1, 0], i)
  }
  return normals
}

/**
 * Each triangle with corners and a normal of its own (glTF 2.0, 3.7.2.1: where there are no normals, they are flat).
 */
function flat({ positions, indices, uvs, colors, material }: Omit<Primitive, 'normals'>): Primitive {
  const spread = (from: Float32Array | Float64Array, size: number) => {
    const out = new Float32Array(indices.length * size)
    for (let i = 0; i < indices.length; i++)
      for (let k = 0; k < size; k++) out[i * size + k] = from[indices[i]! * size + k]!
    return out
  }
  const corners = spread(positions, 3)
  const normals = new Float32Array(corners.length)
  const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()]
  for (let i = 0; i < corners.length; i += 9) {
    a.fromArray(corners, i)
    b.fromArray(corners, i + 3).sub(a)
    c.fromArray(corners, i + 6).sub(a)
    const normal = b.cross(c)
    if (normal.lengthSq() === 0) normal.set(0, 1, 0)
    normal.normalize()
    for (let k = 0; k < 9; k += 3) normal.toArray(normals, i + k)
  }
  return {
    material,
    positions: corners,
    normals,
    indices: Uint32Array.from(indices.keys()),
    ...(uvs ? { uvs: uvs.map(uv => spread(uv, 2)) } : {}),
    ...(colors ? { colors: spread(colors, 4) } : {}),
  }
}

/** Positions as a skin holds them at rest (glTF 2.0, 3.7.3.3), in the world. */
function skinned(primitive: GltfPrimitive, skin: GltfSkin | null, positions: Float32Array): Float32Array {
  const [joints, weights] = [primitive.getAttribute('JOINTS_0'), primitive.getAttribute('WEIGHTS_0')]
  if (
    !skin
    || !joints
    || !weights
    || joints.getCount() !== positions.length / 3
    || weights.getCount() !== joints.getCount()
  )
    return positions
  const inverse = skin.getInverseBindMatrices()
  const matrices = skin.listJoints().map((joint, i) => {
    const matrix = new Matrix4().fromArray(joint.getWorldMatrix())
    return inverse ? matrix.multiply(new Matrix4().fromArray(inverse.getElement(i, []))) : matrix
  })
  const [point, sum, each] = [new Vector3(), new Vector3(), new Vector3()]
  const out = new Float32Array(positions.length)
  for (let i = 0; i < joints.getCount(); i++) {
    const [joint, weight] = [joints.getElement(i, []), weights.getElement(i, [])]
    point.fromArray(positions, i * 3)
    sum.set(0, 0, 0)
    joint.forEach((at, k) => {
      if (weight[k]! > 0 && matrices[at]) sum.addScaledVector(each.copy(point).applyMatrix4(matrices[at]), weight[k]!)
    })
    sum.toArray(out, i * 3)
  }
  return out
}
