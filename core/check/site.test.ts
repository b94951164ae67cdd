import { BoxGeometry, Matrix4 } from 'three'
import { expect, it } from 'vitest'
import { checkBoxes } from '../../tests/check-support'
import { testSolid } from '../../tests/support'
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
