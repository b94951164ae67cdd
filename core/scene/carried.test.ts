import { Matrix4, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { deal, ingredient, scatterRule, siteFor } from '../../tests/scatter-support'
import { testId, testPlacement } from '../../tests/support'
import type { Dealt } from '../arrange/scatter/deal'
import type { ScatterRule } from '../arrange/scatter/rule'
import { applyChange } from '../level/change'
import type { Operation } from '../level/schema'
import { carriedScatters } from './carried'
import { copyId } from './copy-id'
import { LevelView } from './level-view'
import { PreviewedPlaces, previewMatrices } from './preview'

const [JETTY, SLAB, ROOF, LAWN] = [1, 2, 3, 4].map(testId) as [string, string, string, string]
const SURFACES = [
  { id: SLAB, stream: 1 },
  { id: ROOF, stream: 2 },
]

/** A jetty with a slab on it, a roof beside, and copies on both; the slab is 5 m along X from the roof. */
function lawn(more: Partial<ScatterRule> = {}): { level: LevelView; dealt: Dealt } {
  const rule = scatterRule({ measure: 'count', count: 40, on: SURFACES, mix: [ingredient(5)], ...more })
  const surface = (stream: number, x: number) => ({
    stream,
    below: 0,
    owner: '',
    shape: 'surface',
    matrix: new Matrix4()
      .makeTranslation(x, 0, 0)
      .scale(new Vector3(4, 1, 4))
      .toArray(),
  })
  const dealt = deal(rule, siteFor(rule, undefined, { surfaces: [surface(1, 5), surface(2, 0)] }))
  const placements = [
    testPlacement(1),
    testPlacement(2, { parentId: JETTY, translation: [5, 0, 0] }),
    testPlacement(3),
    testPlacement(4, { kind: 'arrangement', own: { rule } }),
    testPlacement(105, { parentId: LAWN }),
  ]
  const level = new LevelView(
    placements,
    {},
    { ground: null, dealt: id => (id === LAWN ? dealt : null), lampsOf: () => [] },
  )
  return { level, dealt }
}

const put = (id: string, fields: Extract<Operation, { do: 'put' }>['fields']): Operation => ({ do: 'put', id, fields })
const carriedBy = (level: LevelView, operations: Operation[]) =>
  carriedScatters(level, previewMatrices(level, operations))

describe('scatters whose surfaces are moved', () => {
  it('go along whole where all of their surfaces do, also by what these hang from', () => {
    const { level } = lawn({ on: [SURFACES[0]!] })
    const { matrices, dealt } = carriedBy(level, [put(JETTY, { translation: [0, 0, 7] })])
    expect([[...matrices.keys()], dealt.size]).toEqual([[LAWN], 0])
    expect(matrices.get(LAWN)!.elements.slice(12, 15)).toEqual([0, 0, 7])
    const both = carriedBy(lawn().level, [put(SLAB, { translation: [6, 0, 0] }), put(ROOF, { translation: [1, 0, 0] })])
    expect([[...both.matrices.keys()], both.dealt.size]).toEqual([[LAWN], 0])
  })

  it('go along in part where only some do, or where they are on the ground plane as well', () => {
    const { level, dealt } = lawn()
    const some = carriedBy(level, [put(JETTY, { translation: [0, 0, 7] })])
    expect([some.matrices.size, [...some.dealt.keys()]]).toEqual([0, [LAWN]])
    const gone = some.dealt.get(LAWN)!
    const ways = Array.from({ length: dealt.count }, (_, i) => [
      dealt.keys[i * 3]!,
      gone.matrices[i * 16 + 14]! - dealt.matrices[i * 16 + 14]!,
    ])
    expect(new Set(ways.map(([stream, way]) => `${stream} ${way!.toFixed(6)}`))).toEqual(
      new Set(['1 7.000000', '2 0.000000']),
    )
    const plane = carriedBy(lawn({ on: [SURFACES[0]!], plane: true }).level, [put(SLAB, { translation: [6, 0, 0] })])
    expect([plane.matrices.size, plane.dealt.size]).toEqual([0, 1])
  })

  it('go along in part only as far as there are few of them, of all scatters together', () => {
    const { level, dealt } = lawn()
    const count = 12_000
    const many = { ...dealt, count, keys: new Int32Array(3 * count).fill(1), matrices: new Float64Array(16 * count) }
    const [first, second] = [level.need(LAWN), { ...level.need(LAWN), id: testId(6) }]
    const surfaces = [JETTY, SLAB, ROOF].map(id => level.need(id))
    const crowded = new LevelView(
      [...surfaces, first, second],
      {},
      { ground: null, dealt: () => many, lampsOf: () => [] },
    )
    expect(crowded.scatters).toHaveLength(2)
    expect(carriedBy(crowded, [put(ROOF, { translation: [1, 0, 0] })]).dealt.size).toBe(1)
  })

  it('stay where nothing of theirs is moved, it is sized, or they are moved themselves', () => {
    const { level } = lawn()
    for (const operation of [
      put(testId(105), { translation: [1, 0, 0] }),
      put(SLAB, { scale: [2, 1, 1] }),
      put(LAWN, { translation: [0, 3, 0] }),
    ]) {
      const { matrices, dealt } = carriedBy(level, [operation])
      expect([matrices.size, dealt.size]).toEqual([0, 0])
    }
  })

  it('say of each copy where it would stand', () => {
    const { level, dealt } = lawn()
    const places = new PreviewedPlaces(level, [put(JETTY, { translation: [0, 0, 7] })])
    const ways = Array.from({ length: dealt.count }, (_, i) => {
      const key = [...dealt.keys.slice(i * 3, i * 3 + 3)].join(',')
      const id = copyId(LAWN, key)
      return `${dealt.keys[i * 3]} ${(places.matrixOf(id).elements[14]! - level.worldMatrix(id).elements[14]!).toFixed(6)}`
    })
    expect(new Set(ways)).toEqual(new Set(['1 7.000000', '2 0.000000']))
  })

  it('are known again after one is written', () => {
    const { level } = lawn()
    expect(level.scatters).toEqual([LAWN])
    applyChange(
      level,
      [testId(105), LAWN].map(id => ({ do: 'remove', id })),
    )
    expect(level.scatters).toEqual([])
  })
})
