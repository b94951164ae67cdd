import { validateBytes } from 'gltf-validator'
import type { Object3D, Mesh as ThreeMesh } from 'three'
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { writeLevelGlb } from '../../core/formats/level-glb'
import { readPartGlb, writePartGlb } from '../../core/formats/part-glb'
import { LevelDocument } from '../../core/level/document'
import { lanternQuayKit } from '../../demo/kit'
import { lanternQuay } from '../../demo/lantern-quay'
import { anyTree, testId, testPlacement } from '../support'

// What we write is judged by the Khronos glTF validator and by three's loader, neither of which is ours.
const kit = lanternQuayKit()
const parts = new Map(kit.map(({ id, name, mesh }) => [id, { name, mesh }]))

async function issuesOf(glb: Uint8Array) {
  const { issues } = await validateBytes(glb)
  return { errors: issues.numErrors, warnings: issues.numWarnings, messages: issues.messages.filter(message => message.severity < 2) }
}

async function load(glb: Uint8Array): Promise<Object3D> {
  const { scene } = await new GLTFLoader().parseAsync(glb.slice().buffer, '')
  scene.updateMatrixWorld(true)
  return scene
}

const clean = { errors: 0, warnings: 0, messages: [] }

describe('a part as GLB', () => {
  it('passes the validator and comes back as it was, every part of the kit', async () => {
    for (const { name, mesh } of kit) {
      const glb = await writePartGlb(name, mesh)
      expect(await issuesOf(glb), name).toEqual(clean)
      expect(await readPartGlb(glb), name).toEqual(mesh)
    }
  })

  it('is the same bytes each time, so that its hash names it', async () => {
    const [first] = kit
    expect(await writePartGlb(first!.name, first!.mesh)).toEqual(await writePartGlb(first!.name, lanternQuayKit()[0]!.mesh))
  })
})

describe('a level as GLB', () => {
  it('passes the validator and stands in three as it stands here', async () => {
    const level = new LevelDocument(lanternQuay().placements)
    const glb = await writeLevelGlb('Lantern Quay', level, parts)
    expect(await issuesOf(glb)).toEqual(clean)
    const scene = await load(glb)
    const found = new Map<string, Object3D>()
    scene.traverse((object) => {
      if (typeof object.userData.placement === 'string') found.set(object.userData.placement, object)
    })
    expect(found.size).toBe(level.size)
    for (const { id, name, parentId } of level.placements()) {
      const object = found.get(id)!
      expect(object.parent?.userData.placement ?? null, name).toBe(parentId)
      object.matrixWorld.elements.forEach((value, i) => expect(Math.abs(value - level.worldMatrix(id).elements[i]!)).toBeLessThan(1e-6))
    }
  })

  it('stores every mesh once and shares it, whatever the number of nodes', async () => {
    const crate = kit.find(part => part.name === 'Crate')!
    const many = (count: number) => new LevelDocument(Array.from({ length: count }, (_, i) => testPlacement(i + 1, { kind: 'part', partId: crate.id, translation: [i, 0, 0] })))
    const one = await writeLevelGlb('One', many(1), parts)
    const glb = await writeLevelGlb('Many', many(200), parts)
    const scene = await load(glb)
    const geometries = new Set<string>()
    scene.traverse((object) => {
      if ((object as ThreeMesh).isMesh) geometries.add((object as ThreeMesh).geometry.uuid)
    })
    expect(geometries.size).toBe(crate.mesh.primitives.length)
    // A node of JSON costs far less than a copy of the mesh would.
    expect((glb.length - one.length) / 199).toBeLessThan(300)
  })

  it('holds with pivots, uneven and mirrored sizes down any tree', async () => {
    const crate = kit.find(part => part.name === 'Crate')!
    await fc.assert(fc.asyncProperty(anyTree(6), async (tree) => {
      const level = new LevelDocument(tree.map((placement, i) => i % 2 ? { ...placement, kind: 'part' as const, partId: crate.id } : placement))
      const glb = await writeLevelGlb('Any', level, parts)
      expect(await issuesOf(glb)).toEqual(clean)
      const scene = await load(glb)
      scene.traverse((object) => {
        if (typeof object.userData.placement !== 'string') return
        const expected = level.worldMatrix(object.userData.placement)
        const size = Math.max(1, ...expected.elements.map(Math.abs))
        object.matrixWorld.elements.forEach((value, i) => expect(Math.abs(value - expected.elements[i]!) / size).toBeLessThan(1e-6))
      })
    }), { numRuns: 12 })
  }, 60_000)

  it('refuses a level that shows a part nobody has', async () => {
    const level = new LevelDocument([testPlacement(1, { kind: 'part', partId: testId(77) })])
    await expect(writeLevelGlb('x', level, parts)).rejects.toThrow(RangeError)
  })

  it('keeps names as they are, also those that are not of this alphabet', async () => {
    const level = new LevelDocument([testPlacement(1, { name: 'Lampión №5 "тест" 灯' })])
    const glb = await writeLevelGlb('x', level, parts)
    const json = new TextDecoder().decode(glb.subarray(20, 20 + new DataView(glb.buffer, glb.byteOffset).getUint32(12, true)))
    expect((JSON.parse(json) as { nodes: { name: string }[] }).nodes[0]!.name).toBe('Lampión №5 "тест" 灯')
  })
})
