import { WebIO } from '@gltf-transform/core'
import { BoxGeometry, Matrix4, Vector3 } from 'three'
import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest'
import { useChecking } from '../../app/features/check/checking'
import { useKit } from '../../app/editor/kit'
import { useLevel } from '../../app/editor/level'
import { useScattering } from '../../app/features/scatter/scattering'
import { checkAnswerSchema, workshopSchema } from '../../core/api/schema'
import { RULES } from '../../core/arrange/rules'
import { FIRST_INGREDIENT } from '../../core/arrange/scatter/rule'
import { writePartGlb } from '../../core/formats/part-glb'
import { createPlacement } from '../../core/level/create'
import type { Operation, Placement } from '../../core/level/schema'
import { beginPage } from '../page'
import { testSolid } from '../support'
import { change, freshId, put, useServer } from './support'

// A part that is bent along a path, and another that is a scatter's surface, are made anew: the page, its check, the
// server's check and the file that is handed over have to go by the new meshes, and agree to rounding.

const server = useServer()
const { call, save, newLevel } = server
const placed = (partId: string | null, more: Partial<Placement> = {}): Operation & { id: string } => {
  const { id, ...fields } = createPlacement({
    id: freshId(),
    name: 'Placed',
    kind: partId === null ? 'arrangement' : 'part',
    partId,
    ...more,
  })
  return { do: 'put', id, fields }
}
const makePart = async (name: string, size: [number, number, number], tags = '') => {
  const id = freshId()
  await call(
    'POST',
    `/api/parts?${new URLSearchParams({ id, name, kind: 'piece', tags, inKit: 'true' })}`,
    await writePartGlb(name, testSolid(new BoxGeometry(...size).translate(0, size[1] / 2, 0)).mesh),
  )
  return id
}
/** Puts something on top of what a part is made of. */
async function makeHigher(id: string, height: number, by: string): Promise<void> {
  const { levelId, revision } = workshopSchema.parse((await call('POST', `/api/parts/${id}/workshop`, {})).json)
  await save(levelId, revision, change(placed(by, { translation: [0, height, 0] })))
}

type Place = [number, number, number]

/** The corners of what a file shows, in the world, by a reader of somebody else's. */
async function cornersIn(glb: Uint8Array): Promise<{ name: string; origin: Place; corners: Place[] }[]> {
  const document = await new WebIO().readBinary(glb)
  return document
    .getRoot()
    .listNodes()
    .filter(node => node.getMesh())
    .map(node => {
      const matrix = new Matrix4().fromArray(node.getWorldMatrix())
      const corners = new Map<string, Place>()
      for (const primitive of node.getMesh()!.listPrimitives()) {
        const positions = primitive.getAttribute('POSITION')!
        for (let i = 0; i < positions.getCount(); i++) {
          const corner = positions.getElement(i, [])
          corners.set(corner.join(), new Vector3().fromArray(corner).applyMatrix4(matrix).toArray())
        }
      }
      return {
        name: node.getName(),
        origin: new Vector3().setFromMatrixPosition(matrix).toArray(),
        corners: [...corners.values()],
      }
    })
}

const inOrder = (places: Place[]) =>
  places
    .map(place => place.map(value => Math.round(value * 1e4) / 1e4 + 0))
    .sort((a, b) => a[0]! - b[0]! || a[1]! - b[1]! || a[2]! - b[2]!)

describe('a part that is made anew', () => {
  beforeAll(() => beginPage(server.get().url))
  afterAll(() => vi.unstubAllGlobals())

  it('is what is bent, checked, scattered on and handed over, for the page and the server alike', async () => {
    const [rail, slab, tuft] = [
      await makePart('Rail', [1, 1, 0.1]),
      await makePart('Slab', [6, 0.5, 6], 'ground'),
      await makePart('Tuft', [0.1, 0.1, 0.1]),
    ]
    const [topRail, turf] = [await makePart('Top rail', [1, 0.8, 0.1]), await makePart('Turf', [6, 0.8, 6])]
    const { id: levelId } = await newLevel()
    const ground = placed(slab, { name: 'Slab', translation: [20, 0, 0] })
    const fence = placed(null, {
      name: 'Fence',
      own: {
        rule: {
          ...RULES.path.first,
          bent: true,
          smooth: true,
          points: [
            [-2, 0, 0],
            [0, 0, 1],
            [2, 0, 0],
          ],
          measure: 'ends',
          spacing: 1,
          begins: -0.5,
          fitted: true,
        },
      },
    })
    const railOf = placed(rail, { name: 'Rail', parentId: fence.id })
    // A plank that hangs 1.05 m above the ground floats, unless the fence below it is higher than that.
    const plank = placed(tuft, { name: 'Plank', translation: [0, 1.05, 1], scale: [1, 0.1, 1] })
    const source = freshId()
    const lawn = placed(null, {
      name: 'Lawn',
      own: {
        rule: {
          ...RULES.scatter.first,
          on: [{ id: ground.id, stream: 1 }],
          mix: [{ ...FIRST_INGREDIENT, source, stream: 1 }],
          measure: 'count',
          count: 30,
          keepRoom: false,
        },
      },
    })
    const {
      do: _do,
      id: _id,
      ...sourceFields
    } = placed(tuft, { name: 'Tuft', parentId: lawn.id }) as Operation & {
      do: 'put'
      id: string
      fields: Partial<Placement>
    }
    await save(levelId, 0, change(ground, fence, railOf, plank, lawn, put(source, sourceFields.fields)))

    const [kit, level, scattering, checking] = [useKit(), useLevel(), useScattering(), useChecking()]
    await level.open(levelId)
    const settled = () =>
      vi.waitFor(() => {
        const dealt = level.view.copies(lawn.id)
        expect([dealt?.keys.count, checking.progress, scattering.progress]).toEqual([30, null, null])
        return dealt!
      }, 60_000)

    /** What the page shows, checks and deals. */
    const ofPage = async () => {
      const { ruled } = await settled()
      const tufts = Array.from({ length: 30 }, (_, i) =>
        new Vector3().setFromMatrixPosition(new Matrix4().fromArray(ruled, i * 16)).toArray(),
      )
      const rails = level.view.shapes(fence.id).flatMap(({ shape, matrices }) => {
        const matrix = new Matrix4().fromArray(matrices).premultiply(level.view.worldMatrix(fence.id))
        const points: Place[] = []
        kit.solid(shape)!.eachPlace((x, y, z) => points.push(new Vector3(x, y, z).applyMatrix4(matrix).toArray()))
        return points
      })
      const findings = checking.news.findings.map(({ of, things, at }) => ({
        of,
        things: [...things],
        at: inOrder([[...at]])[0],
      }))
      return { tufts: inOrder(tufts), rails: inOrder(rails), findings: findings.sort((a, b) => (a.of < b.of ? -1 : 1)) }
    }
    /** What the server checks, and writes into a file. */
    const ofServer = async () => {
      const { findings } = checkAnswerSchema.parse((await call('GET', `/api/levels/${levelId}/check`)).json)
      const points = await cornersIn(
        new Uint8Array(await (await fetch(`${server.get().url}/api/levels/${levelId}/export.glb`)).arrayBuffer()),
      )
      return {
        tufts: inOrder(points.filter(({ name }) => name.startsWith('Tuft')).map(({ origin }) => origin)),
        // Pieces are called by their numbers.
        rails: inOrder(points.filter(({ name }) => /^\d+$/.test(name)).flatMap(({ corners }) => corners)),
        findings: findings
          .map(({ of, things, at }) => ({ of, things: [...things], at: inOrder([[...at]])[0] }))
          .sort((a, b) => (a.of < b.of ? -1 : 1)),
      }
    }

    const before = await ofPage()
    expect(before).toEqual(await ofServer())
    expect([Math.max(...before.rails.map(([, y]) => y!)), before.tufts.every(([, y]) => y === 0.5)]).toEqual([1, true])

    await makeHigher(rail, 1, topRail)
    await makeHigher(slab, 0.5, turf)
    await kit.remake(rail)
    await kit.remake(slab)
    // As it is opened again when somebody comes back from a workshop.
    await level.open(levelId)
    const after = await vi.waitFor(async () => {
      const now = await ofPage()
      expect(now.tufts.every(([, y]) => y === 1.3)).toBe(true)
      return now
    }, 60_000)
    expect(Math.max(...after.rails.map(([, y]) => y!))).toBe(1.8)
    expect(after).toEqual(await ofServer())
    expect(after.findings).not.toEqual(before.findings)
  })
})
