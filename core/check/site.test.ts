import { BoxGeometry, Matrix4 } from 'three'
import { expect, it } from 'vitest'
import type { Box } from '../../tests/check-support'
import { checkBoxes } from '../../tests/check-support'
import { testId, testSolid } from '../../tests/support'
import { overlapOf } from '../mesh/overlap'
import { Placed } from '../mesh/placed'

const cube = (side: number) => testSolid(new BoxGeometry(side, side, side))

it('how deep two things are in each other is known once, until one is moved or its part is made anew', () => {
  const { site } = checkBoxes([{ size: [1, 1, 1] }]).check
  const [here, aside, farther] = [0, 0.8, 0.9].map(x => new Matrix4().makeTranslation(x, 0.03, 0.07)) as [
    Matrix4,
    Matrix4,
    Matrix4,
  ]
  const [small, large] = [cube(1), cube(1.1)]
  const first = site.overlap(new Placed(small, here), new Placed(small, aside))
  expect(first!.depth).toBeCloseTo(0.2, 4)
  expect(site.overlap(new Placed(small, here), new Placed(small, aside))).toBe(first)
  // The same places, and another mesh in one of them: half a tenth more.
  for (const [a, b] of [
    [small, large],
    [large, small],
  ] as const) {
    const anew = site.overlap(new Placed(a, here), new Placed(b, aside))!
    expect(anew.depth).toBeCloseTo(0.25, 4)
    expect(anew.depth).toBe(overlapOf(new Placed(a, here), new Placed(b, aside))!.depth)
  }
  expect(site.overlap(new Placed(small, here), new Placed(small, farther))!.depth).toBeCloseTo(0.1, 4)
})

it('what hangs from a thing is one with it, whichever of the two is asked first', () => {
  // The smaller one is wholly inside the other: their surfaces meet nowhere.
  const boxes: Box[] = [{ size: [2, 2, 2] }, { size: [0.5, 0.5, 0.5], translation: [0, 0.7, 0], parentId: testId(1) }]
  for (const order of [
    [1, 2],
    [2, 1],
  ]) {
    const { site } = checkBoxes(boxes).check
    for (const each of [1, 2]) site.forget(testId(each))
    for (const each of order) expect([...site.touchedBy(testId(each))]).toEqual([testId(3 - each)])
  }
})
