import { Document, Primitive, WebIO } from '@gltf-transform/core'
import {
  ALL_EXTENSIONS,
  EXTMeshoptCompression,
  KHRDracoMeshCompression,
  KHRLightsPunctual,
  KHRMeshQuantization,
} from '@gltf-transform/extensions'
import bunny from 'bunny'
import draco3d from 'draco3dgltf'
import fc from 'fast-check'
import { validateBytes } from 'gltf-validator'
import { MeshoptDecoder, MeshoptEncoder } from 'meshoptimizer'
import type { Object3D } from 'three'
import {
  Box3,
  BufferAttribute,
  BufferGeometry,
  Matrix4,
  Mesh as ThreeMesh,
  Quaternion,
  SphereGeometry,
  TorusKnotGeometry,
  Vector3,
} from 'three'
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js'
import { MeshSurfaceSampler } from 'three/examples/jsm/math/MeshSurfaceSampler.js'
import { TeapotGeometry } from 'three/examples/jsm/geometries/TeapotGeometry.js'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Decoders } from '../../core/formats/import/gltf-file'
import type { Foreign } from '../../core/formats/import/gltf-parts'
import { readForeign } from '../../core/formats/import/gltf-parts'
import { packFiles } from '../../core/formats/import/pack'
import { guessUnit, stand } from '../../core/formats/import/standing'
import { readPartGlb, writePartGlb } from '../../core/formats/part-glb'
import { mergeMeshes } from '../../core/mesh/merge-meshes'
import type { Mesh } from '../../core/mesh/mesh'
import { meshBounds, triangleCount } from '../../core/mesh/mesh'
import { reduceMesh } from '../../core/mesh/reduce'
import { Solid } from '../../core/mesh/solid'
import { Pcg32 } from '../../core/math/random'
import { RULES } from '../../core/arrange/rules'
import { bareView } from '../../core/scene/level-view'
import { levelGlb, TEST_MATERIAL, testId, testPlacement } from '../support'
import { testPicture, texturedBox } from '../textured'

// What others made is read by us and by three's loader; files are written by glTF-Transform, which is not ours either.
let decoders: Decoders
let io: WebIO
beforeAll(async () => {
  await Promise.all([MeshoptDecoder.ready, MeshoptEncoder.ready])
  decoders = { draco: await draco3d.createDecoderModule(), meshopt: MeshoptDecoder }
  io = new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({
    'draco3d.encoder': await draco3d.createEncoderModule(),
    'draco3d.decoder': decoders.draco,
    'meshopt.encoder': MeshoptEncoder,
    'meshopt.decoder': MeshoptDecoder,
  })
})

const read = (glb: Uint8Array) => readForeign(packFiles([{ name: 'thing.glb', bytes: glb }]), decoders)
const whole = ({ tops }: Foreign): Mesh => mergeMeshes(tops.map(({ mesh }) => mesh))

/** A file with some geometry in a tree of turned and sized nodes, one of them mirrored. */
function treeOf(geometry: BufferGeometry, edit: (gltf: Document, primitive: Primitive) => void = () => {}): Document {
  const gltf = new Document()
  const buffer = gltf.createBuffer()
  const accessor = (type: 'VEC3' | 'SCALAR' | 'VEC2', array: Float32Array | Uint32Array) =>
    gltf
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer)
  const primitive = gltf
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', Float32Array.from(geometry.getAttribute('position').array)))
    .setAttribute('NORMAL', accessor('VEC3', Float32Array.from(geometry.getAttribute('normal').array)))
    .setIndices(accessor('SCALAR', Uint32Array.from(geometry.getIndex()!.array)))
    .setMaterial(gltf.createMaterial('Paint').setBaseColorFactor([0.5, 0.25, 0.125, 1]))
  if (geometry.hasAttribute('uv'))
    primitive.setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.from(geometry.getAttribute('uv').array)))
  edit(gltf, primitive)
  const mesh = gltf.createMesh('Thing').addPrimitive(primitive)
  const inner = gltf
    .createNode('Inner')
    .setMesh(mesh)
    .setTranslation([1, 2, 3])
    .setRotation(new Quaternion().setFromAxisAngle(new Vector3(1, 2, 3).normalize(), 1).toArray())
  const mirrored = gltf.createNode('Mirrored').setMesh(mesh).setScale([-2, 1, 0.5]).setTranslation([-4, 0, 0])
  const outer = gltf
    .createNode('Outer')
    .setScale([2, 2, 2])
    .setRotation([0, Math.SQRT1_2, 0, Math.SQRT1_2])
    .addChild(inner)
  gltf.getRoot().setDefaultScene(gltf.createScene().addChild(outer).addChild(mirrored))
  return gltf
}

/** Every triangle of a file in the world, as three's loader has it. */
async function byThree(glb: Uint8Array): Promise<{ box: Box3; triangles: number; area: number; volume: number }> {
  const loader = new GLTFLoader().setMeshoptDecoder(MeshoptDecoder)
  const { scene } = await loader.parseAsync(glb.slice().buffer, '')
  scene.updateMatrixWorld(true)
  let triangles = 0
  const measured = { area: 0, volume: 0 }
  scene.traverse((object: Object3D) => {
    if (!(object instanceof ThreeMesh)) return
    const geometry = object.geometry as BufferGeometry
    const position = geometry.getAttribute('position')
    const order = geometry.getIndex()
    const count = order?.count ?? position.count
    triangles += count / 3
    const flip = object.matrixWorld.determinant() < 0 ? -1 : 1
    for (let i = 0; i < count; i += 3) {
      const [a, b, c] = [0, 1, 2].map(k =>
        new Vector3().fromBufferAttribute(position, order ? order.getX(i + k) : i + k).applyMatrix4(object.matrixWorld),
      ) as [Vector3, Vector3, Vector3]
      measured.volume += (flip * a.dot(b.clone().cross(c))) / 6
      measured.area += b.clone().sub(a).cross(c.clone().sub(a)).length() / 2
    }
  })
  return { box: new Box3().setFromObject(scene, true), triangles, ...measured }
}

function byUs(mesh: Mesh) {
  const measured = { area: 0, volume: 0 }
  for (const { positions, indices } of mesh.primitives) {
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [0, 1, 2].map(k => new Vector3().fromArray(positions, indices[i + k]! * 3)) as [
        Vector3,
        Vector3,
        Vector3,
      ]
      measured.volume += a.dot(b.clone().cross(c)) / 6
      measured.area += b.clone().sub(a).cross(c.clone().sub(a)).length() / 2
    }
  }
  return { box: meshBounds(mesh), triangles: triangleCount(mesh), ...measured }
}

async function expectAlike(glb: Uint8Array, tolerance = 1e-4): Promise<Foreign> {
  const foreign = await read(glb)
  const [ours, theirs] = [byUs(whole(foreign)), await byThree(glb)]
  expect(ours.triangles).toBe(theirs.triangles)
  expect(ours.box.min.distanceTo(theirs.box.min)).toBeLessThan(tolerance)
  expect(ours.box.max.distanceTo(theirs.box.max)).toBeLessThan(tolerance)
  expect(Math.abs(ours.area / theirs.area - 1)).toBeLessThan(tolerance)
  expect(Math.abs(ours.volume / theirs.volume - 1)).toBeLessThan(tolerance * 10)
  return foreign
}

function bunnyGeometry(): BufferGeometry {
  const geometry = new BufferGeometry().setAttribute(
    'position',
    new BufferAttribute(Float32Array.from(bunny.positions.flat()), 3),
  )
  geometry.setIndex(new BufferAttribute(Uint32Array.from(bunny.cells.flat()), 1))
  geometry.computeVertexNormals()
  return geometry
}

describe('what somebody else made', () => {
  it('stands in the world as three has it: bunny and teapot in a tree that is turned, sized and mirrored', async () => {
    for (const geometry of [bunnyGeometry(), new TeapotGeometry(1, 4), new SphereGeometry(1, 12, 8)]) {
      const { tops, notes } = await expectAlike(await io.writeBinary(treeOf(geometry)))
      expect(tops.map(({ name }) => name)).toEqual(['Outer', 'Mirrored'])
      expect(notes).toEqual([])
    }
  })

  it('is read compressed and quantized', async () => {
    const geometry = new TorusKnotGeometry(1, 0.3, 60, 8)
    const draco = treeOf(geometry)
    draco.createExtension(KHRDracoMeshCompression).setRequired(true)
    // three needs a worker for Draco; what was compressed is compared with what was not.
    const [packed, plain] = [
      byUs(whole(await read(await io.writeBinary(draco)))),
      byUs(whole(await read(await io.writeBinary(treeOf(geometry))))),
    ]
    expect(packed.triangles).toBe(plain.triangles)
    expect(packed.box.min.distanceTo(plain.box.min)).toBeLessThan(0.01)
    expect(packed.volume / plain.volume).toBeCloseTo(1, 2)
    const meshopt = treeOf(geometry)
    meshopt
      .createExtension(EXTMeshoptCompression)
      .setRequired(true)
      .setEncoderOptions({ method: EXTMeshoptCompression.EncoderMethod.QUANTIZE })
    await expectAlike(await io.writeBinary(meshopt))
    const quantized = treeOf(geometry, (gltf, primitive) => {
      gltf.createExtension(KHRMeshQuantization).setRequired(true)
      const position = primitive.getAttribute('POSITION')!
      position.setArray(Int16Array.from(position.getArray()!, value => Math.round(value * 10_000))).setNormalized(true)
      const normal = primitive.getAttribute('NORMAL')!
      normal.setArray(Int8Array.from(normal.getArray()!, value => Math.round(value * 127))).setNormalized(true)
    })
    await expectAlike(await io.writeBinary(quantized))
    await expect(readForeign(await io.writeBinary(draco))).rejects.toThrow(/cannot be read/)
  })

  it('is read without normals and indices, in strips and fans, as instances, and held by a skin', async () => {
    const sphere = new SphereGeometry(1, 12, 8)
    await expectAlike(
      await io.writeBinary(
        treeOf(sphere, (_, primitive) => {
          const position = primitive.getAttribute('POSITION')!
          const order = [...primitive.getIndices()!.getArray()!]
          position.setArray(Float32Array.from(order.flatMap(vertex => position.getElement(vertex, []))))
          for (const name of ['NORMAL', 'TEXCOORD_0']) primitive.setAttribute(name, null)
          primitive.setIndices(null)
        }),
      ),
    )
    for (const mode of [Primitive.Mode.TRIANGLE_STRIP, Primitive.Mode.TRIANGLE_FAN]) {
      await expectAlike(
        await io.writeBinary(
          treeOf(sphere, (_, primitive) => {
            primitive
              .setMode(mode!)
              .getIndices()!
              .setArray(
                Uint32Array.from(
                  mode === Primitive.Mode.TRIANGLE_STRIP ? [13, 14, 26, 27, 39, 40, 52] : [0, 14, 15, 16, 17, 18],
                ),
              )
          }),
        ),
      )
    }
    const instanced = await levelGlb(
      'Row',
      bareView([
        testPlacement(1, { kind: 'arrangement', own: { rule: RULES.line.first } }),
        testPlacement(2, { kind: 'part', partId: testId(9), parentId: testId(1) }),
      ]),
      new Map([
        [
          testId(9),
          {
            name: 'Ball',
            mesh: {
              primitives: [
                {
                  material: TEST_MATERIAL,
                  positions: Float32Array.from(sphere.getAttribute('position').array),
                  normals: Float32Array.from(sphere.getAttribute('normal').array),
                  indices: Uint32Array.from(sphere.getIndex()!.array),
                },
              ],
            },
          },
        ],
      ]),
      true,
    )
    expect(byUs(whole(await read(instanced))).triangles).toBeGreaterThan(sphere.getIndex()!.count / 3)
    const skinned = treeOf(sphere, (gltf, primitive) => {
      const count = primitive.getAttribute('POSITION')!.getCount()
      const buffer = gltf.getRoot().listBuffers()[0]!
      primitive.setAttribute(
        'JOINTS_0',
        gltf
          .createAccessor()
          .setType('VEC4')
          .setBuffer(buffer)
          .setArray(new Uint8Array(count * 4)),
      )
      primitive.setAttribute(
        'WEIGHTS_0',
        gltf
          .createAccessor()
          .setType('VEC4')
          .setBuffer(buffer)
          .setArray(Float32Array.from({ length: count * 4 }, (_, i) => (i % 4 === 0 ? 1 : 0))),
      )
    })
    const joint = skinned.createNode('Joint').setTranslation([0, 10, 0])
    const bind = skinned
      .createAccessor()
      .setType('MAT4')
      .setBuffer(skinned.getRoot().listBuffers()[0]!)
      .setArray(Float32Array.from(new Matrix4().makeTranslation(0, -4, 0).elements))
    const skin = skinned.createSkin().addJoint(joint).setInverseBindMatrices(bind)
    for (const node of skinned.getRoot().listNodes()) if (node.getMesh()) node.setSkin(skin)
    skinned.getRoot().getDefaultScene()!.addChild(joint)
    const held = await read(await io.writeBinary(skinned))
    // The joint stands at ten metres, and was bound at four.
    expect(byUs(whole(held)).box.getCenter(new Vector3()).y).toBeCloseTo(6, 5)
    expect(held.notes).toContain('One skin is taken as it stands at rest.')
  })

  it('keeps finishes and pictures, byte by byte, until they are handed over', async () => {
    const box = await texturedBox(120)
    const foreign = await read(await writePartGlb('Box', box.mesh, picture => box.pictures.get(picture)!))
    expect(foreign.pictures).toEqual(box.pictures)
    expect(whole(foreign).primitives[0]!.material).toEqual(box.mesh.primitives[0]!.material)
    const { mesh: part } = stand(whole(foreign), { unit: 'm', up: 'y', pivot: 'file' })
    const glb = await levelGlb(
      'Level',
      bareView([testPlacement(1, { kind: 'part', partId: testId(9), translation: [3, 0, 0], scale: [-1, 2, 1] })]),
      new Map([[testId(9), { name: 'Box', mesh: part }]]),
      false,
      foreign.pictures,
    )
    expect((await validateBytes(glb)).issues.numErrors).toBe(0)
    expect((await readPartGlb(glb)).pictures).toEqual(box.pictures)
    const handed = (await io.readBinary(glb)).getRoot()
    expect(
      handed
        .listTextures()
        .map(texture => texture.getImage())
        .toSorted(),
    ).toEqual([...box.pictures.values()].map(({ bytes }) => bytes).toSorted())
    expect(
      new Matrix4()
        .fromArray(
          handed
            .listNodes()
            .find(node => node.getMesh())!
            .getWorldMatrix(),
        )
        .elements.map(value => value + 0),
    ).toEqual([-1, 0, 0, 0, 0, 2, 0, 0, 0, 0, 1, 0, 3, 0, 0, 1])
  })

  it('brings its sockets along, by names of nodes or by what is said beside them', async () => {
    const gltf = treeOf(new SphereGeometry(1, 8, 6))
    const [outer] = gltf.getRoot().getDefaultScene()!.listChildren()
    outer!.addChild(
      gltf.createNode('socket_rail_left').setTranslation([-1, 0, 0]).setRotation([0, -Math.SQRT1_2, 0, Math.SQRT1_2]),
    )
    outer!.addChild(gltf.createNode('Far end').setExtras({ socket: 'rail' }).setTranslation([1, 0, 0]))
    const [top] = (await read(await io.writeBinary(gltf))).tops
    expect(top!.sockets.map(({ name, kind }) => [name, kind])).toEqual([
      ['left', 'rail'],
      ['Far end', 'rail'],
    ])
    // The outer node is turned by a quarter about Y, and twice as large.
    const rounded = (values: readonly number[]) => values.map(value => Math.round(value * 1e6) / 1e6 + 0)
    expect(rounded(top!.sockets[0]!.at)).toEqual([0, 0, 2])
    expect(rounded(top!.sockets[0]!.direction)).toEqual([0, 0, 1])
    expect(rounded(top!.sockets[1]!.direction)).toEqual([1, 0, 0])
    expect(rounded(top!.sockets[1]!.up)).toEqual([0, 1, 0])
  })

  it('brings its lights along as lamps, turned and measured as it stands here; a sun belongs to no thing', async () => {
    const gltf = treeOf(new SphereGeometry(1, 8, 6))
    const lights = gltf.createExtension(KHRLightsPunctual)
    const top =
      gltf.getRoot().getDefaultScene()?.listChildren()[0]
      ?? gltf
        .getRoot()
        .listNodes()
        .find(node => !node.getParentNode())!
    const spot = lights
      .createLight('Lamp')
      .setType('spot')
      .setIntensity(120)
      .setColor([1, 0, 0])
      .setOuterConeAngle(Math.PI / 6)
    top.addChild(gltf.createNode('Bulb').setTranslation([0, 0, 50]).setExtension('KHR_lights_punctual', spot))
    top.addChild(
      gltf.createNode('Sun').setExtension('KHR_lights_punctual', lights.createLight('Sun').setType('directional')),
    )
    const [found] = (await read(await io.writeBinary(gltf))).tops
    expect(
      found!.lamps.map(({ light }) => [light.light, light.intensity, light.color, Math.round(light.outerCone)]),
    ).toEqual([['spot', 120, '#ff0000', 30]])
    const place = new Matrix4().fromArray(
      gltf
        .getRoot()
        .listNodes()
        .find(node => node.getName() === 'Bulb')!
        .getWorldMatrix(),
    )
    const [x, y, z] = [place.elements[12], place.elements[13], place.elements[14]]
    // Centimetres with Z upwards: -Y comes to the front, and what shone along -Z shines downwards.
    const { lamps } = stand(found!.mesh, { unit: 'cm', up: 'z', pivot: 'file' }, [], found!.lamps)
    lamps[0]!.at.forEach((value, axis) => expect(value).toBeCloseTo([x / 100, z / 100, -y / 100][axis]!, 9))
  })

  it('is said what is left out of it', async () => {
    const gltf = treeOf(new SphereGeometry(1, 8, 6))
    gltf.createAnimation('Wave')
    gltf.getRoot().listNodes()[0]!.setCamera(gltf.createCamera('Eye'))
    const { json, resources } = await io.writeJSON(gltf)
    json.extensionsUsed = ['KHR_materials_clearcoat', 'KHR_lights_punctual']
    json.animations = [{ name: 'Wave', channels: [], samplers: [] }]
    const [uri, bytes] = Object.entries(resources)[0]!
    const { notes } = await readForeign(
      packFiles([
        { name: 'scene/thing.gltf', bytes: new TextEncoder().encode(JSON.stringify(json)) },
        { name: `scene/${uri}`, bytes },
      ]),
    )
    expect(notes).toEqual([
      'One animation is left out; things stand as they do at rest.',
      'One camera is left out.',
      'KHR_materials_clearcoat is not supported, and left out.',
    ])
  })
})

describe('a file that makes no sense', () => {
  const text = (json: object | string) =>
    new TextEncoder().encode(typeof json === 'string' ? json : JSON.stringify(json))
  const refused = async (files: { name: string; bytes: Uint8Array }[] | Uint8Array, why: RegExp) => {
    const run = async () =>
      (
        await readForeign(
          packFiles(files instanceof Uint8Array ? [{ name: 'thing.glb', bytes: files }] : files),
          decoders,
        )
      ).notes
    await expect(run()).rejects.toThrow(why)
    await expect(run()).rejects.toHaveProperty('name', 'GlbError')
  }
  const plain = async (edit?: (gltf: Document, primitive: Primitive) => void) =>
    io.writeBinary(treeOf(new SphereGeometry(1, 8, 6), edit))

  it('is refused with the reason, and what lies elsewhere is never fetched', async () => {
    await refused([{ name: 'notes.txt', bytes: text('hello') }], /none of these is a glTF file/)
    await refused(text('hello, I am a file'), /no well-formed JSON/)
    const good = await plain()
    await refused(good.slice(0, good.length - 100), /cut off/)
    await refused(
      [
        { name: 'a.glb', bytes: good },
        { name: 'b.glb', bytes: good },
      ],
      /one glTF file at a time/,
    )
    await refused([{ name: 'a.gltf', bytes: text({ asset: { version: '1.0' } }) }], /asset.version: only glTF 2.0/)
    await refused([{ name: 'a.gltf', bytes: text({}) }], /no glTF/)
    await refused(
      [
        {
          name: 'a.gltf',
          bytes: text(`{"asset":{"version":"2.0"},"extras":${'['.repeat(200_000)}${']'.repeat(200_000)}}`),
        },
      ],
      /./,
    )
    await refused(
      [
        {
          name: 'a.gltf',
          bytes: text({
            asset: { version: '2.0' },
            buffers: [{ byteLength: 4, uri: 'far away.bin' }],
            images: [{ uri: 'tex/a.png' }],
          }),
        },
      ],
      /not given with it: far away.bin, tex\/a.png/,
    )
    await refused(
      [
        {
          name: 'a.gltf',
          bytes: text({ asset: { version: '2.0' }, buffers: [{ byteLength: 4, uri: 'https://127.0.0.1/x.bin' }] }),
        },
      ],
      /buffers.0: names an address elsewhere/,
    )
    await refused(
      [
        {
          name: 'a.gltf',
          bytes: text({ asset: { version: '2.0' }, buffers: [{ byteLength: 4, uri: '//host/x.bin' }] }),
        },
      ],
      /address elsewhere/,
    )
    await refused(
      [
        {
          name: 'a.gltf',
          bytes: text({ asset: { version: '2.0' }, buffers: [{ byteLength: 4, uri: 'file:///etc/passwd' }] }),
        },
      ],
      /address elsewhere/,
    )
    await refused(
      [
        {
          name: 'a.gltf',
          bytes: text({ asset: { version: '2.0' }, images: [{ uri: 'data:image/svg+xml;base64,AAAA' }] }),
        },
      ],
      /images.0: data of the kind "image\/svg\+xml"/,
    )
    await refused(
      [
        {
          name: 'a.gltf',
          bytes: text({
            asset: { version: '2.0' },
            buffers: [{ byteLength: 400, uri: 'data:application/octet-stream;base64,AAAA' }],
          }),
        },
      ],
      /buffers.0: is 400 bytes long, but only 3/,
    )
  })

  it('is refused when it has nothing to be seen, too much, or what is nowhere', async () => {
    await refused(
      await plain((_, primitive) => void primitive.getAttribute('POSITION')!.setElement(3, [NaN, 0, 0])),
      /a vertex is nowhere/,
    )
    await refused(
      await plain(
        (_, primitive) =>
          void primitive
            .getAttribute('POSITION')!
            .setArray(new Float32Array(primitive.getAttribute('POSITION')!.getCount() * 3)),
      ),
      /no size/,
    )
    await refused(await plain((_, primitive) => void primitive.setMode(Primitive.Mode.LINES!)), /no triangles/)
    await refused(
      await plain((_, primitive) => void primitive.getIndices()!.setScalar(5, 60_000)),
      /names a vertex that is not there/,
    )
    const json = (nodes: object[], more = {}) => [
      { name: 'a.gltf', bytes: text({ asset: { version: '2.0' }, nodes, ...more }) },
    ]
    await refused(json([{ children: [1] }, { children: [0] }]), /hangs from itself/)
    await refused(json([{ children: [2] }, { children: [2] }, {}]), /more than one node/)
    await refused(
      json([], { accessors: [{ count: 2_000_000_000, componentType: 5126, type: 'VEC3' }] }),
      /more vertices than are taken in/,
    )
    await refused(json([], { extensionsRequired: ['KHR_strange'] }), /KHR_strange, which is not supported/)
    const many = treeOf(new SphereGeometry(1, 200, 130))
    const [mesh] = many.getRoot().listMeshes()
    for (let i = 0; i < 20; i++) many.getRoot().getDefaultScene()!.addChild(many.createNode().setMesh(mesh!))
    await refused(await io.writeBinary(many), /more than 1,000,000 triangles/)
  }, 60_000)

  it('is never more than refused, whatever of it is spoilt', async () => {
    const good = await plain()
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(good.length - 1), fc.nat(255)), { minLength: 1, maxLength: 6 }),
        async places => {
          const spoilt = good.slice()
          for (const [at, byte] of places) spoilt[at] = byte
          const outcome = await (async () => readForeign(packFiles([{ name: 'x.glb', bytes: spoilt }])))().catch(
            (error: unknown) => error,
          )
          return outcome instanceof Error ? outcome.name === 'GlbError' : true
        },
      ),
      { numRuns: 300 },
    )
  })
})

describe('how it stands here', () => {
  it('is guessed from its size, and turned upright', () => {
    // A door leaf of 2.1 m, a cup of 9 cm and a hall of 40 m, as files in metres, centimetres and millimetres have
    // them.
    for (const [size, unit] of [
      [2.1, 'm'],
      [210, 'cm'],
      [30_000, 'mm'],
      [0.09, 'm'],
      [40, 'm'],
      [4000, 'cm'],
    ] as const)
      expect(guessUnit(new Vector3(size / 2, size, size / 3)), `${size}`).toBe(unit)
    const mesh: Mesh = {
      primitives: [
        {
          material: TEST_MATERIAL,
          positions: new Float32Array([0, 0, 0, 100, 0, 0, 0, 50, 200]),
          normals: new Float32Array([0, -1, 0, 0, -1, 0, 0, -1, 0]),
          indices: new Uint32Array([0, 1, 2]),
        },
      ],
    }
    const { mesh: standing, sockets } = stand(mesh, { unit: 'cm', up: 'z', pivot: [0, -1, 0] }, [
      { name: 'top', kind: 'pole', at: [0, 0, 200], direction: [0, 0, 1], up: [0, -1, 0] },
    ])
    const [socket] = sockets
    expect(socket!.at.map(value => Math.round(value * 1e6) / 1e6)).toEqual([-0.5, 2, 0.25])
    expect([...socket!.direction, ...socket!.up].map(value => Math.round(value * 1e6) / 1e6 + 0)).toEqual([
      0, 1, 0, 0, 0, 1,
    ])
    expect(
      meshBounds(standing)
        .min.toArray()
        .map(value => Math.round(value * 1e6) / 1e6),
    ).toEqual([-0.5, 0, -0.25])
    expect(
      meshBounds(standing)
        .max.toArray()
        .map(value => Math.round(value * 1e6) / 1e6),
    ).toEqual([0.5, 2, 0.25])
    // What pointed along -Y, to the front of a file with Z up, points along +Z here.
    expect(standing.primitives[0]!.normals[2]).toBeCloseTo(1, 6)
    expect(meshBounds(stand(mesh, { unit: 'ft', up: 'y', pivot: 'file' }).mesh).max.x).toBeCloseTo(30.48, 4)
  })

  it('is made of fewer triangles within the error that is stated, by sampling both ways', async () => {
    const random = new Pcg32([0, 14], [0, 1])
    for (const geometry of [bunnyGeometry(), new TeapotGeometry(1, 8), new TorusKnotGeometry(1, 0.3, 100, 12)]) {
      const full: Mesh = {
        primitives: [
          {
            material: TEST_MATERIAL,
            positions: Float32Array.from(geometry.getAttribute('position').array),
            normals: Float32Array.from(geometry.getAttribute('normal').array),
            indices: Uint32Array.from(geometry.getIndex()!.array),
          },
        ],
      }
      for (const share of [0.5, 0.1]) {
        const { mesh, error } = await reduceMesh(full, Math.floor(triangleCount(full) * share))
        expect(triangleCount(mesh)).toBeLessThanOrEqual(triangleCount(full) * share * 1.02)
        expect(triangleCount(mesh)).toBeGreaterThan(triangleCount(full) * share * 0.5)
        const size = meshBounds(full).getSize(new Vector3()).length()
        expect(error).toBeLessThan(size * (share === 0.5 ? 0.02 : 0.06))
        for (const [from, to] of [
          [full, mesh],
          [mesh, full],
        ] as const) {
          const solid = new Solid(to)
          const [surface] = new Solid(from).geometries
          const sampler = new MeshSurfaceSampler(new ThreeMesh(surface))
          // Not among its types.
          Object.assign(sampler, { randomFunction: () => random.share() })
          sampler.build()
          const point = new Vector3()
          for (let i = 0; i < 2000; i++) {
            sampler.sample(point)
            expect(solid.distanceTo(point)).toBeLessThanOrEqual(error * 1.001 + 1e-9)
          }
        }
      }
    }
  }, 60_000)

  it('shows pictures of every kind, told by their first bytes', async () => {
    for (const type of ['image/png', 'image/jpeg', 'image/webp'] as const) {
      const picture = await testPicture(type, 200)
      const { mesh } = await texturedBox()
      const one = {
        primitives: [
          {
            ...mesh.primitives[0]!,
            material: {
              ...TEST_MATERIAL,
              textures: {
                baseColor: {
                  picture: picture.name,
                  type,
                  texCoord: 0 as const,
                  sampler: { wrapS: 10497, wrapT: 10497 },
                },
              },
            },
          },
        ],
      }
      expect([...(await read(await writePartGlb('x', one, () => picture))).pictures]).toEqual([
        [picture.name, { type, bytes: picture.bytes }],
      ])
    }
  })
})
