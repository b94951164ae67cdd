import { cameraOwn } from './create'
import { describe, expect, it } from 'vitest'
import { testId, testPlacement } from '../../tests/support'
import type { Part } from './part'
import { Level } from './level'
import { findPlacements, findSimilar } from './find'
import { plainRename, renameMany } from './rename'

const lantern = { name: 'Lantern post', kind: 'prop', tags: ['iron', 'light'] } as unknown as Part
const thing = { kind: 'part' as const, partId: testId(99) }
const level = new Level([
  testPlacement(1, { ...thing, name: 'By the gate' }),
  testPlacement(2, { ...thing, name: 'By the water', layerId: testId(70) }),
  testPlacement(3, { kind: 'camera', own: cameraOwn({ fieldOfView: 50 }), name: 'Water view' }),
], { layers: [{ id: testId(70), name: 'Quay', color: '#0e6e6e', visible: true, locked: false, order: 0 }] })
const numbers = (ids: string[]) => ids.map(id => Number.parseInt(id.slice(-4), 16))
const find = (text: string) => numbers(findPlacements(level, text, { part: id => id === testId(99) ? lantern : undefined }))

describe('findPlacements', () => {
  it.each([['WATER', [2, 3]], ['lantern', [1, 2]], ['iron gate', [1]], ['camera', [3]], ['quay', [2]], ['quay camera', []], [' ', []], ['.*', []]] as const)('%j finds %j', (text, expected) => {
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
  it('puts together base, number, prefix and suffix, and replaces plainly', () => {
    expect(renameMany(['a', 'b'], { ...plainRename, base: 'Lamp', width: 3, start: 9 })).toEqual(['Lamp 009', 'Lamp 010'])
    expect(renameMany(['Post 1', 'Post 2'], { ...plainRename, find: 'Post', replace: 'Lamp $& post', prefix: 'q_', suffix: '!' })).toEqual(['q_Lamp $& post 1!', 'q_Lamp $& post 2!'])
    expect(renameMany(['x.y.z'], { ...plainRename, find: '.', replace: '-' })).toEqual(['x-y-z'])
    expect(renameMany(['same'], plainRename)).toEqual(['same'])
  })
})
