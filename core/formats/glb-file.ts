import type { Material, Mesh, Primitive } from '../mesh/mesh'
import { compactIndices, singlePositions } from '../mesh/mesh'
import type { Picture, Texture, TextureSlot } from '../mesh/texture'

// Writes binary glTF (ISO/IEC 12113:2022, 4.4) as it comes: the description is kept as small pieces of JSON, the binary data goes
// out at once. The general-purpose library was left for this (0.1 s instead of 54 s for 100,000 nodes, and never a mesh twice in
// memory); it still reads what comes in, and the tests read with it what is written here.

/** Takes the binary data in order; what it answers is waited for. */
export type BinarySink = (bytes: Uint8Array) => void | Promise<void>

/** What is written for a picture by its name: the picture itself, or where it lies. */
export type PictureSource = (picture: string) => Picture | string | Promise<Picture | string>

export type GlbNode = {
  name?: string
  translation?: readonly number[]
  rotation?: readonly number[]
  scale?: readonly number[]
  mesh?: number
  camera?: number
  children?: number[]
  extras?: object
  extensions?: object
}

const FLOAT = 5126
const [USHORT, UINT] = [5123, 5125]
const [VERTICES, INDICES] = [34962, 34963]
/** Chunks and the whole are counted in 32 bits. */
const LONGEST = 2 ** 32 - 1

export class GlbFile {
  private readonly materials = new Map<string, number>()
  private readonly images: object[] = []
  private readonly samplers: string[] = []
  private readonly textures: string[] = []
  private readonly imageOf = new Map<string, number>()
  private readonly extensions = new Set<string>()
  private readonly cameras = new Map<string, number>()
  private readonly lights = new Map<string, number>()
  private readonly meshes: object[] = []
  private readonly accessors: object[] = []
  private readonly views: object[] = []
  private readonly nodes: GlbNode[] = []
  private binaryLength = 0

  /** @param pictureOf is asked for each picture once */
  constructor(private readonly sink: BinarySink, private readonly pictureOf: PictureSource) {}

  /** Bytes of binary data so far. */
  get binaryBytes(): number {
    return this.binaryLength
  }

  get nodeCount(): number {
    return this.nodes.length
  }

  /** @returns the node's number; its children may be added until the file is finished */
  addNode(node: GlbNode): number {
    return this.nodes.push(node) - 1
  }

  addChild(parent: number, child: number): void {
    (this.nodes[parent]!.children ??= []).push(child)
  }

  /** @returns the camera's number; equal ones are one */
  addCamera(camera: object): number {
    return numberOf(this.cameras, JSON.stringify(camera))
  }

  /** @param light in the terms of KHR_lights_punctual @returns the extension of the node that it shines from; equal ones are one */
  addLight(light: object): object {
    return { [LIGHTS]: { light: numberOf(this.lights, JSON.stringify(light)) } }
  }

  /** @returns the mesh's number */
  async addMesh(name: string, mesh: Mesh): Promise<number> {
    const primitives = []
    for (const primitive of mesh.primitives) {
      primitives.push({
        attributes: await this.addAttributes(primitive),
        indices: await this.addAccessor('SCALAR', compactIndices(primitive), INDICES),
        material: await this.addMaterial(primitive.material),
      })
    }
    return this.meshes.push({ name, primitives }) - 1
  }

  /**
   * Places of instances of one node's mesh (EXT_mesh_gpu_instancing).
   *
   * @param translations three numbers each; `rotations` four, `scales` three
   * @returns the node's extension
   */
  async addInstances(translations: Float32Array, rotations: Float32Array, scales: Float32Array): Promise<object> {
    this.extensions.add('EXT_mesh_gpu_instancing')
    return { EXT_mesh_gpu_instancing: { attributes: {
      TRANSLATION: await this.addAccessor('VEC3', translations),
      ROTATION: await this.addAccessor('VEC4', rotations),
      SCALE: await this.addAccessor('VEC3', scales),
    } } }
  }

  /**
   * What comes before the binary data: the file's header, its description, and the header of the data.
   *
   * @param name of the scene
   * @param roots numbers of the nodes at its top
   * @throws RangeError if the file would be longer than 4 GB
   */
  finish(name: string, roots: readonly number[]): Uint8Array {
    const json = this.describe(name, roots)
    const jsonLength = json.reduce((sum, { length }) => sum + length, 0)
    const padded = jsonLength + (4 - jsonLength % 4) % 4
    const hasBinary = this.binaryLength > 0
    const length = 12 + 8 + padded + (hasBinary ? 8 + this.binaryLength : 0)
    if (length > LONGEST) throw new RangeError('a binary glTF file cannot be longer than 4 GB')
    const out = new Uint8Array(length - this.binaryLength)
    const view = new DataView(out.buffer)
    // "glTF", version 2; then a chunk "JSON", padded with spaces, and a chunk "BIN".
    const words = [0x46546C67, 2, length, padded, 0x4E4F534A]
    words.forEach((word, i) => view.setUint32(i * 4, word, true))
    let at = 20
    for (const piece of json) {
      out.set(piece, at)
      at += piece.length
    }
    out.fill(0x20, at, 20 + padded)
    if (hasBinary) {
      view.setUint32(20 + padded, this.binaryLength, true)
      view.setUint32(24 + padded, 0x004E4942, true)
    }
    return out
  }

  /** The description as bytes, piece by piece: one text of all nodes might be longer than a text can be. */
  private describe(name: string, roots: readonly number[]): Uint8Array[] {
    const pieces: Uint8Array[] = []
    const head: Record<string, unknown> = {
      asset: { version: '2.0', generator: 'Handy Grid' },
      // Who does not know of lights can read the rest.
      ...this.extensions.size + this.lights.size > 0 ? { extensionsUsed: [...this.extensions, ...this.lights.size > 0 ? [LIGHTS] : []] } : {},
      ...this.extensions.size > 0 ? { extensionsRequired: [...this.extensions] } : {},
      scene: 0,
      scenes: [{ name, ...roots.length > 0 ? { nodes: roots } : {} }],
      ...this.binaryLength > 0 ? { buffers: [{ byteLength: this.binaryLength }] } : {},
    }
    pieces.push(encoder.encode(JSON.stringify(head).slice(0, -1)))
    // The standard allows no empty lists.
    for (const [key, list] of Object.entries({ cameras: [...this.cameras.keys()], images: this.images, samplers: this.samplers, textures: this.textures, materials: [...this.materials.keys()], meshes: this.meshes, accessors: this.accessors, bufferViews: this.views, nodes: this.nodes })) {
      if (list.length === 0) continue
      pieces.push(encoder.encode(`,"${key}":[`), ...inPieces(list), encoder.encode(']'))
    }
    if (this.lights.size > 0) pieces.push(encoder.encode(`,"extensions":{"${LIGHTS}":{"lights":[`), ...inPieces([...this.lights.keys()]), encoder.encode(']}}'))
    pieces.push(encoder.encode('}'))
    return pieces
  }

  private async addAttributes(primitive: Primitive): Promise<Record<string, number>> {
    const { normals, uvs = [], colors } = primitive
    const positions = singlePositions(primitive)
    const attributes: Record<string, number> = {
      POSITION: await this.addAccessor('VEC3', positions, VERTICES, boundsOf(positions)),
      NORMAL: await this.addAccessor('VEC3', normals, VERTICES),
    }
    for (const [set, uv] of uvs.entries()) attributes[`TEXCOORD_${set}`] = await this.addAccessor('VEC2', uv, VERTICES)
    if (colors) attributes.COLOR_0 = await this.addAccessor('VEC4', colors, VERTICES)
    return attributes
  }

  /** Equal finishes are one. */
  private async addMaterial({ name, baseColor, opacity, cutoff, roughness, metallic, emissive, doubleSided, textures = {} }: Material): Promise<number> {
    const texture = async (slot: TextureSlot, strength?: string) => {
      const used = textures[slot]
      if (!used) return undefined
      const { texCoord, transform } = used
      return {
        index: await this.addTexture(used), texCoord,
        ...strength && used.strength !== undefined ? { [strength]: used.strength } : {},
        ...transform ? { extensions: this.use('KHR_texture_transform', transform) } : {},
      }
    }
    // What is undefined is left out.
    const json = JSON.stringify({
      name,
      pbrMetallicRoughness: {
        baseColorFactor: [...baseColor, opacity ?? 1], metallicFactor: metallic, roughnessFactor: roughness,
        baseColorTexture: await texture('baseColor'), metallicRoughnessTexture: await texture('metallicRoughness'),
      },
      normalTexture: await texture('normal', 'scale'),
      occlusionTexture: await texture('occlusion', 'strength'),
      emissiveTexture: await texture('emissive'),
      emissiveFactor: emissive,
      ...cutoff !== undefined ? { alphaMode: 'MASK', alphaCutoff: cutoff } : opacity !== undefined ? { alphaMode: 'BLEND' } : {},
      doubleSided,
    })
    return numberOf(this.materials, json)
  }

  private async addTexture({ picture, type, sampler }: Texture): Promise<number> {
    const source = await this.addImage(picture, type)
    return once(this.textures, JSON.stringify({
      sampler: once(this.samplers, JSON.stringify(sampler)),
      ...type === 'image/webp' ? { extensions: this.use('EXT_texture_webp', { source }) } : { source },
    }))
  }

  private async addImage(picture: string, mimeType: string): Promise<number> {
    let image = this.imageOf.get(picture)
    if (image === undefined) {
      const found = await this.pictureOf(picture)
      image = this.images.push(typeof found === 'string' ? { uri: found, mimeType } : { bufferView: await this.addView(found.bytes), mimeType }) - 1
      this.imageOf.set(picture, image)
    }
    return image
  }

  /** The `extensions` of something that has one. */
  private use(name: string, extension: object): object {
    this.extensions.add(name)
    return { [name]: extension }
  }

  private async addAccessor(type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', array: Float32Array | Uint16Array | Uint32Array, target?: number, bounds?: object): Promise<number> {
    const bufferView = await this.addView(new Uint8Array(array.buffer, array.byteOffset, array.byteLength), target)
    const componentType = array instanceof Float32Array ? FLOAT : array instanceof Uint16Array ? USHORT : UINT
    return this.accessors.push({ bufferView, componentType, count: array.length / COMPONENTS[type], type, ...bounds }) - 1
  }

  private async addView(bytes: Uint8Array, target?: number): Promise<number> {
    this.views.push({ buffer: 0, byteOffset: this.binaryLength, byteLength: bytes.length, ...target ? { target } : {} })
    const padding = (4 - bytes.length % 4) % 4
    await this.sink(bytes)
    if (padding > 0) await this.sink(new Uint8Array(padding))
    this.binaryLength += bytes.length + padding
    return this.views.length - 1
  }
}

const COMPONENTS = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 }

const LIGHTS = 'KHR_lights_punctual'
const encoder = new TextEncoder()

/** A list as JSON without its brackets: one text of all of it might be longer than a text can be. */
function inPieces(list: readonly (string | object)[]): Uint8Array[] {
  const pieces: Uint8Array[] = []
  for (let i = 0; i < list.length; i += 1000) {
    const some = list.slice(i, i + 1000).map(each => typeof each === 'string' ? each : JSON.stringify(each)).join(',')
    pieces.push(encoder.encode(`${i === 0 ? '' : ','}${some}`))
  }
  return pieces
}

/** The number of a text, which is the next one if it is new. */
function numberOf(known: Map<string, number>, text: string): number {
  const number = known.get(text)
  if (number !== undefined) return number
  known.set(text, known.size)
  return known.size - 1
}

/** The place of a text in a list, where it is put if it is not there yet. */
function once(list: string[], text: string): number {
  const at = list.indexOf(text)
  return at < 0 ? list.push(text) - 1 : at
}

/** The smallest and the largest of each coordinate, which the standard wants of positions. */
function boundsOf(positions: Float32Array): { min: number[], max: number[] } {
  const [min, max] = [[Infinity, Infinity, Infinity], [-Infinity, -Infinity, -Infinity]]
  for (let i = 0; i < positions.length; i++) {
    min[i % 3] = Math.min(min[i % 3]!, positions[i]!)
    max[i % 3] = Math.max(max[i % 3]!, positions[i]!)
  }
  return { min, max }
}
