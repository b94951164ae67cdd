import { BoxGeometry } from 'three'
import { describe, expect, it } from 'vitest'
import { toColumns } from '~~/core/level/columns'
import { recordsOf } from '~~/core/level/level'
import type { Lamp } from '~~/core/level/part'
import type { Placement } from '~~/core/level/schema'
import type { Vec3 } from '~~/core/math/vectors'
import { bareView } from '~~/core/scene/level-view'
import { checkBoxes } from '../../../tests/check-support'
import { lightOwn } from '~~/core/level/create'
import { testId, testPlacement, testSolid } from '../../../tests/support'
import type { CheckNews, KnownPart } from './check-work'
import { checkWork } from './check-work'

const RECORDS = recordsOf(bareView())
const LAMP: Lamp = { at: [0, 0, 0], rotation: [0, 0, 0, 1], light: lightOwn({ light: 'point' }) }
const partOf = (number: number, size: Vec3, more: Partial<KnownPart> = {}): KnownPart => ({
  id: testId(1000 + number),
  name: `Box ${number}`,
  kind: 'prop',
  tags: [],
  inKit: true,
  lamps: [],
  mesh: { hash: `${number} ${size.join()}`, primitives: testSolid(new BoxGeometry(...size)).mesh.primitives },
  ...more,
})
const boxAt = (number: number, translation: Vec3): Placement =>
  testPlacement(number, { kind: 'part', partId: testId(1000 + number), translation })

/** A floor, a wall on it, and something that touches the wall from beside, two metres up. */
const SCENE = [boxAt(1, [0, 0, 0]), boxAt(2, [0, 0.1, 0]), boxAt(3, [0.3, 2, 0])]
const PARTS = (lamps: Lamp[] = []) => [
  partOf(1, [10, 0.1, 10], { tags: ['ground'] }),
  partOf(2, [0.2, 4, 2]),
  partOf(3, [0.4, 0.4, 0.4], { lamps }),
]

async function opened(placements: Placement[], parts: KnownPart[]) {
  const work = checkWork()
  let last: CheckNews | null = null
  // In two goes, as from a page.
  for (const some of [placements.slice(0, 1), placements.slice(1)]) work.take(toColumns(some))
  await work.open(RECORDS, { parts, dealt: [] }, news => void (last = news))
  return {
    work,
    kinds: () =>
      last!.findings.map(({ of, things }) => `${of} ${things.map(id => Number(id.slice(-4))).join()}`).toSorted(),
    news: () => last!,
  }
}

describe('the check in its worker', () => {
  it('finds what a check without a worker finds', async () => {
    const { kinds } = await opened(SCENE, PARTS())
    const plain = checkBoxes([
      { size: [10, 0.1, 10], tags: ['ground'] },
      { size: [0.2, 4, 2], translation: [0, 0.1, 0] },
      { size: [0.4, 0.4, 0.4], translation: [0.3, 2, 0] },
    ])
    expect(kinds()).toEqual(
      plain.check.findings.map(({ of, things }) => `${of} ${things.map(id => Number(id.slice(-4))).join()}`).toSorted(),
    )
    expect(kinds()).toContain('hanging 3')
  })

  it('knows what brings a light, which may hang', async () => {
    expect((await opened(SCENE, PARTS([LAMP]))).kinds()).not.toContain('hanging 3')
  })

  it('follows changes, and a part that is made anew', async () => {
    const { work, kinds, news } = await opened(SCENE, PARTS())
    await work.change({
      operations: [{ do: 'put', id: testId(3), fields: { translation: [0.3, 0.1, 0] } }],
      parts: [],
      dealt: [],
    })
    expect([kinds().includes('hanging 3'), news().progress]).toEqual([false, null])
    // A wall that is only half as high leaves what hung at its top in the air.
    await work.change({
      operations: [{ do: 'put', id: testId(3), fields: { translation: [0.3, 3.5, 0] } }],
      parts: [],
      dealt: [],
    })
    expect(kinds()).toContain('hanging 3')
    await work.change({ operations: [], parts: [partOf(2, [0.2, 2, 2])], dealt: [] })
    expect(kinds()).toContain('floating 3')
    const { operations, done } = work.fix(
      news()
        .findings.filter(({ of }) => of === 'floating')
        .map(({ key }) => key),
    )
    expect([done.length, operations]).toEqual([
      1,
      [{ do: 'put', id: testId(3), fields: { translation: [0.3, 2.1, 0] } }],
    ])
  })

  it('waits while a hand is at work', async () => {
    const work = checkWork()
    const told: (number | null)[] = []
    work.giveWay(true)
    const many = Array.from({ length: 3000 }, (_, i) =>
      testPlacement(10 + i, {
        kind: 'part',
        partId: testId(1003),
        translation: [(i * 0.3) % 60, 2, Math.floor((i * 0.3) / 60)],
      }),
    )
    work.take(toColumns([...SCENE, ...many]))
    const whole = work.open(RECORDS, { parts: PARTS(), dealt: [] }, ({ progress }) => void told.push(progress))
    await new Promise(resolve => setTimeout(resolve, 300))
    expect(told).not.toContain(null)
    work.giveWay(false)
    await whole
    expect(told.at(-1)).toBeNull()
  })
})
