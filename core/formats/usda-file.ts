import { Color, Matrix4, Quaternion, Vector3 } from 'three'
import type { CameraOwn } from '../level/kinds/camera'
import type { LightOwn } from '../level/kinds/light'
import type { Material, Mesh, Primitive } from '../mesh/mesh'
import { meshBounds } from '../mesh/mesh'
import type { Texture, TextureSlot } from '../mesh/texture'
import { TEXTURE_SLOTS, WRAPPING } from '../mesh/texture'
import type { Instances, SceneFile, SceneNode } from './out/scene-file'

// Writes the text form of Universal Scene Description (the AOUSD Core Specification's text format, with the schemas
// UsdGeom, UsdShade, UsdPreviewSurface and UsdLux). Meshes go out at once, each below a class that nodes refer to; the
// tree comes last.

/** Takes the text in order; what it answers is waited for. */
export type TextSink = (text: string) => void | Promise<void>

const PARTS = '/Parts'
const LEVEL = '/Level'
const encoder = new TextEncoder()

/** Names of siblings that are taken, and the number by which the next of each is told apart. */
type Names = Map<string, number>

type Prim = {
  text: string
  /** Follows the text, in pieces. */ copies: Iterable<string>
  path: string
  children: number[]
  names: Names
}

export class UsdaFile implements SceneFile {
  /** The pictures that its textures show: by their names, where they are looked for. */
  readonly pictures = new Map<string, string>()
  bytes = 0
  private readonly prims: Prim[] = []
  private readonly roots: number[] = []
  private readonly rootNames: Names = new Map()
  private readonly meshes: string[] = []
  private readonly partNames: Names = new Map()
  private begun = false

  /** @param pathOf where the picture of a texture will lie, seen from the file */
  constructor(
    private readonly sink: TextSink,
    private readonly name: string,
    private readonly pathOf: (texture: Texture) => string,
  ) {}

  get nodeCount(): number {
    return this.prims.length
  }

  async addNode(parent: number | null, node: SceneNode): Promise<number> {
    const siblings = parent === null ? this.rootNames : this.prims[parent]!.names
    const called = identifier(node.name, siblings)
    const path = `${parent === null ? LEVEL : this.prims[parent]!.path}/${called}`
    const number =
      this.prims.push({
        text: this.describe(node, called),
        copies:
          node.instances && node.mesh !== undefined ? instanceText(node.instances, path, this.meshes[node.mesh]!) : [],
        path,
        children: [],
        names: new Map(['Shape', 'Prototypes', 'Light'].map(name => [name, 2])),
      }) - 1
    if (parent === null) this.roots.push(number)
    else this.prims[parent]!.children.push(number)
    return number
  }

  async addMesh(name: string, mesh: Mesh): Promise<number> {
    if (!this.begun) await this.begin()
    const called = identifier(name, this.partNames)
    const path = `${PARTS}/${called}`
    await this.write(`    def Xform "${called}" ${metadata({ displayName: quoted(name) })}\n    {\n`)
    const looks = new Map<string, string>()
    const texts: string[] = []
    for (const { material } of mesh.primitives) {
      const key = JSON.stringify(material)
      if (looks.has(key)) continue
      const look = `${path}/Looks/M${looks.size}`
      looks.set(key, look)
      texts.push(this.lookOf(material, look))
    }
    await this.write(`        def Scope "Looks"\n        {\n${texts.join('')}        }\n`)
    for (const [i, primitive] of mesh.primitives.entries()) {
      for (const text of meshText(primitive, `Mesh${i}`, looks.get(JSON.stringify(primitive.material))!))
        await this.write(text)
    }
    await this.write('    }\n')
    return this.meshes.push(path) - 1
  }

  /** Writes the tree, and ends the file. */
  async finish(): Promise<void> {
    if (!this.begun) await this.begin()
    await this.write(`}\n\ndef Xform "Level" ${metadata({ displayName: quoted(this.name), kind: '"assembly"' })}\n{\n`)
    // By a list and not by calls, however deep it is. A null ends the prim before.
    const waiting: (number | null)[] = this.roots.toReversed()
    while (waiting.length > 0) {
      const at = waiting.pop()!
      if (at === null) {
        await this.write('}\n')
        continue
      }
      const { text, copies, children } = this.prims[at]!
      await this.write(text)
      for (const piece of copies) await this.write(piece)
      waiting.push(null, ...children.toReversed())
    }
    await this.write('}\n')
  }

  private async begin(): Promise<void> {
    this.begun = true
    await this.write(
      `#usda 1.0\n(\n    defaultPrim = "Level"\n    doc = "Handy Grid"\n    metersPerUnit = 1\n    upAxis = "Y"\n)\n\nclass Scope "Parts"\n{\n`,
    )
  }

  private async write(text: string): Promise<void> {
    this.bytes += encoder.encode(text).length
    await this.sink(text)
  }

  /** The beginning of a node's prim, up to its children. */
  private describe(node: SceneNode, called: string): string {
    const { name, extras, mesh, instances, camera, light } = node
    const { handyGrid: _record, ...said } = extras ?? {}
    const customData =
      Object.keys(said).length > 0 ? { customData: `{\nstring extras = ${quoted(JSON.stringify(said))}\n}` } : {}
    const type = instances ? 'PointInstancer' : camera ? 'Camera' : 'Xform'
    const lines = [
      `def ${type} "${called}" ${metadata({ displayName: quoted(name), ...customData } as Record<string, string>)}`,
      '{',
      ...transformLines(node),
    ]
    if (camera) lines.push(...cameraLines(camera))
    if (light) lines.push(...lightLines(light.own, light.strength))
    if (mesh !== undefined && !instances)
      lines.push(
        `def Xform "Shape" ${metadata({ 'instanceable': 'true', 'prepend references': `<${this.meshes[mesh]!}>` })}`,
        '{',
        '}',
      )
    return `${lines.join('\n')}\n`
  }

  /** A finish as UsdPreviewSurface. */
  private lookOf(material: Material, path: string): string {
    const { name, baseColor, opacity, cutoff, roughness, metallic, emissive, textures = {} } = material
    const shaders: string[] = []
    const readers = new Map(uvSets(material).map((set, i) => [setKey(set), `St${i}`]))
    for (const reader of readers.values()) {
      shaders.push(
        `def Shader "${reader}"\n{\nuniform token info:id = "UsdPrimvarReader_float2"\nstring inputs:varname = "${reader.toLowerCase()}"\nfloat2 outputs:result\n}`,
      )
    }
    const connect = (slot: TextureSlot, scale: readonly number[], bias?: readonly number[]): string | null => {
      const texture = textures[slot]
      if (!texture) return null
      const file = this.pathOf(texture)
      this.pictures.set(texture.picture, file)
      const called = slot[0]!.toUpperCase() + slot.slice(1)
      const wrap = (mode: number) =>
        mode === WRAPPING.clamp ? 'clamp' : mode === WRAPPING.mirror ? 'mirror' : 'repeat'
      shaders.push(
        [
          `def Shader "${called}"`,
          '{',
          'uniform token info:id = "UsdUVTexture"',
          `asset inputs:file = @${file}@`,
          `float2 inputs:st.connect = <${path}/${readers.get(setKey(texture))!}.outputs:result>`,
          `token inputs:wrapS = "${wrap(texture.sampler.wrapS)}"`,
          `token inputs:wrapT = "${wrap(texture.sampler.wrapT)}"`,
          `token inputs:sourceColorSpace = "${slot === 'baseColor' || slot === 'emissive' ? 'sRGB' : 'raw'}"`,
          `float4 inputs:scale = (${list(scale)})`,
          ...(bias ? [`float4 inputs:bias = (${list(bias)})`] : []),
          'float3 outputs:rgb',
          'float outputs:r',
          'float outputs:g',
          'float outputs:b',
          'float outputs:a',
          '}',
        ].join('\n'),
      )
      return `${path}/${called}`
    }
    const input = (type: string, key: string, value: string, from: string | null, output: string) =>
      from ? `${type} inputs:${key}.connect = <${from}.outputs:${output}>` : `${type} inputs:${key} = ${value}`
    const base = connect('baseColor', [...baseColor, opacity ?? 1])
    const rough = connect('metallicRoughness', [1, roughness, metallic, 1])
    const glow = connect('emissive', [...emissive, 1])
    const strength = textures.normal?.strength ?? 1
    const bumps = connect('normal', [2 * strength, 2 * strength, 2, 1], [-strength, -strength, -1, 0])
    const shade = connect('occlusion', [1, 1, 1, 1])
    const isClear = opacity !== undefined || cutoff !== undefined
    return [
      `def Material "${path.split('/').at(-1)}" ${metadata({ displayName: quoted(name) })}`,
      '{',
      `token outputs:surface.connect = <${path}/Surface.outputs:surface>`,
      'def Shader "Surface"',
      '{',
      'uniform token info:id = "UsdPreviewSurface"',
      input('color3f', 'diffuseColor', `(${list(baseColor)})`, base, 'rgb'),
      input('float', 'roughness', String(roughness), rough, 'g'),
      input('float', 'metallic', String(metallic), rough, 'b'),
      input('color3f', 'emissiveColor', `(${list(emissive)})`, glow, 'rgb'),
      ...(isClear ? [input('float', 'opacity', String(opacity ?? 1), base, 'a')] : []),
      ...(cutoff !== undefined ? [`float inputs:opacityThreshold = ${cutoff}`] : []),
      ...(bumps ? [input('normal3f', 'normal', '', bumps, 'rgb')] : []),
      ...(shade ? [input('float', 'occlusion', '', shade, 'r')] : []),
      'token outputs:surface',
      '}',
      ...shaders,
      '}',
      '',
    ].join('\n')
  }
}

type UvSet = Pick<Texture, 'texCoord' | 'transform'>

const setKey = ({ texCoord, transform }: UvSet) => JSON.stringify([texCoord, transform ?? null])

/** The sets of texture coordinates that a finish needs, each moved and turned as its textures say. */
function uvSets({ textures = {} }: Material): UvSet[] {
  return [
    ...new Map(
      TEXTURE_SLOTS.flatMap(slot => (textures[slot] ? [[setKey(textures[slot]), textures[slot]] as const] : [])),
    ).values(),
  ]
}

function* meshText(primitive: Primitive, called: string, look: string): Generator<string> {
  const { positions, normals, indices, colors, material, uvs = [] } = primitive
  const { min, max } = meshBounds({ primitives: [primitive] })
  yield [
    `def Mesh "${called}" (prepend apiSchemas = ["MaterialBindingAPI"])`,
    '{',
    `uniform bool doubleSided = ${material.doubleSided ? 1 : 0}`,
    'uniform token subdivisionScheme = "none"',
    `float3[] extent = [(${list(min.toArray())}), (${list(max.toArray())})]`,
    `rel material:binding = <${look}>`,
    'int[] faceVertexCounts = [',
  ].join('\n')
  yield* inPieces(indices.length / 3, () => '3')
  yield ']\nint[] faceVertexIndices = ['
  yield* inPieces(indices.length, i => String(indices[i]!))
  yield ']\npoint3f[] points = ['
  yield* inPieces(
    positions.length / 3,
    i => `(${short(positions[i * 3]!)}, ${short(positions[i * 3 + 1]!)}, ${short(positions[i * 3 + 2]!)})`,
  )
  yield ']\nnormal3f[] normals = ['
  yield* inPieces(
    normals.length / 3,
    i => `(${short(normals[i * 3]!)}, ${short(normals[i * 3 + 1]!)}, ${short(normals[i * 3 + 2]!)})`,
  )
  yield '] (interpolation = "vertex")\n'
  for (const [at, set] of uvSets(material).entries()) {
    const uv = uvs[set.texCoord]
    if (!uv) continue
    yield `texCoord2f[] primvars:st${at} = [`
    yield* inPieces(uv.length / 2, i => {
      const [u, v] = transformed(uv[i * 2]!, uv[i * 2 + 1]!, set)
      // Here V grows upwards.
      return `(${short(u)}, ${short(1 - v)})`
    })
    yield '] (interpolation = "vertex")\n'
  }
  if (colors) {
    yield 'color3f[] primvars:displayColor = ['
    yield* inPieces(
      colors.length / 4,
      i => `(${short(colors[i * 4]!)}, ${short(colors[i * 4 + 1]!)}, ${short(colors[i * 4 + 2]!)})`,
    )
    yield '] (interpolation = "vertex")\n'
  }
  yield '}\n'
}

/** A texture coordinate as KHR_texture_transform has it. */
function transformed(u: number, v: number, { transform }: UvSet): [number, number] {
  if (!transform) return [u, v]
  const { offset, rotation, scale } = transform
  const [x, y, cos, sin] = [u * scale[0], v * scale[1], Math.cos(rotation), Math.sin(rotation)]
  return [offset[0] + cos * x + sin * y, offset[1] - sin * x + cos * y]
}

function transformLines({ translation = [0, 0, 0], rotation = [0, 0, 0, 1], scale = [1, 1, 1] }: SceneNode): string[] {
  const { elements } = new Matrix4().compose(
    new Vector3().fromArray(translation),
    new Quaternion().fromArray(rotation),
    new Vector3().fromArray(scale),
  )
  // Rows here are the columns there: points are multiplied from the left.
  const rows = [0, 4, 8, 12].map(at => `(${list(elements.slice(at, at + 4))})`)
  return [`matrix4d xformOp:transform = (${rows.join(', ')})`, 'uniform token[] xformOpOrder = ["xformOp:transform"]']
}

/** UsdGeomCamera: aperture and focal length are in tenths of a unit of the scene, which is a metre here. */
function cameraLines({ fieldOfView, filmWidth: millimetres, aspect, near, far }: CameraOwn): string[] {
  const width = (millimetres / 1000) * 10
  const height = width / aspect
  return [
    'token projection = "perspective"',
    `float2 clippingRange = (${near}, ${far})`,
    `float horizontalAperture = ${short(width)}`,
    `float verticalAperture = ${short(height)}`,
    `float focalLength = ${short(height / 2 / Math.tan((fieldOfView * Math.PI) / 360))}`,
  ]
}

const BULB = 0.03

/**
 * UsdLux, whose intensity is a luminance; normalized it is divided by the light's surface. A ball of radius r and of
 * luminance i / 4πr² has a luminous intensity of i / 4 in every direction. A sun's is then its illuminance.
 */
function lightLines(own: LightOwn, strength: number): string[] {
  const { r, g, b } = new Color(own.color)
  const factor = own.on ? strength : 0
  const common = (intensity: number) => [
    `float inputs:intensity = ${intensity * factor}`,
    `color3f inputs:color = (${list([r, g, b].map(short))})`,
  ]
  const cone = [
    `float inputs:shaping:cone:angle = ${own.outerCone}`,
    `float inputs:shaping:cone:softness = ${short(1 - own.innerCone / own.outerCone)}`,
  ]
  const [type, lines] =
    own.light === 'sun'
      ? ['DistantLight', ['float inputs:angle = 0.53', 'bool inputs:normalize = 1', ...common(own.intensity)]]
      : own.light === 'area'
        ? [
            'RectLight',
            [`float inputs:width = ${own.width}`, `float inputs:height = ${own.height}`, ...common(own.intensity)],
          ]
        : [
            'SphereLight',
            [
              `float inputs:radius = ${BULB}`,
              'bool treatAsPoint = 1',
              'bool inputs:normalize = 1',
              ...common(own.intensity * 4),
              ...(own.light === 'spot' ? cone : []),
            ],
          ]
  return [
    `def ${type} "Light"${own.light === 'spot' ? ' (prepend apiSchemas = ["ShapingAPI"])' : ''}`,
    '{',
    ...lines,
    '}',
  ]
}

/** Places of copies, turned in half precision for readers that know no other, and in single for those that do. */
function* instanceText(
  { translations, rotations, scales, copies }: Instances,
  path: string,
  part: string,
): Generator<string> {
  const { length } = copies
  const triples = (of: Float32Array) =>
    inPieces(length, i => `(${short(of[i * 3]!)}, ${short(of[i * 3 + 1]!)}, ${short(of[i * 3 + 2]!)})`)
  // The real part comes first.
  const turns = (digits: number) =>
    inPieces(length, i => `(${[3, 0, 1, 2].map(k => inFigures(rotations[i * 4 + k]!, digits)).join(', ')})`)
  yield 'int64[] ids = ['
  yield* inPieces(length, i => String(copies[i]!))
  yield ']\nint[] protoIndices = ['
  yield* inPieces(length, () => '0')
  yield ']\npoint3f[] positions = ['
  yield* triples(translations)
  yield ']\nquath[] orientations = ['
  yield* turns(5)
  yield ']\nquatf[] orientationsf = ['
  yield* turns(9)
  yield ']\nfloat3[] scales = ['
  yield* triples(scales)
  yield `]
rel prototypes = <${path}/Prototypes/P0>
def Scope "Prototypes"
{
def Xform "P0" (prepend references = <${part}>)
{
}
}
`
}

/** A name that a prim may have, and that no sibling has. */
function identifier(name: string, taken: Names): string {
  const plain = name
    .normalize('NFKD')
    .replace(/[^A-Za-z0-9_]+/g, '_')
    .slice(0, 80)
  const base = /^[A-Za-z_]/.test(plain) ? plain : `_${plain}`
  let called = base
  // Of a hundred thousand of one name, each begins where the one before has ended.
  let number = taken.get(base) ?? 2
  for (; taken.has(called); number++) called = `${base}_${number}`
  if (called !== base) taken.set(base, number)
  taken.set(called, 2)
  return called
}

const quoted = (text: string) =>
  `"${text.replace(/\\/g, '\\\\').replace(/"/g, '\\"').replace(/\n/g, '\\n').replace(/\r/g, '\\r')}"`
const metadata = (of: Record<string, string>) =>
  `(\n${Object.entries(of)
    .map(([key, value]) => `${key} = ${value}\n`)
    .join('')})`
const list = (values: readonly number[]) => values.join(', ')

const inFigures = (value: number, figures: number) =>
  Number.isInteger(value) ? value : Number(value.toPrecision(figures))
/** As few figures as single precision needs. */
const short = (value: number) => inFigures(value, 9)

function* inPieces(count: number, textOf: (i: number) => string): Generator<string> {
  for (let from = 0; from < count; from += 2000) {
    yield (from > 0 ? ', ' : '')
      + Array.from({ length: Math.min(2000, count - from) }, (_, i) => textOf(from + i)).join(', ')
  }
}
