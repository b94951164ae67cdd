import { validateBytes } from 'gltf-validator'
import type { InstancedMesh, Object3D, Mesh as ThreeMesh } from 'three'
import { Matrix4, Vector3 } from 'three'
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Rule } from '../../core/arrange/rules'
import { RULES } from '../../core/arrange/rules'
import { readPartGlb, writePartGlb } from '../../core/formats/part-glb'
import { bareView } from '../../core/scene/level-view'
import type { Placement } from '../../core/level/schema'
import { lanternQuayKit } from '../../demo/kit'
import { lanternQuay } from '../../demo/lantern-quay'
import { anyTree, levelGlb, testId, testPlacement } from '../support'

// What we write is judged by the Khronos glTF validator and by three's loader, neither of which is ours.
const kit = lanternQuayKit()
const parts = new Map(kit.map(({ id, name, mesh }) => [id, { name, mesh }]))

async function issuesOf(glb: Uint8Array) {
  const { issues } = await validateBytes(glb)
  return {
    errors: issues.numErrors,
    warnings: issues.numWarnings,
    messages: issues.messages.filter(message => message.severity < 2),
  }
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
      expect((await readPartGlb(glb)).mesh, name).toEqual(mesh)
    }
  })

  it('is the same bytes each time, so that its hash names it', async () => {
    const [first] = kit
    expect(await writePartGlb(first!.name, first!.mesh)).toEqual(
      await writePartGlb(first!.name, lanternQuayKit()[0]!.mesh),
    )
  })
})

describe('a level as GLB', () => {
  it('passes the validator and stands in three as it stands here', async () => {
    const { placements, blocks } = lanternQuay()
    const level = bareView(placements, { blocks })
    const glb = await levelGlb('Lantern Quay', level, parts)
    expect(await issuesOf(glb)).toEqual(clean)
    const scene = await load(glb)
    const found = new Map<string, Object3D>()
    scene.traverse(object => {
      if (typeof object.userData.placement === 'string') found.set(object.userData.placement, object)
    })
    // Sources are there once for each copy; those that are bent are not there as they were.
    const alone = [...level.placements()].filter(({ id }) => !level.isSource(id))
    expect(alone.length).toBeGreaterThan(90)
    for (const { id, name, parentId } of alone) {
      const object = found.get(id)!
      expect(object.parent?.userData.placement ?? null, name).toBe(parentId)
      object.matrixWorld.elements.forEach((value, i) =>
        expect(Math.abs(value - level.worldMatrix(id).elements[i]!)).toBeLessThan(1e-6),
      )
    }
  })

  it('stores every mesh once and shares it, whatever the number of nodes', async () => {
    const crate = kit.find(part => part.name === 'Crate')!
    const many = (count: number) =>
      bareView(
        Array.from({ length: count }, (_, i) =>
          testPlacement(i + 1, { kind: 'part', partId: crate.id, translation: [i, 0, 0] }),
        ),
      )
    const one = await levelGlb('One', many(1), parts)
    const glb = await levelGlb('Many', many(200), parts)
    const scene = await load(glb)
    const geometries = new Set<string>()
    scene.traverse(object => {
      if ((object as ThreeMesh).isMesh) geometries.add((object as ThreeMesh).geometry.uuid)
    })
    expect(geometries.size).toBe(crate.mesh.primitives.length)
    // A node of JSON costs far less than a copy of the mesh would.
    expect((glb.length - one.length) / 199).toBeLessThan(300)
  })

  it('holds with pivots, uneven and mirrored sizes down any tree', async () => {
    const crate = kit.find(part => part.name === 'Crate')!
    await fc.assert(
      fc.asyncProperty(anyTree(6), async tree => {
        const level = bareView(
          tree.map((placement, i) => (i % 2 ? { ...placement, kind: 'part' as const, partId: crate.id } : placement)),
        )
        const glb = await levelGlb('Any', level, parts)
        expect(await issuesOf(glb)).toEqual(clean)
        const scene = await load(glb)
        let seen = 0
        scene.traverse(object => {
          if (typeof object.userData.placement !== 'string') return
          seen++
          const expected = level.worldMatrix(object.userData.placement)
          const size = Math.max(1, ...expected.elements.map(Math.abs))
          object.matrixWorld.elements.forEach((value, i) =>
            expect(Math.abs(value - expected.elements[i]!) / size).toBeLessThan(1e-6),
          )
        })
        expect(seen).toBe(tree.length)
      }),
      { numRuns: 12 },
    )
  }, 60_000)

  describe('with arrangements', () => {
    const crate = kit.find(part => part.name === 'Crate')!
    const A = testId(1)
    const arranged = (rule: Rule, source: Partial<Placement> = {}) =>
      bareView([
        testPlacement(1, { kind: 'arrangement', own: { rule }, translation: [3, 1, -2], rotation: [0, 0.6, 0, 0.8] }),
        testPlacement(2, { kind: 'part', partId: crate.id, parentId: A, ...source }),
      ])
    const meshesOf = (scene: Object3D) => {
      const found: ThreeMesh[] = []
      scene.traverse(object => {
        if ((object as ThreeMesh).isMesh) found.push(object as ThreeMesh)
      })
      return found
    }

    it('has each copy where the stage has it, as a node or as an instance', async () => {
      const level = arranged(
        { ...RULES.fan.first, counts: 'spacing' },
        { translation: [0.2, 0, 0.1], rotation: [0, 0.28, 0, 0.96], scale: [1, 2, 1] },
      )
      const live = level.shapes(A)[0]!.matrices
      const expected = Array.from({ length: live.length / 16 }, (_, i) =>
        new Matrix4().fromArray(live, i * 16).premultiply(level.worldMatrix(A)),
      )
      for (const instanced of [false, true]) {
        const glb = await levelGlb('Fan', level, parts, instanced)
        expect(await issuesOf(glb)).toEqual(clean)
        const scene = await load(glb)
        const first = meshesOf(scene).filter(mesh => mesh.geometry === meshesOf(scene)[0]!.geometry)
        const found = instanced
          ? expected.map((_, i) => {
              const mesh = first[0] as unknown as InstancedMesh
              const matrix = new Matrix4()
              mesh.getMatrixAt(i, matrix)
              return matrix.premultiply(mesh.matrixWorld)
            })
          : first.map(({ matrixWorld }) => matrixWorld)
        expect(found).toHaveLength(expected.length)
        expect(found.length).toBeGreaterThan(30)
        found.forEach((matrix, i) =>
          matrix.elements.forEach((value, k) => expect(value).toBeCloseTo(expected[i]!.elements[k]!, 4)),
        )
      }
    })

    it('takes at most a fifth more than forty bytes for each of 100,000 instances', async () => {
      const one = await levelGlb('One', arranged({ ...RULES.line.first, count: 1 }), parts, true)
      const glb = await levelGlb('Many', arranged({ ...RULES.grid.first, counts: [1000, 1, 100] }), parts, true)
      expect(glb.length - one.length).toBeLessThan(1.2 * 40 * 100_000)
      expect(glb.length - one.length).toBeGreaterThanOrEqual(40 * 100_000)
    })

    it('turns a mirror image over, so that its triangles wind as the standard says', async () => {
      const level = arranged(RULES.mirror.first, { translation: [2, 0, 0] })
      const glb = await levelGlb('Mirror', level, parts)
      expect(await issuesOf(glb)).toEqual(clean)
      const meshes = meshesOf(await load(glb))
      // glTF 2.0, 3.7.4: a negative determinant of the node's global transform means clockwise triangles.
      const signs = meshes.map(({ matrixWorld }) => Math.sign(matrixWorld.determinant()))
      expect(signs.filter(sign => sign < 0)).toHaveLength(meshes.length / 2)
      const enclosed = meshes.map(({ geometry, matrixWorld }) => {
        const [position, index] = [geometry.getAttribute('position'), geometry.getIndex()!]
        const at = (i: number) => new Vector3().fromBufferAttribute(position, index.getX(i)).applyMatrix4(matrixWorld)
        let sum = 0
        for (let i = 0; i < index.count; i += 3) sum += at(i).dot(at(i + 1).cross(at(i + 2))) / 6
        return sum
      })
      const total = (sign: number) =>
        enclosed.filter((_, i) => signs[i] === sign).reduce((sum, value) => sum + value, 0)
      // Wound the other way, the image encloses as much as what it mirrors.
      expect(total(1)).toBeGreaterThan(0)
      expect(total(-1)).toBeCloseTo(-total(1), 6)
    })
  })

  it('refuses a level that shows a part nobody has', async () => {
    const level = bareView([testPlacement(1, { kind: 'part', partId: testId(77) })])
    await expect(levelGlb('x', level, parts)).rejects.toThrow(RangeError)
  })

  it('keeps names as they are, also those that are not of this alphabet', async () => {
    const level = bareView([testPlacement(1, { name: 'Lampión №5 "тест" 灯' })])
    const glb = await levelGlb('x', level, parts)
    const json = new TextDecoder().decode(
      glb.subarray(20, 20 + new DataView(glb.buffer, glb.byteOffset).getUint32(12, true)),
    )
    expect((JSON.parse(json) as { nodes: { name: string }[] }).nodes[0]!.name).toBe('Lampión №5 "тест" 灯')
  })
})
