import { Document, WebIO } from '@gltf-transform/core'
import { validateBytes } from 'gltf-validator'
import sharp from 'sharp'
import { TorusKnotGeometry } from 'three'
import { it } from 'vitest'
import { readForeign } from '../core/formats/import/gltf-parts'
import { chosenParts } from '../core/formats/import/choice'
import { packFiles } from '../core/formats/import/pack'
import { readPartGlb, writePartGlb } from '../core/formats/part-glb'
import { reportCompared } from './report'

/** A knot of half a million triangles with four textures of 2,048 pixels a side. */
async function largeFile(): Promise<Uint8Array> {
  const gltf = new Document()
  const buffer = gltf.createBuffer()
  const geometry = new TorusKnotGeometry(1, 0.3, 2500, 100)
  const accessor = (type: 'VEC3' | 'VEC2' | 'SCALAR', array: Float32Array | Uint32Array) =>
    gltf
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer)
  const noise = (channels: 3, seed: number) =>
    sharp(
      Buffer.from(
        Array.from({ length: 2048 * 2048 * channels }, (_, i) => Math.imul(i >> 6, 2654435761 + seed) >>> 24),
      ),
      { raw: { width: 2048, height: 2048, channels } },
    )
      .jpeg()
      .toBuffer()
  const textures = await Promise.all(
    [1, 2, 3, 4].map(async seed =>
      gltf
        .createTexture(`t${seed}`)
        .setMimeType('image/jpeg')
        .setImage(new Uint8Array(await noise(3, seed))),
    ),
  )
  const material = gltf
    .createMaterial('Paint')
    .setBaseColorTexture(textures[0]!)
    .setMetallicRoughnessTexture(textures[1]!)
    .setNormalTexture(textures[2]!)
    .setOcclusionTexture(textures[3]!)
  const primitive = gltf
    .createPrimitive()
    .setMaterial(material)
    .setAttribute('POSITION', accessor('VEC3', Float32Array.from(geometry.getAttribute('position').array)))
    .setAttribute('NORMAL', accessor('VEC3', Float32Array.from(geometry.getAttribute('normal').array)))
    .setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.from(geometry.getAttribute('uv').array)))
    .setIndices(accessor('SCALAR', Uint32Array.from(geometry.getIndex()!.array)))
  gltf.createScene().addChild(gltf.createNode('Knot').setMesh(gltf.createMesh('Knot').addPrimitive(primitive)))
  return new WebIO().writeBinary(gltf)
}

it('bringing in half a million triangles with four textures of 2k', async () => {
  const file = await largeFile()
  const rows: { what: string; value: number }[] = []
  const time = async (what: string, run: () => Promise<unknown>) => {
    const times: number[] = []
    for (let i = 0; i < 3; i++) {
      const start = performance.now()
      await run()
      times.push(performance.now() - start)
    }
    rows.push({ what, value: times.toSorted((a, b) => a - b)[1]! })
  }
  await time('worker: one file of those given', async () => packFiles([{ name: 'knot.glb', bytes: file }]))
  await time('worker: read', () => readForeign(file))
  const foreign = await readForeign(file)
  const choose = (triangles: number | null) =>
    chosenParts(
      foreign,
      { unit: 'm', up: 'y', pivot: [0, -1, 0], whole: true, triangles, pixels: null },
      async (name, picture) => ({ name, picture }),
    )
  await time('worker: as it is', () => choose(null))
  await time('worker: with 20,000 triangles', () => choose(20_000))
  const {
    parts: [part],
    pictures,
  } = await choose(null)
  await time('worker: written', () => writePartGlb('Knot', part!.mesh, picture => pictures.get(picture)!))
  const glb = await writePartGlb('Knot', part!.mesh, picture => pictures.get(picture)!)
  await time('server: validator', () => validateBytes(glb))
  await time('server: read', () => readPartGlb(glb))
  reportCompared({
    topic: 'Bringing in and handing over',
    title: 'Bringing in half a million triangles',
    about: `A file of ${(file.length / 1e6).toFixed(1)} MB with four textures of 2,048 pixels a side; each step, the middle of three.`,
    unit: 'ms',
    rows,
  })
})
