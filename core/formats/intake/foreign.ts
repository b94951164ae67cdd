import type { Document, Node as GltfNode, Primitive as GltfPrimitive, Accessor } from '@gltf-transform/core'
import { Primitive as PrimitiveMode, WebIO } from '@gltf-transform/core'
import type { InstancedMesh } from '@gltf-transform/extensions'
import { EXTMeshGPUInstancing, EXTMeshoptCompression, EXTTextureWebP, KHRDracoMeshCompression, KHRMeshQuantization, KHRTextureTransform } from '@gltf-transform/extensions'
import { Matrix4, Quaternion, Vector3 } from 'three'
import type { Socket } from '../../level/part'
import { socketSchema } from '../../level/part'
import { asName } from '../../units/text'
import { FARTHEST } from '../../level/fields'
import { bakeMesh } from '../../mesh/bake-mesh'
import { mergeMeshes } from '../../mesh/merge-meshes'
import type { Material, Mesh, Primitive } from '../../mesh/mesh'
import { meshBounds, MOST_TRIANGLES } from '../../mesh/mesh'
import type { Picture } from '../../mesh/texture'
import { TEXTURE_SLOTS } from '../../mesh/texture'
import { GlbError, readChunks } from '../glb-chunks'
import { MaterialReader } from '../gltf-mesh'
import { checkBounds } from './bounds'

/** What reads compressed files; without one of them such files are refused. */
export type Decoders = { draco?: unknown, meshopt?: unknown }

/** What of a foreign file can become parts. */
export type Foreign = {
  /** Each named thing at the top of its scene, in the file's own axes and units. */
  tops: { name: string, mesh: Mesh, /** In the same axes and units. */ sockets: Socket[] }[]
  /** By the SHA-256 of their bytes. */
  pictures: ReadonlyMap<string, Picture>
  /** What is left out, or taken otherwise than it was meant, in plain words. */
  notes: string[]
}

const READ = [KHRDracoMeshCompression, EXTMeshoptCompression, KHRMeshQuantization, KHRTextureTransform, EXTTextureWebP, EXTMeshGPUInstancing]
const READ_NAMES = new Set(READ.map(({ EXTENSION_NAME }) => EXTENSION_NAME as string))
const MOST_DESCRIPTION = 64 * 1024 * 1024

/**
 * Reads what somebody else made: a binary glTF file with all that it names in it, as `packFiles` makes it. Animations, skins and
 * shapes to blend to are taken as they stand at rest.
 *
 * @throws GlbError with what is wrong, and where
 */
export async function readForeign(glb: Uint8Array, decoders: Decoders = {}): Promise<Foreign> {
  const { json, binary } = readChunks(glb, MOST_DESCRIPTION)
  checkBounds(json)
  const required = (json as { extensionsRequired?: string[] }).extensionsRequired ?? []
  const strange = required.filter(name => !READ_NAMES.has(name))
  if (strange.length > 0) throw new GlbError(`it cannot be read without ${strange.join(', ')}, which is not supported here`)
  try {
    const io = new WebIO().registerExtensions(READ).registerDependencies({ 'draco3d.decoder': decoders.draco, 'meshopt.decoder': decoders.meshopt })
    const gltf = await io.readJSON({ json: json as never, resources: binary ? { '@glb.bin': binary as Uint8Array<ArrayBuffer> } : {} })
    return new ForeignReader(gltf, json as { extensionsUsed?: string[] }).read()
  }
  catch (error) {
    if (error instanceof GlbError) throw error
    throw new GlbError(`it cannot be read: ${error instanceof Error ? error.message.slice(0, 200) : String(error)}`)
  }
}

class ForeignReader {
  private readonly materials = new MaterialReader()
  private readonly notes = new Set<string>()
  private triangles = 0

  constructor(private readonly gltf: Document, private readonly json: { extensionsUsed?: string[] }) {}

  read(): Foreign {
    this.noteWhatIsLeftOut()
    const tops = this.tops().flatMap((node, i): Foreign['tops'] => {
      const meshes: Mesh[] = []
      node.traverse(below => meshes.push(...this.meshesOf(below)))
      if (meshes.length === 0) return []
      const sockets: Socket[] = []
      node.traverse(below => sockets.push(...socketOf(below)))
      return [{ name: node.getName() || `Thing ${i + 1}`, mesh: mergeMeshes(meshes), sockets: sockets.slice(0, MOST_SOCKETS) }]
    })
    if (tops.length === 0) throw new GlbError('there are no triangles in it')
    if (tops.every(({ mesh }) => meshBounds(mesh).getSize(new Vector3()).length() === 0)) throw new GlbError('it has no size: all of its points are in one place')
    return { tops, pictures: this.materials.pictures, notes: [...this.notes] }
  }

  /** What stands at the top of the scene; within wrappers that hold nothing but one another. */
  private tops(): GltfNode[] {
    const root = this.gltf.getRoot()
    const scene = root.getDefaultScene() ?? root.listScenes()[0]
    let tops = scene ? scene.listChildren() : root.listNodes().filter(node => !node.getParentNode())
    while (tops.length === 1 && !tops[0]!.getMesh() && tops[0]!.listChildren().length > 0) tops = tops[0]!.listChildren()
    return tops
  }

  private meshesOf(node: GltfNode): Mesh[] {
    const mesh = node.getMesh()
    if (!mesh) return []
    const primitives = mesh.listPrimitives().flatMap(primitive => this.readPrimitive(primitive, node) ?? [])
    if (primitives.length === 0) return []
    // A skin stands where its joints say, wherever the node is.
    const places = node.getSkin() ? [new Matrix4()] : placesOf(node)
    return places.flatMap((matrix) => {
      this.count(primitives.reduce((sum, { indices }) => sum + indices.length / 3, 0))
      if (!(Math.abs(matrix.determinant()) > 1e-15)) {
        this.notes.add('Something in it is flattened to nothing by its size, and left out.')
        return []
      }
      return [checked(bakeMesh({ primitives }, matrix), node.getName())]
    })
  }

  private count(triangles: number): void {
    this.triangles += triangles
    if (this.triangles > MOST_TRIANGLES) throw new GlbError(`it has more than ${MOST_TRIANGLES.toLocaleString('en')} triangles, which is more than is taken in here`)
  }

  private readPrimitive(primitive: GltfPrimitive, node: GltfNode): Primitive | null {
    const where = node.getMesh()!.getName() || node.getName() || 'a mesh'
    const position = primitive.getAttribute('POSITION')
    const order = position && trianglesOf(primitive, position.getCount())
    if (!position || !order) {
      this.notes.add('Points and lines in it are left out.')
      return null
    }
    if (order.length < 3) return null
    const count = position.getCount()
    const positions = skinned(primitive, node, floats(position, 3))
    if (positions.some(value => !(Math.abs(value) <= FARTHEST))) throw new GlbError(`${where}: a vertex is nowhere, or too far away`)
    if (order.some(vertex => vertex >= count)) throw new GlbError(`${where}: a triangle names a vertex that is not there`)
    if (primitive.listTargets().length > 0) this.notes.add('Shapes to blend to are left out; it is taken as it is without them.')
    const normals = primitive.getAttribute('NORMAL')
    const uvs = [0, 1].flatMap((set) => {
      const found = primitive.getAttribute(`TEXCOORD_${set}`)
      return found?.getCount() === count ? [floats(found, 2)] : []
    })
    const color = primitive.getAttribute('COLOR_0')
    const given = {
      material: this.materialOf(primitive, uvs.length),
      positions,
      indices: order,
      ...uvs.length > 0 ? { uvs } : {},
      ...color?.getCount() === count ? { colors: withOpacity(floats(color, color.getElementSize()), color.getElementSize()) } : {},
    }
    // Of a skin the normals are worked out anew as well: they would lie as before it was bent.
    if (!normals || normals.getCount() !== count || node.getSkin()) return flat(given)
    return { ...given, normals: upright(floats(normals, 3)) }
  }

  /** Without textures for which there are no coordinates. */
  private materialOf(primitive: GltfPrimitive, sets: number): Material {
    const { textures, ...material } = this.materials.read(primitive.getMaterial())
    const kept = TEXTURE_SLOTS.flatMap(slot => textures?.[slot] && textures[slot].texCoord < sets ? [[slot, textures[slot]] as const] : [])
    if (kept.length < Object.keys(textures ?? {}).length) this.notes.add('A texture is left out, because there are no texture coordinates for it.')
    return kept.length > 0 ? { ...material, textures: Object.fromEntries(kept) } : material
  }

  private noteWhatIsLeftOut(): void {
    const root = this.gltf.getRoot()
    const say = (count: number, one: string, many: string, rest: string) => {
      if (count > 0) this.notes.add(`${count === 1 ? `One ${one}` : `${count} ${many}`} ${rest}`)
    }
    say(root.listAnimations().length, 'animation is', 'animations are', 'left out; things stand as they do at rest.')
    say(root.listSkins().length, 'skin is', 'skins are', 'taken as it stands at rest.')
    say(root.listCameras().length, 'camera is', 'cameras are', 'left out.')
    for (const name of this.json.extensionsUsed ?? []) {
      if (!READ_NAMES.has(name)) this.notes.add(name === 'KHR_lights_punctual' ? 'Lights are left out.' : `${name} is not supported, and left out.`)
    }
  }
}

const MOST_SOCKETS = 64

/**
 * The socket that a node is meant as: its name is `socket_kind` or `socket_kind_name`, or its extras say the kind as `socket`. It
 * points along the node's +Z, with +Y upwards, as things in glTF face.
 */
function socketOf(node: GltfNode): Socket[] {
  const { socket } = node.getExtras()
  const named = /^socket[_ .:-]+([^_.:]+)(?:[_.:]+(.+))?$/i.exec(node.getName())
  const kind = typeof socket === 'string' ? socket : named?.[1]
  if (kind === undefined) return []
  const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()]
  const matrix = new Matrix4().fromArray(node.getWorldMatrix())
  matrix.extractBasis(x, y, z)
  const direction = z.normalize()
  const up = y.addScaledVector(direction, -y.dot(direction)).normalize()
  const given = { name: asName(named?.[2] ?? (node.getName() || kind)), kind: asName(kind), at: new Vector3().setFromMatrixPosition(matrix).toArray(), direction: direction.toArray(), up: up.toArray() }
  const read = socketSchema.safeParse(given)
  return read.success ? [read.data] : []
}

/** Where a node's mesh stands: once, or as often as its instances say. */
function placesOf(node: GltfNode): Matrix4[] {
  const world = new Matrix4().fromArray(node.getWorldMatrix())
  const instances = node.getExtension<InstancedMesh>('EXT_mesh_gpu_instancing')
  if (!instances) return [world]
  const [translations, rotations, scales] = ['TRANSLATION', 'ROTATION', 'SCALE'].map(name => instances.getAttribute(name))
  const count = instances.listAttributes()[0]?.getCount() ?? 0
  const element: number[] = []
  return Array.from({ length: count }, (_, i) => world.clone().multiply(new Matrix4().compose(
    translations ? new Vector3().fromArray(translations.getElement(i, element)) : new Vector3(),
    rotations ? new Quaternion().fromArray(rotations.getElement(i, element)).normalize() : new Quaternion(),
    scales ? new Vector3().fromArray(scales.getElement(i, element)) : new Vector3(1, 1, 1))))
}

/** The vertices of triangles in turn, however they are listed (glTF 2.0, 3.7.2.1); null if they are no triangles. */
function trianglesOf(primitive: GltfPrimitive, count: number): Uint32Array | null {
  const listed = primitive.getIndices()?.getArray()
  const order = listed ? Uint32Array.from(listed) : Uint32Array.from({ length: count }, (_, i) => i)
  const { TRIANGLES, TRIANGLE_STRIP, TRIANGLE_FAN } = PrimitiveMode.Mode
  const mode = primitive.getMode()
  if (mode === TRIANGLES) return order.subarray(0, order.length - order.length % 3)
  if (mode !== TRIANGLE_STRIP && mode !== TRIANGLE_FAN) return null
  const out: number[] = []
  for (let i = 2; i < order.length; i++) {
    if (mode === TRIANGLE_FAN) out.push(order[i - 1]!, order[i]!, order[0]!)
    else out.push(order[i - 2]!, ...i % 2 === 0 ? [order[i - 1]!, order[i]!] : [order[i]!, order[i - 1]!])
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
  return Float32Array.from({ length: colors.length / 3 * 4 }, (_, i) => i % 4 === 3 ? 1 : colors[(i >> 2) * 3 + i % 4]!)
}

/** Normals of unit length; where one is nothing, it points upwards. */
function upright(normals: Float32Array): Float32Array {
  for (let i = 0; i < normals.length; i += 3) {
    const length = Math.hypot(normals[i]!, normals[i + 1]!, normals[i + 2]!)
    if (length > 0 && Number.isFinite(length)) for (let k = 0; k < 3; k++) normals[i + k]! /= length
    else normals.set([0, 1, 0], i)
  }
  return normals
}

/** Each triangle with corners and a normal of its own (glTF 2.0, 3.7.2.1: where there are no normals, they are flat). */
function flat({ positions, indices, uvs, colors, material }: Omit<Primitive, 'normals'>): Primitive {
  const spread = (from: Float32Array | Float64Array, size: number) => {
    const out = new Float32Array(indices.length * size)
    for (let i = 0; i < indices.length; i++) for (let k = 0; k < size; k++) out[i * size + k] = from[indices[i]! * size + k]!
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
    material, positions: corners, normals, indices: Uint32Array.from(indices.keys()),
    ...uvs ? { uvs: uvs.map(uv => spread(uv, 2)) } : {}, ...colors ? { colors: spread(colors, 4) } : {},
  }
}

/** Positions as a skin holds them at rest (glTF 2.0, 3.7.3.3), in the world. */
function skinned(primitive: GltfPrimitive, node: GltfNode, positions: Float32Array): Float32Array {
  const skin = node.getSkin()
  const [joints, weights] = [primitive.getAttribute('JOINTS_0'), primitive.getAttribute('WEIGHTS_0')]
  if (!skin || !joints || !weights || joints.getCount() !== positions.length / 3 || weights.getCount() !== joints.getCount()) return positions
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

function checked(mesh: Mesh, name: string): Mesh {
  for (const { positions } of mesh.primitives) if (positions.some(value => !(Math.abs(value) <= FARTHEST))) throw new GlbError(`${name || 'a node'}: stands nowhere, or too far away`)
  return mesh
}
