import { cameraOwn } from './create'
import { describe, expect, it } from 'vitest'
import { testId, testPlacement } from '../../tests/support'
import type { Part } from './part'
import { Level } from './level'
import { findPlacements, findSimilar } from './find'
import type { NamePiece } from './rename'
import { FIRST_NUMBER, patternFor, renameMany } from './rename'

const lantern = { name: 'Lantern post', kind: 'prop', tags: ['iron', 'light'] } as unknown as Part
const thing = { kind: 'part' as const, partId: testId(99) }
const level = new Level(
  [
    testPlacement(1, { ...thing, name: 'By the gate' }),
    testPlacement(2, { ...thing, name: 'By the water', layerId: testId(70) }),
    testPlacement(3, { kind: 'camera', own: cameraOwn({ fieldOfView: 50 }), name: 'Water view' }),
  ],
  { layers: [{ id: testId(70), name: 'Quay', color: '#0e6e6e', visible: true, locked: false, order: 0 }] },
)
const numbers = (ids: string[]) => ids.map(id => Number.parseInt(id.slice(-4), 16))
const find = (text: string) =>
  numbers(findPlacements(level, text, { part: id => (id === testId(99) ? lantern : undefined) }))

describe('findPlacements', () => {
  it.each([
    ['WATER', [2, 3]],
    ['lantern', [1, 2]],
    ['iron gate', [1]],
    ['camera', [3]],
    ['quay', [2]],
    ['quay camera', []],
    [' ', []],
    ['.*', []],
  ] as const)('%j finds %j', (text, expected) => {
    expect(find(text)).toEqual(expected)
  })
})

describe('findSimilar', () => {
  const sizes: Record<string, number[]> = { [testId(1)]: [1, 2, 1], [testId(2)]: [1.05, 2, 1] }
  const context = { sizeOf: (id: string) => sizes[id] ?? null, materialsOf: (partId: string | null) => partId ?? '' }
  const none = { part: false, kind: false, layer: false, material: false, size: false, tolerance: 0 }
  const like = (more: Partial<typeof none>) => numbers(findSimilar(level, testId(1), { ...none, ...more }, context))
  it('finds by what is ticked', () => {
    expect(like({})).toEqual([])
    expect(like({ part: true })).toEqual([1, 2])
    expect(like({ part: true, layer: true })).toEqual([1])
    expect(like({ size: true })).toEqual([1])
    expect(like({ size: true, tolerance: 6 })).toEqual([1, 2])
    expect(like({ material: true, kind: true })).toEqual([1, 2])
  })
})

describe('renameMany', () => {
  it('puts text, the old name, the part, the layer and a number that counts on in a row, and replaces plainly', () => {
    const things = ['Post 1', 'Post 2', 'Post 3'].map((name, i) => ({
      name,
      part: 'Lantern post',
      layer: i === 0 ? 'Quay' : '',
    }))
    const named = (pieces: NamePiece[], replace: { find: string; by: string } | null = null) =>
      renameMany(things, { pieces, replace })
    expect(named([{ text: 'Lamp ' }, { is: 'number', width: 3, start: 9, step: 1 }])).toEqual([
      'Lamp 009',
      'Lamp 010',
      'Lamp 011',
    ])
    expect(
      named([
        { is: 'part' },
        { text: ' ' },
        { is: 'number', width: 1, start: 10, step: -5 },
        { text: ', ' },
        { is: 'layer' },
      ]),
    ).toEqual(['Lantern post 10, Quay', 'Lantern post 5,', 'Lantern post 0,'])
    expect(named([{ text: 'q_' }, { is: 'old' }, { text: '!' }], { find: 'Post', by: 'Lamp $& post' })[0]).toBe(
      'q_Lamp $& post 1!',
    )
    expect(named([{ is: 'old' }], { find: '.', by: '-' })[0]).toBe('Post 1')
    expect(named([{ is: 'old' }])).toEqual(things.map(({ name }) => name))
    expect(named([{ is: 'number', width: 2, start: 1, step: -3 }])).toEqual(['01', '-02', '-05'])
  })

  it('begins with what the names have in common, numbered, or with the old names', () => {
    expect(patternFor(['Stall 4', 'Stall 9', 'Stall']).pieces).toEqual([{ text: 'Stall ' }, FIRST_NUMBER])
    expect(patternFor(['Stall 4', 'Crate 1']).pieces).toEqual([{ is: 'old' }])
    expect(patternFor(['12', '13']).pieces).toEqual([{ is: 'old' }])
  })
})
