import type { Document, Node as GltfNode, Scene } from '@gltf-transform/core'
import { WebIO } from '@gltf-transform/core'
import type { InstancedMesh } from '@gltf-transform/extensions'
import {
  EXTMeshGPUInstancing,
  EXTMeshoptCompression,
  EXTTextureWebP,
  KHRDracoMeshCompression,
  KHRLightsPunctual,
  KHRMeshQuantization,
  KHRTextureTransform,
} from '@gltf-transform/extensions'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { GlbError, readChunks } from '../glb-chunks'
import { checkBounds } from './bounds'
import { keepSkewed } from './true-matrix'

/** What reads compressed files; without one of them such files are refused. */
export type Decoders = { draco?: unknown; meshopt?: unknown }

/** What anybody's binary glTF file says, and which extensions it says it uses. */
export type GltfFile = { gltf: Document; extensionsUsed: readonly string[] }

const READ = [
  KHRDracoMeshCompression,
  EXTMeshoptCompression,
  KHRMeshQuantization,
  KHRTextureTransform,
  EXTTextureWebP,
  EXTMeshGPUInstancing,
  KHRLightsPunctual,
]
const READ_NAMES = new Set(READ.map(({ EXTENSION_NAME }) => EXTENSION_NAME as string))
/** Bytes of a file's description. */
export const MOST_DESCRIPTION = 64 * 1024 * 1024
/** Instances of one node that are taken in. */
const MOST_INSTANCES = 200_000

/** Opens a binary glTF file of any maker. @throws GlbError whatever goes wrong while it is read */
export async function readGltf<T>(
  glb: Uint8Array,
  decoders: Decoders,
  read: (file: GltfFile) => T | Promise<T>,
): Promise<T> {
  const { json, binary } = readChunks(glb, MOST_DESCRIPTION)
  checkBounds(json)
  const { extensionsRequired = [], extensionsUsed = [] } = json as {
    extensionsRequired?: string[]
    extensionsUsed?: string[]
  }
  const strange = extensionsRequired.filter(name => !READ_NAMES.has(name))
  if (strange.length > 0)
    throw new GlbError(`it cannot be read without ${strange.join(', ')}, which is not supported here`)
  try {
    const io = new WebIO()
      .registerExtensions(READ)
      .registerDependencies({ 'draco3d.decoder': decoders.draco, 'meshopt.decoder': decoders.meshopt })
    const gltf = await io.readJSON({
      json: json as never,
      resources: binary ? { '@glb.bin': binary as Uint8Array<ArrayBuffer> } : {},
    })
    keepSkewed(gltf, json)
    return await read({ gltf, extensionsUsed })
  } catch (error) {
    if (error instanceof GlbError) throw error
    throw new GlbError(`it cannot be read: ${error instanceof Error ? error.message.slice(0, 200) : String(error)}`)
  }
}

/** What stands at the top of the scene that a file shows first. */
export function topsOf(file: GltfFile): GltfNode[] {
  return (
    sceneOf(file)?.listChildren()
    ?? file.gltf
      .getRoot()
      .listNodes()
      .filter(node => !node.getParentNode())
  )
}

/** The scene that a file shows first. */
export function sceneOf({ gltf }: GltfFile): Scene | null {
  const root = gltf.getRoot()
  return root.getDefaultScene() ?? root.listScenes()[0] ?? null
}

/**
 * What of a file is left out or taken otherwise than it was meant, whatever is made of it.
 *
 * @param cameras whether those are taken, with perspective
 */
export function notesOn({ gltf, extensionsUsed }: GltfFile, cameras: boolean): string[] {
  const root = gltf.getRoot()
  const notes: string[] = []
  const say = (count: number, one: string, many: string) => {
    if (count > 0) notes.push(count === 1 ? `One ${one}` : `${count.toLocaleString('en')} ${many}`)
  }
  const atRest = 'left out; things stand as they do at rest.'
  say(root.listAnimations().length, `animation is ${atRest}`, `animations are ${atRest}`)
  say(root.listSkins().length, 'skin is taken as it stands at rest.', 'skins are taken as they stand at rest.')
  if (root.listScenes().length > 1)
    notes.push(`Of its ${root.listScenes().length} scenes the one it shows first is taken.`)
  if (!cameras) say(root.listCameras().length, 'camera is left out.', 'cameras are left out.')
  else if (root.listCameras().some(camera => camera.getType() !== 'perspective'))
    notes.push('Cameras without perspective are left out.')
  for (const name of extensionsUsed) if (!READ_NAMES.has(name)) notes.push(`${name} is not supported, and left out.`)
  return notes
}

/**
 * Where the instances of a node's mesh stand in the node's axes (EXT_mesh_gpu_instancing); null if it has none.
 *
 * @throws GlbError for too many
 */
export function gltfInstances(node: GltfNode): Matrix4[] | null {
  const instances = node.getExtension<InstancedMesh>('EXT_mesh_gpu_instancing')
  if (!instances) return null
  const [translations, rotations, scales] = ['TRANSLATION', 'ROTATION', 'SCALE'].map(name =>
    instances.getAttribute(name),
  )
  const count = instances.listAttributes()[0]?.getCount() ?? 0
  if (count > MOST_INSTANCES)
    throw new GlbError(
      `${node.getName() || 'a node'}: has more than the ${MOST_INSTANCES.toLocaleString('en')} instances that are taken in`,
    )
  const element: number[] = []
  return Array.from({ length: count }, (_, i) =>
    new Matrix4().compose(
      translations ? new Vector3().fromArray(translations.getElement(i, element)) : new Vector3(),
      rotations ? new Quaternion().fromArray(rotations.getElement(i, element)).normalize() : new Quaternion(),
      scales ? new Vector3().fromArray(scales.getElement(i, element)) : new Vector3(1, 1, 1),
    ),
  )
}
