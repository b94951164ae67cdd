// Writes the sample files that ship with the project, for the first try of bringing something in and for the tests:
// `npm run samples`.
import { mkdir, writeFile } from 'node:fs/promises'
import { Document, NodeIO } from '@gltf-transform/core'
import { EXTMeshoptCompression, KHRMeshQuantization, KHRTextureTransform } from '@gltf-transform/extensions'
import { MeshoptEncoder } from 'meshoptimizer'
import sharp from 'sharp'
import { BoxGeometry, CylinderGeometry, LatheGeometry, Matrix4, SphereGeometry, TorusGeometry, Vector2 } from 'three'

const folder = new URL('../public/samples/', import.meta.url)
await mkdir(folder, { recursive: true })
await MeshoptEncoder.ready
const io = new NodeIO()
  .registerExtensions([EXTMeshoptCompression, KHRMeshQuantization, KHRTextureTransform])
  .registerDependencies({ 'meshopt.encoder': MeshoptEncoder })

function begin(name) {
  const gltf = new Document()
  gltf.getRoot().getAsset().generator = 'Handy Grid samples'
  gltf.createBuffer()
  return { gltf, scene: gltf.createScene(name) }
}

/** A node with a mesh of some geometries, each with its material. */
function thing(gltf, name, pieces) {
  const mesh = gltf.createMesh(name)
  const buffer = gltf.getRoot().listBuffers()[0]
  for (const { geometry, material, matrix = new Matrix4() } of pieces) {
    geometry.applyMatrix4(matrix)
    const accessor = (type, array) => gltf.createAccessor().setType(type).setArray(array).setBuffer(buffer)
    mesh.addPrimitive(
      gltf
        .createPrimitive()
        .setMaterial(material)
        .setAttribute('POSITION', accessor('VEC3', Float32Array.from(geometry.getAttribute('position').array)))
        .setAttribute('NORMAL', accessor('VEC3', Float32Array.from(geometry.getAttribute('normal').array)))
        .setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.from(geometry.getAttribute('uv').array)))
        .setIndices(accessor('SCALAR', Uint16Array.from(geometry.getIndex().array))),
    )
  }
  return gltf.createNode(name).setMesh(mesh)
}

const write = async (name, gltf) => writeFile(new URL(`${name}.glb`, folder), await io.writeBinary(gltf))
const at = (x, y, z) => new Matrix4().makeTranslation(x, y, z)

// Two mooring bollards in centimetres, with Z up, each a thing of its own.
{
  const { gltf, scene } = begin('Bollards')
  const iron = gltf
    .createMaterial('Cast iron')
    .setBaseColorFactor([0.04, 0.045, 0.05, 1])
    .setRoughnessFactor(0.55)
    .setMetallicFactor(0.6)
  const rope = gltf
    .createMaterial('Rope')
    .setBaseColorFactor([0.55, 0.42, 0.24, 1])
    .setRoughnessFactor(0.95)
    .setMetallicFactor(0)
  const upright = new Matrix4().makeRotationX(Math.PI / 2)
  const post = height =>
    new LatheGeometry(
      [
        [0, 0],
        [19, 0],
        [19, 4],
        [12, 8],
        [10, height - 18],
        [17, height - 9],
        [16, height - 2],
        [0, height],
      ].map(([r, y]) => new Vector2(r, y)),
      20,
    )
  const coil = y =>
    new TorusGeometry(13, 2.2, 8, 24).applyMatrix4(at(0, y, 0).multiply(new Matrix4().makeRotationX(Math.PI / 2)))
  scene.addChild(thing(gltf, 'Bollard', [{ geometry: post(85), material: iron, matrix: upright }]))
  scene.addChild(
    thing(gltf, 'Bollard with rope', [
      { geometry: post(85), material: iron, matrix: upright },
      ...[26, 31, 36].map(y => ({ geometry: coil(y), material: rope, matrix: upright })),
    ]).setTranslation([90, 0, 0]),
  )
  await write('bollards-cm-z-up', gltf)
}

// A painted market sign with a texture of colour, one of roughness and one of normals.
{
  const { gltf, scene } = begin('Sign')
  const size = 256
  const boards = Array.from(
    { length: 8 },
    (_, i) =>
      `<rect x="0" y="${i * 32}" width="${size}" height="30" fill="hsl(${24 + (i % 3) * 3},${38 + (i % 2) * 6}%,${34 + ((i * 5) % 13)}%)"/>`,
  ).join('')
  const paint = `<svg xmlns="http://www.w3.org/2000/svg" width="${size}" height="${size}"><rect width="${size}" height="${size}" fill="#3b2a1d"/>${boards}
    <circle cx="128" cy="128" r="78" fill="#0e6e6e"/><circle cx="128" cy="128" r="66" fill="none" stroke="#f2b441" stroke-width="6"/>
    <path d="M128 78 l34 50 l-34 50 l-34 -50 z" fill="#f2b441"/><path d="M128 96 l20 32 l-20 32 l-20 -32 z" fill="#fff3c9"/></svg>`
  const texture = async (name, bytes, type) =>
    gltf.createTexture(name).setMimeType(type).setImage(new Uint8Array(bytes))
  const normals = Buffer.alloc(size * size * 3)
  const shine = Buffer.alloc(size * size * 3)
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      // Between boards the surface dips, and is rough.
      const dip = y % 32 >= 30 ? 90 : y % 32 === 0 ? -90 : 0
      normals.set([128, 128 + dip, dip === 0 ? 255 : 216], (y * size + x) * 3)
      shine.set([255, dip === 0 ? 150 + ((x * 7 + y * 13) % 40) : 240, 0], (y * size + x) * 3)
    }
  }
  const raw = { raw: { width: size, height: size, channels: 3 } }
  const board = gltf
    .createMaterial('Painted boards')
    .setRoughnessFactor(1)
    .setMetallicFactor(0)
    .setBaseColorTexture(await texture('boards', await sharp(Buffer.from(paint)).png().toBuffer(), 'image/png'))
    .setMetallicRoughnessTexture(
      await texture('shine', await sharp(shine, raw).jpeg({ quality: 88 }).toBuffer(), 'image/jpeg'),
    )
    .setNormalTexture(await texture('relief', await sharp(normals, raw).png().toBuffer(), 'image/png'))
  const post = gltf
    .createMaterial('Post')
    .setBaseColorFactor([0.09, 0.06, 0.04, 1])
    .setRoughnessFactor(0.85)
    .setMetallicFactor(0)
  scene.addChild(
    thing(gltf, 'Market sign', [
      { geometry: new BoxGeometry(0.9, 0.9, 0.06), material: board, matrix: at(0, 1.65, 0) },
      { geometry: new CylinderGeometry(0.05, 0.06, 2.2, 10), material: post, matrix: at(-0.38, 1.1, -0.06) },
      { geometry: new CylinderGeometry(0.05, 0.06, 2.2, 10), material: post, matrix: at(0.38, 1.1, -0.06) },
    ]),
  )
  await write('sign-textured', gltf)
}

// A glass net float in its net, compressed.
{
  const { gltf, scene } = begin('Net float')
  const glass = gltf
    .createMaterial('Green glass')
    .setBaseColorFactor([0.1, 0.45, 0.3, 0.55])
    .setAlphaMode('BLEND')
    .setRoughnessFactor(0.1)
    .setMetallicFactor(0)
  const net = gltf
    .createMaterial('Net')
    .setBaseColorFactor([0.35, 0.27, 0.15, 1])
    .setRoughnessFactor(0.95)
    .setMetallicFactor(0)
  const hoops = [0, 60, 120].map(turn => ({
    geometry: new TorusGeometry(0.262, 0.012, 8, 48),
    material: net,
    matrix: at(0, 0.262, 0).multiply(new Matrix4().makeRotationY((turn * Math.PI) / 180)),
  }))
  scene.addChild(
    thing(gltf, 'Net float', [
      { geometry: new SphereGeometry(0.25, 48, 32), material: glass, matrix: at(0, 0.262, 0) },
      ...hoops,
      {
        geometry: new TorusGeometry(0.262, 0.012, 8, 48),
        material: net,
        matrix: at(0, 0.262, 0).multiply(new Matrix4().makeRotationX(Math.PI / 2)),
      },
    ]),
  )
  gltf
    .createExtension(EXTMeshoptCompression)
    .setRequired(true)
    .setEncoderOptions({ method: EXTMeshoptCompression.EncoderMethod.FILTER })
  gltf.createExtension(KHRMeshQuantization).setRequired(true)
  await write('net-float-compressed', gltf)
}
