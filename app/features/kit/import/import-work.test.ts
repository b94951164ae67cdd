import { BoxGeometry } from 'three'
import { describe, expect, it } from 'vitest'
import { readPartGlb, writePartGlb } from '~~/core/formats/part-glb'
import { meshBounds } from '~~/core/mesh/mesh'
import { testSolid } from '../../../../tests/support'
import { importWork } from './import-work'

const choice = { unit: 'm', up: 'y', pivot: [0, -1, 0], whole: true, triangles: null, pixels: null } as const

describe('bringing in, in a worker', () => {
  it('packs, reads, takes as chosen, and writes what the kit stores', async () => {
    const work = importWork()
    const file = await writePartGlb('Trestle', testSolid(new BoxGeometry(2, 1, 0.5)).mesh)
    const packed = await work.pack([{ name: 'trestle.glb', bytes: file }])
    const facts = await work.open(packed as Uint8Array)
    expect(facts).toMatchObject({ unit: 'm', names: [expect.any(String)], notes: [] })
    const made = await work.choose({ ...choice, unit: 'cm' })
    expect('refused' in made ? made : made.parts).toHaveLength(1)
    const { mesh } = await readPartGlb(await work.write(0, 'Trestle'))
    const { min, max } = meshBounds(mesh)
    // A hundredth of it, standing on its pivot.
    expect([max.x - min.x, min.y, max.y].map(value => value.toFixed(5))).toEqual(['0.02000', '0.00000', '0.01000'])
  })

  it('refuses nonsense in words, and has nothing to choose from then', async () => {
    const work = importWork()
    expect(await work.pack([{ name: 'a.glb', bytes: new Uint8Array([1, 2, 3]) }])).toMatchObject({
      refused: expect.any(String) as string,
    })
    expect(await work.choose({ ...choice, pivot: [0, -1, 0] })).toEqual({ refused: 'there is nothing to choose from' })
  })
})
