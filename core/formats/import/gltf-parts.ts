import type { Node as GltfNode } from '@gltf-transform/core'
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
import { GlbError } from '../glb-chunks'
import { lightOf } from './gltf-marks'
import type { Decoders, GltfFile } from './gltf-file'
import { gltfInstances, notesOn, readGltf, topsOf } from './gltf-file'
import { PrimitiveReader } from '../gltf-primitives'
import { withBelow, worldOf } from './true-matrix'

/** What of a foreign file can become parts. */
export type Foreign = {
  /** Each named thing at the top of its scene, in the file's own axes and units. */
  tops: { name: string; mesh: Mesh; /** In the same axes and units. */ sockets: Socket[]; lamps: Lamp[] }[]
  /** By the SHA-256 of their bytes. */
  pictures: ReadonlyMap<string, Picture>
  /** What is left out, or taken otherwise than it was meant, in plain words. */
  notes: string[]
}

/**
 * Reads what somebody else made: a binary glTF file with all that it names in it, as `packFiles` makes it. Animations,
 * skins and shapes to blend to are taken as they stand at rest.
 *
 * @throws GlbError with what is wrong, and where
 */
export async function readForeign(glb: Uint8Array, decoders: Decoders = {}): Promise<Foreign> {
  return readGltf(glb, decoders, file => new ForeignReader(file).read())
}

class ForeignReader {
  private readonly reader = new PrimitiveReader()
  private readonly notes = this.reader.notes

  constructor(private readonly file: GltfFile) {}

  read(): Foreign {
    for (const note of notesOn(this.file, false)) this.notes.add(note)
    const tops = this.tops().flatMap((node, i): Foreign['tops'] => {
      const all = withBelow(node)
      const meshes = all.flatMap(below => this.meshesOf(below))
      if (meshes.length === 0) return []
      const [sockets, lamps] = [all.flatMap(socketOf), all.flatMap(lampOf)]
      if (lamps.length > MOST_LAMPS) this.notes.add(`Of its lights the first ${MOST_LAMPS} are taken as lamps.`)
      return [
        {
          name: node.getName() || `Thing ${i + 1}`,
          mesh: mergeMeshes(meshes),
          sockets: sockets.slice(0, MOST_SOCKETS),
          lamps: lamps.slice(0, MOST_LAMPS),
        },
      ]
    })
    if (tops.length === 0) throw new GlbError('there are no triangles in it')
    if (tops.every(({ mesh }) => meshBounds(mesh).getSize(new Vector3()).length() === 0))
      throw new GlbError('it has no size: all of its points are in one place')
    return { tops, pictures: this.reader.materials.pictures, notes: [...this.notes] }
  }

  /** What stands at the top of the scene; within wrappers that hold nothing but one another. */
  private tops(): GltfNode[] {
    let tops = topsOf(this.file)
    while (tops.length === 1 && !tops[0]!.getMesh() && tops[0]!.listChildren().length > 0)
      tops = tops[0]!.listChildren()
    return tops
  }

  private meshesOf(node: GltfNode): Mesh[] {
    const mesh = node.getMesh()
    const primitives = mesh ? this.reader.primitivesOf(mesh, node) : []
    if (primitives.length === 0) return []
    // A skin stands where its joints say, wherever the node is.
    const places = node.getSkin() ? [new Matrix4()] : placesOf(node)
    return places.flatMap(matrix => {
      this.reader.count(primitives.reduce((sum, { indices }) => sum + indices.length / 3, 0))
      if (!(Math.abs(matrix.determinant()) > 1e-15)) {
        this.notes.add('Something in it is flattened to nothing by its size, and left out.')
        return []
      }
      return [checked(bakeMesh({ primitives }, matrix), node.getName())]
    })
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
 * The socket that a node is meant as: its name is `socket_kind` or `socket_kind_name`, or its extras say the kind as
 * `socket`. It points along the node's +Z, with +Y upwards, as things in glTF face.
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
  const given = {
    name: asName(named?.[2] ?? (node.getName() || kind)),
    kind: asName(kind),
    at: new Vector3().setFromMatrixPosition(matrix).toArray(),
    direction: direction.toArray(),
    up: up.toArray(),
  }
  const read = socketSchema.safeParse(given)
  return read.success ? [read.data] : []
}

/** Where a node's mesh stands in the world: once, or as often as its instances say. */
function placesOf(node: GltfNode): Matrix4[] {
  const world = worldOf(node)
  return gltfInstances(node)?.map(matrix => matrix.premultiply(world)) ?? [world]
}

function checked(mesh: Mesh, name: string): Mesh {
  for (const { positions } of mesh.primitives)
    if (positions.some(value => !(Math.abs(value) <= FARTHEST)))
      throw new GlbError(`${name || 'a node'}: stands nowhere, or too far away`)
  return mesh
}
