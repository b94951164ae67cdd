import type { Document, Node as GltfNode } from '@gltf-transform/core'
import { WebIO } from '@gltf-transform/core'
import type { InstancedMesh } from '@gltf-transform/extensions'
import { EXTMeshGPUInstancing, EXTMeshoptCompression, EXTTextureWebP, KHRDracoMeshCompression, KHRLightsPunctual, KHRMeshQuantization, KHRTextureTransform } from '@gltf-transform/extensions'
import { Matrix4, Quaternion, Vector3 } from 'three'
import type { Lamp, Socket } from '../../level/part'
import { lampSchema, MOST_LAMPS, socketSchema } from '../../level/part'
import { asName } from '../../units/text'
import { FARTHEST } from '../../math/farthest'
import { bakeMesh } from '../../mesh/bake-mesh'
import { mergeMeshes } from '../../mesh/merge-meshes'
import type { Mesh } from '../../mesh/mesh'
import { meshBounds } from '../../mesh/mesh'
import type { Picture } from '../../mesh/texture'
import { GlbError, readChunks } from '../glb-chunks'
import { lightOf } from './gltf-marks'
import { checkBounds } from './bounds'
import { PrimitiveReader } from './primitives'
import { keepSkewed, withBelow, worldOf } from './true-matrix'

/** What reads compressed files; without one of them such files are refused. */
export type Decoders = { draco?: unknown, meshopt?: unknown }

/** What of a foreign file can become parts. */
export type Foreign = {
  /** Each named thing at the top of its scene, in the file's own axes and units. */
  tops: { name: string, mesh: Mesh, /** In the same axes and units. */ sockets: Socket[], lamps: Lamp[] }[]
  /** By the SHA-256 of their bytes. */
  pictures: ReadonlyMap<string, Picture>
  /** What is left out, or taken otherwise than it was meant, in plain words. */
  notes: string[]
}

const READ = [KHRDracoMeshCompression, EXTMeshoptCompression, KHRMeshQuantization, KHRTextureTransform, EXTTextureWebP, EXTMeshGPUInstancing, KHRLightsPunctual]
const READ_NAMES = new Set(READ.map(({ EXTENSION_NAME }) => EXTENSION_NAME as string))
/** Bytes of a file's description. */
export const MOST_DESCRIPTION = 64 * 1024 * 1024

/**
 * Reads what somebody else made: a binary glTF file with all that it names in it, as `packFiles` makes it. Animations, skins and
 * shapes to blend to are taken as they stand at rest.
 *
 * @throws GlbError with what is wrong, and where
 */
export async function readForeign(glb: Uint8Array, decoders: Decoders = {}): Promise<Foreign> {
  return readGltf(glb, decoders, (gltf, json) => new ForeignReader(gltf, json).read())
}

/** Opens a binary glTF file of any maker. @throws GlbError whatever goes wrong while it is read */
export async function readGltf<T>(glb: Uint8Array, decoders: Decoders, read: (gltf: Document, json: { extensionsUsed?: string[] }) => T | Promise<T>): Promise<T> {
  const { json, binary } = readChunks(glb, MOST_DESCRIPTION)
  checkBounds(json)
  const required = (json as { extensionsRequired?: string[] }).extensionsRequired ?? []
  const strange = required.filter(name => !READ_NAMES.has(name))
  if (strange.length > 0) throw new GlbError(`it cannot be read without ${strange.join(', ')}, which is not supported here`)
  try {
    const io = new WebIO().registerExtensions(READ).registerDependencies({ 'draco3d.decoder': decoders.draco, 'meshopt.decoder': decoders.meshopt })
    const gltf = await io.readJSON({ json: json as never, resources: binary ? { '@glb.bin': binary as Uint8Array<ArrayBuffer> } : {} })
    keepSkewed(gltf, json)
    return await read(gltf, json as { extensionsUsed?: string[] })
  }
  catch (error) {
    if (error instanceof GlbError) throw error
    throw new GlbError(`it cannot be read: ${error instanceof Error ? error.message.slice(0, 200) : String(error)}`)
  }
}

class ForeignReader {
  private readonly reader = new PrimitiveReader()
  private readonly notes = this.reader.notes

  constructor(private readonly gltf: Document, private readonly json: { extensionsUsed?: string[] }) {}

  read(): Foreign {
    this.noteWhatIsLeftOut()
    const tops = this.tops().flatMap((node, i): Foreign['tops'] => {
      const all = withBelow(node)
      const meshes = all.flatMap(below => this.meshesOf(below))
      if (meshes.length === 0) return []
      const [sockets, lamps] = [all.flatMap(socketOf), all.flatMap(lampOf)]
      if (lamps.length > MOST_LAMPS) this.notes.add(`Of its lights the first ${MOST_LAMPS} are taken as lamps.`)
      return [{ name: node.getName() || `Thing ${i + 1}`, mesh: mergeMeshes(meshes), sockets: sockets.slice(0, MOST_SOCKETS), lamps: lamps.slice(0, MOST_LAMPS) }]
    })
    if (tops.length === 0) throw new GlbError('there are no triangles in it')
    if (tops.every(({ mesh }) => meshBounds(mesh).getSize(new Vector3()).length() === 0)) throw new GlbError('it has no size: all of its points are in one place')
    return { tops, pictures: this.reader.materials.pictures, notes: [...this.notes] }
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
    const primitives = mesh ? this.reader.primitivesOf(mesh, node) : []
    if (primitives.length === 0) return []
    // A skin stands where its joints say, wherever the node is.
    const places = node.getSkin() ? [new Matrix4()] : placesOf(node)
    return places.flatMap((matrix) => {
      this.reader.count(primitives.reduce((sum, { indices }) => sum + indices.length / 3, 0))
      if (!(Math.abs(matrix.determinant()) > 1e-15)) {
        this.notes.add('Something in it is flattened to nothing by its size, and left out.')
        return []
      }
      return [checked(bakeMesh({ primitives }, matrix), node.getName())]
    })
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
      if (!READ_NAMES.has(name)) this.notes.add(`${name} is not supported, and left out.`)
    }
  }
}

const MOST_SOCKETS = 64

/** The lamp that a node is, if a light shines from it; a sun belongs to no thing. */
function lampOf(node: GltfNode): Lamp[] {
  const light = lightOf(node)
  if (!light || light.light === 'sun') return []
  const [at, rotation] = [new Vector3(), new Quaternion()]
  worldOf(node).decompose(at, rotation, new Vector3())
  const lamp = lampSchema.safeParse({ at: at.toArray(), rotation: rotation.normalize().toArray(), light })
  return lamp.success ? [lamp.data] : []
}

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
  const matrix = worldOf(node)
  matrix.extractBasis(x, y, z)
  const direction = z.normalize()
  const up = y.addScaledVector(direction, -y.dot(direction)).normalize()
  const given = { name: asName(named?.[2] ?? (node.getName() || kind)), kind: asName(kind), at: new Vector3().setFromMatrixPosition(matrix).toArray(), direction: direction.toArray(), up: up.toArray() }
  const read = socketSchema.safeParse(given)
  return read.success ? [read.data] : []
}

/** Where a node's mesh stands in the world: once, or as often as its instances say. */
function placesOf(node: GltfNode): Matrix4[] {
  const world = worldOf(node)
  return instancesOf(node)?.map(matrix => matrix.premultiply(world)) ?? [world]
}

/** Instances of one node that are taken in. */
const MOST_INSTANCES = 200_000

/** Where the instances of a node's mesh stand in the node's axes; null if it has none. @throws GlbError for too many */
export function instancesOf(node: GltfNode): Matrix4[] | null {
  const instances = node.getExtension<InstancedMesh>('EXT_mesh_gpu_instancing')
  if (!instances) return null
  const [translations, rotations, scales] = ['TRANSLATION', 'ROTATION', 'SCALE'].map(name => instances.getAttribute(name))
  const count = instances.listAttributes()[0]?.getCount() ?? 0
  if (count > MOST_INSTANCES) throw new GlbError(`${node.getName() || 'a node'}: has more than the ${MOST_INSTANCES.toLocaleString('en')} instances that are taken in`)
  const element: number[] = []
  return Array.from({ length: count }, (_, i) => new Matrix4().compose(
    translations ? new Vector3().fromArray(translations.getElement(i, element)) : new Vector3(),
    rotations ? new Quaternion().fromArray(rotations.getElement(i, element)).normalize() : new Quaternion(),
    scales ? new Vector3().fromArray(scales.getElement(i, element)) : new Vector3(1, 1, 1)))
}

function checked(mesh: Mesh, name: string): Mesh {
  for (const { positions } of mesh.primitives) if (positions.some(value => !(Math.abs(value) <= FARTHEST))) throw new GlbError(`${name || 'a node'}: stands nowhere, or too far away`)
  return mesh
}
