import type { Material, Mesh, Primitive } from '../mesh/mesh'
import { compactIndices, singlePositions } from '../mesh/mesh'
import type { Picture, Texture, TextureSlot } from '../mesh/texture'
import type { Encoders, Packing, PositionGrid } from './glb-packing'
import { byteColors, byteNormals, dracoPrimitive, gridOf, gridPositions, instancesInGrid } from './glb-packing'
import { HandOverError } from './out/hand-over-error'
import type { Instances, SceneFile, SceneNode } from './out/scene-file'
import { gltfCamera, gltfLight } from './punctual'

// Writes binary glTF (ISO/IEC 12113:2022, 4.4) as it comes: the description is kept as small pieces of JSON, the binary
// data goes out at once. The general-purpose library was left for this (0.1 s instead of 54 s for 100,000 nodes, and
// never a mesh twice in memory); it still reads what comes in, and the tests read with it what is written here.

/** Takes the binary data in order; what it answers is waited for. */
export type BinarySink = (bytes: Uint8Array) => void | Promise<void>

/** What is written for a picture by its name: the picture itself, or where it lies. */
export type PictureSource = (picture: string) => Picture | string | Promise<Picture | string>

/** A node as the standard has it (glTF 2.0, 5.25). */
type GlbNode = Omit<SceneNode, 'camera' | 'light' | 'instances'> & {
  camera?: number
  children?: number[]
  extensions?: object
}

/** Numbers that can be written, and what the standard calls each kind of them (5.1.3). */
type Numbers = Float32Array | Int8Array | Uint8Array | Uint16Array | Uint32Array
const componentType = (array: Numbers) =>
  array instanceof Float32Array
    ? 5126
    : array instanceof Int8Array
      ? 5120
      : array instanceof Uint8Array
        ? 5121
        : array instanceof Uint16Array
          ? 5123
          : 5125
const [VERTICES, INDICES] = [34962, 34963]
/** Chunks and the whole are counted in 32 bits. */
const LONGEST = 2 ** 32 - 1
const TOO_LONG =
  'A binary glTF file cannot be longer than 4 GB. Hand over a layer or what is picked, copies as instances, or fewer triangles.'

export class GlbFile implements SceneFile {
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
  private readonly roots: number[] = []
  /** By the numbers of the meshes that are counted in one. */
  private readonly grids: (PositionGrid | null)[] = []
  private binaryLength = 0
  /** Of what is written compressed, as long as it is when it is not. */
  private unpackedLength = 0

  /**
   * @param sink takes the binary data, which comes after what `finish` gives
   * @param pictureOf is asked for each picture once
   */
  constructor(
    private readonly sink: BinarySink,
    private readonly pictureOf: PictureSource,
    private readonly packing: Packing = { compression: 'none', quantised: false },
    private readonly encoders: Encoders = {},
  ) {}

  /** Bytes of binary data so far. */
  get bytes(): number {
    return this.binaryLength
  }

  get nodeCount(): number {
    return this.nodes.length
  }

  /** @returns the node's number; below a parent, or at the top of the scene */
  async addNode(parent: number | null, { camera, light, instances, mesh, ...node }: SceneNode): Promise<number> {
    const grid = mesh === undefined ? null : this.grids[mesh]!
    // Positions in a grid need a node of their own to be sized by: what hangs below the thing must not be.
    const isApart = grid !== null && !instances
    const extensions = {
      ...(light
        ? { [LIGHTS]: { light: numberOf(this.lights, JSON.stringify(gltfLight(light.own, light.strength))) } }
        : {}),
      ...(instances ? await this.addInstances(grid ? instancesInGrid(instances, grid) : instances) : {}),
    }
    const number = this.put(parent, {
      ...node,
      ...(mesh === undefined || isApart ? {} : { mesh }),
      ...(camera ? { camera: numberOf(this.cameras, JSON.stringify(gltfCamera(camera))) } : {}),
      ...(Object.keys(extensions).length > 0 ? { extensions } : {}),
    })
    if (isApart)
      this.put(number, {
        name: node.name,
        mesh,
        translation: grid.offset.toArray(),
        scale: [grid.size, grid.size, grid.size],
        extras: { made: 'grid' },
      })
    return number
  }

  private put(parent: number | null, node: GlbNode): number {
    const number = this.nodes.push(node) - 1
    if (parent === null) this.roots.push(number)
    else (this.nodes[parent]!.children ??= []).push(number)
    return number
  }

  /** @returns the mesh's number */
  async addMesh(name: string, mesh: Mesh, extras?: Record<string, unknown>): Promise<number> {
    const { compression, quantised } = this.packing
    const grid = quantised && compression !== 'draco' ? gridOf(mesh) : null
    const primitives = []
    for (const primitive of mesh.primitives) {
      const material = await this.addMaterial(primitive.material)
      primitives.push(
        compression === 'draco'
          ? { ...(await this.addDraco(primitive)), material }
          : {
              attributes: await this.addAttributes(primitive, grid),
              indices: await this.addAccessor('SCALAR', compactIndices(primitive), { target: INDICES }),
              material,
            },
      )
    }
    this.grids.push(grid)
    const known = { ...extras, ...(grid ? { grid: { offset: grid.offset.toArray(), size: grid.size } } : {}) }
    return this.meshes.push({ name, primitives, ...(Object.keys(known).length > 0 ? { extras: known } : {}) }) - 1
  }

  /** Places of instances of one node's mesh (EXT_mesh_gpu_instancing), and which copy each is. */
  private async addInstances({ translations, rotations, scales, copies }: Instances): Promise<object> {
    return this.use('EXT_mesh_gpu_instancing', {
      attributes: {
        TRANSLATION: await this.addAccessor('VEC3', translations),
        ROTATION: await this.addAccessor('VEC4', rotations),
        SCALE: await this.addAccessor('VEC3', scales),
        _COPY: await this.addAccessor('SCALAR', copies),
      },
    })
  }

  /**
   * What comes before the binary data: the file's header, its description, and the header of the data.
   *
   * @param name of the scene
   * @param extras of the scene
   * @throws HandOverError if the file would be longer than 4 GB
   */
  finish(name: string, extras?: Record<string, unknown>): Uint8Array {
    const json = this.describe(name, extras)
    const jsonLength = json.reduce((sum, { length }) => sum + length, 0)
    const padded = jsonLength + ((4 - (jsonLength % 4)) % 4)
    const hasBinary = this.binaryLength > 0
    const length = 12 + 8 + padded + (hasBinary ? 8 + this.binaryLength : 0)
    if (length > LONGEST) throw new HandOverError(TOO_LONG)
    const out = new Uint8Array(length - this.binaryLength)
    const view = new DataView(out.buffer)
    // "glTF", version 2; then a chunk "JSON", padded with spaces, and a chunk "BIN".
    const words = [0x46546c67, 2, length, padded, 0x4e4f534a]
    words.forEach((word, i) => view.setUint32(i * 4, word, true))
    let at = 20
    for (const piece of json) {
      out.set(piece, at)
      at += piece.length
    }
    out.fill(0x20, at, 20 + padded)
    if (hasBinary) {
      view.setUint32(20 + padded, this.binaryLength, true)
      view.setUint32(24 + padded, 0x004e4942, true)
    }
    return out
  }

  /** The description as bytes, piece by piece: one text of all nodes might be longer than a text can be. */
  private describe(name: string, extras: Record<string, unknown> | undefined): Uint8Array[] {
    const pieces: Uint8Array[] = []
    const head: Record<string, unknown> = {
      asset: { version: '2.0', generator: 'Handy Grid' },
      // Who does not know of lights can read the rest.
      ...(this.extensions.size + this.lights.size > 0
        ? { extensionsUsed: [...this.extensions, ...(this.lights.size > 0 ? [LIGHTS] : [])] }
        : {}),
      ...(this.extensions.size > 0 ? { extensionsRequired: [...this.extensions] } : {}),
      scene: 0,
      scenes: [{ name, ...(this.roots.length > 0 ? { nodes: this.roots } : {}), ...(extras ? { extras } : {}) }],
      ...(this.binaryLength > 0
        ? {
            buffers: [
              { byteLength: this.binaryLength },
              ...(this.unpackedLength > 0
                ? [{ byteLength: this.unpackedLength, extensions: { [MESHOPT]: { fallback: true } } }]
                : []),
            ],
          }
        : {}),
    }
    pieces.push(encoder.encode(JSON.stringify(head).slice(0, -1)))
    // The standard allows no empty lists.
    for (const [key, list] of Object.entries({
      cameras: [...this.cameras.keys()],
      images: this.images,
      samplers: this.samplers,
      textures: this.textures,
      materials: [...this.materials.keys()],
      meshes: this.meshes,
      accessors: this.accessors,
      bufferViews: this.views,
      nodes: this.nodes,
    })) {
      if (list.length === 0) continue
      pieces.push(encoder.encode(`,"${key}":[`), ...inPieces(list), encoder.encode(']'))
    }
    if (this.lights.size > 0)
      pieces.push(
        encoder.encode(`,"extensions":{"${LIGHTS}":{"lights":[`),
        ...inPieces([...this.lights.keys()]),
        encoder.encode(']}}'),
      )
    pieces.push(encoder.encode('}'))
    return pieces
  }

  private async addAttributes(primitive: Primitive, grid: PositionGrid | null): Promise<Record<string, number>> {
    const { normals, uvs = [], colors } = primitive
    const attributes: Record<string, number> = {}
    if (grid) {
      this.extensions.add('KHR_mesh_quantization')
      const { array, bounds } = gridPositions(primitive, grid)
      attributes.POSITION = await this.addAccessor('VEC3', array, {
        target: VERTICES,
        bounds,
        perVertex: 4,
        normalized: true,
      })
      attributes.NORMAL = await this.addAccessor('VEC3', byteNormals(primitive), {
        target: VERTICES,
        perVertex: 4,
        normalized: true,
      })
    } else {
      const positions = singlePositions(primitive)
      attributes.POSITION = await this.addAccessor('VEC3', positions, { target: VERTICES, bounds: boundsOf(positions) })
      attributes.NORMAL = await this.addAccessor('VEC3', normals, { target: VERTICES })
    }
    for (const [set, uv] of uvs.entries())
      attributes[`TEXCOORD_${set}`] = await this.addAccessor('VEC2', uv, { target: VERTICES })
    if (colors)
      attributes.COLOR_0 = await this.addAccessor('VEC4', grid ? byteColors(colors) : colors, {
        target: VERTICES,
        ...(grid ? { normalized: true } : {}),
      })
    return attributes
  }

  /** A primitive compressed by Draco; its accessors say what comes out of that (KHR_draco_mesh_compression). */
  private async addDraco(primitive: Primitive): Promise<object> {
    if (!this.encoders.draco) throw new RangeError('Draco is not there')
    const { bytes, attributes: inside } = dracoPrimitive(this.encoders.draco, primitive, this.packing.quantised)
    const count = primitive.positions.length / 3
    const attributes: Record<string, number> = {}
    for (const key of Object.keys(inside)) {
      const type = key.startsWith('TEX') ? 'VEC2' : key.startsWith('COLOR') ? 'VEC4' : 'VEC3'
      attributes[key] =
        this.accessors.push({
          componentType: 5126,
          count,
          type,
          ...(key === 'POSITION' ? boundsOf(singlePositions(primitive)) : {}),
        }) - 1
    }
    return {
      attributes,
      indices:
        this.accessors.push({
          componentType: componentType(compactIndices(primitive)),
          count: primitive.indices.length,
          type: 'SCALAR',
        }) - 1,
      extensions: this.use('KHR_draco_mesh_compression', { bufferView: await this.addView(bytes), attributes: inside }),
    }
  }

  /** Equal finishes are one. */
  private async addMaterial({
    name,
    baseColor,
    opacity,
    cutoff,
    roughness,
    metallic,
    emissive,
    doubleSided,
    textures = {},
  }: Material): Promise<number> {
    const texture = async (slot: TextureSlot, strength?: string) => {
      const used = textures[slot]
      if (!used) return undefined
      const { texCoord, transform } = used
      return {
        index: await this.addTexture(used),
        texCoord,
        ...(strength && used.strength !== undefined ? { [strength]: used.strength } : {}),
        ...(transform ? { extensions: this.use('KHR_texture_transform', transform) } : {}),
      }
    }
    // What is undefined is left out.
    const json = JSON.stringify({
      name,
      pbrMetallicRoughness: {
        baseColorFactor: [...baseColor, opacity ?? 1],
        metallicFactor: metallic,
        roughnessFactor: roughness,
        baseColorTexture: await texture('baseColor'),
        metallicRoughnessTexture: await texture('metallicRoughness'),
      },
      normalTexture: await texture('normal', 'scale'),
      occlusionTexture: await texture('occlusion', 'strength'),
      emissiveTexture: await texture('emissive'),
      emissiveFactor: emissive,
      ...(cutoff !== undefined
        ? { alphaMode: 'MASK', alphaCutoff: cutoff }
        : opacity !== undefined
          ? { alphaMode: 'BLEND' }
          : {}),
      doubleSided,
    })
    return numberOf(this.materials, json)
  }

  private async addTexture({ picture, type, sampler }: Texture): Promise<number> {
    const source = await this.addImage(picture, type)
    return once(
      this.textures,
      JSON.stringify({
        sampler: once(this.samplers, JSON.stringify(sampler)),
        ...(type === 'image/webp' ? { extensions: this.use('EXT_texture_webp', { source }) } : { source }),
      }),
    )
  }

  private async addImage(picture: string, mimeType: string): Promise<number> {
    let image = this.imageOf.get(picture)
    if (image === undefined) {
      const found = await this.pictureOf(picture)
      image =
        this.images.push(
          typeof found === 'string'
            ? { uri: found, mimeType }
            : { bufferView: await this.addView(found.bytes), mimeType },
        ) - 1
      this.imageOf.set(picture, image)
    }
    return image
  }

  /** The `extensions` of something that has one. */
  private use(name: string, extension: object): object {
    this.extensions.add(name)
    return { [name]: extension }
  }

  /** @param perVertex numbers of each, with those that only fill up; as many as the type has when left out */
  private async addAccessor(
    type: keyof typeof COMPONENTS,
    array: Numbers,
    {
      target,
      bounds,
      perVertex,
      normalized,
    }: { target?: number; bounds?: object; perVertex?: number; normalized?: true } = {},
  ): Promise<number> {
    const count = array.length / (perVertex ?? COMPONENTS[type])
    const bytes = new Uint8Array(array.buffer, array.byteOffset, array.byteLength)
    const size = bytes.length / count
    const mode = target === INDICES ? count % 3 === 0 && 'TRIANGLES' : size % 4 === 0 && 'ATTRIBUTES'
    const packed = mode && this.packing.compression === 'meshopt' ? await this.pack(bytes, count, size, mode) : null
    const bufferView =
      mode && packed
        ? await this.addPacked(packed, bytes.length, count, size, mode, target)
        : await this.addView(bytes, target, perVertex && size)
    return (
      this.accessors.push({
        bufferView,
        componentType: componentType(array),
        count,
        type,
        ...(normalized ? { normalized } : {}),
        ...bounds,
      }) - 1
    )
  }

  /** Compressed numbers; null where they would take no less of the file than they do as they are. */
  private async pack(
    bytes: Uint8Array,
    count: number,
    size: number,
    mode: 'ATTRIBUTES' | 'TRIANGLES',
  ): Promise<Uint8Array | null> {
    if (!this.encoders.meshopt) throw new RangeError('meshopt is not there')
    if (bytes.length <= DESCRIPTION) return null
    await this.encoders.meshopt.ready
    const packed = this.encoders.meshopt.encodeGltfBuffer(bytes, count, size, mode)
    return packed.length + DESCRIPTION < bytes.length ? packed : null
  }

  /**
   * Compressed numbers (EXT_meshopt_compression), and where they would lie if they were not.
   *
   * @param length bytes of them as they are
   */
  private async addPacked(
    packed: Uint8Array,
    length: number,
    count: number,
    size: number,
    mode: 'ATTRIBUTES' | 'TRIANGLES',
    target?: number,
  ): Promise<number> {
    const at = await this.write(packed)
    this.views.push({
      buffer: 1,
      byteOffset: this.unpackedLength,
      byteLength: length,
      ...(mode === 'ATTRIBUTES' && target ? { byteStride: size } : {}),
      ...(target ? { target } : {}),
      extensions: this.use(MESHOPT, {
        buffer: 0,
        byteOffset: at,
        byteLength: packed.length,
        byteStride: size,
        mode,
        count,
      }),
    })
    this.unpackedLength += Math.ceil(length / 4) * 4
    return this.views.length - 1
  }

  private async addView(bytes: Uint8Array, target?: number, byteStride?: number): Promise<number> {
    const byteOffset = await this.write(bytes)
    return (
      this.views.push({
        buffer: 0,
        byteOffset,
        byteLength: bytes.length,
        ...(byteStride ? { byteStride } : {}),
        ...(target ? { target } : {}),
      }) - 1
    )
  }

  /** @returns where it begins */
  private async write(bytes: Uint8Array): Promise<number> {
    const at = this.binaryLength
    if (at + bytes.length > LONGEST) throw new HandOverError(TOO_LONG)
    const padding = (4 - (bytes.length % 4)) % 4
    await this.sink(bytes)
    if (padding > 0) await this.sink(new Uint8Array(padding))
    this.binaryLength += bytes.length + padding
    return at
  }
}

const COMPONENTS = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4 }

/** Bytes that it takes to say of numbers how they are compressed. */
const DESCRIPTION = 160
const LIGHTS = 'KHR_lights_punctual'
const MESHOPT = 'EXT_meshopt_compression'
const encoder = new TextEncoder()

/** A list as JSON without its brackets: one text of all of it might be longer than a text can be. */
function inPieces(list: readonly (string | object)[]): Uint8Array[] {
  const pieces: Uint8Array[] = []
  for (let i = 0; i < list.length; i += 1000) {
    const some = list
      .slice(i, i + 1000)
      .map(each => (typeof each === 'string' ? each : JSON.stringify(each)))
      .join(',')
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
function boundsOf(positions: Float32Array): { min: number[]; max: number[] } {
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ]
  for (let i = 0; i < positions.length; i++) {
    min[i % 3] = Math.min(min[i % 3]!, positions[i]!)
    max[i % 3] = Math.max(max[i % 3]!, positions[i]!)
  }
  return { min, max }
}
