import { Vector3 } from 'three'
import { expect, it } from 'vitest'
import { levelOfBoxes, testId } from '../../tests/support'
import { blockedBy } from './blocked-view'

it('a wall right before a camera blocks its view, a post or a far wall does not', () => {
  const see = (size: [number, number, number], z: number) =>
    blockedBy(
      levelOfBoxes([{ size, translation: [0, 0, z] }]).index,
      new Vector3(0, 1.5, 0),
      new Vector3(0, 1.5, -1),
      50,
      16 / 9,
    )
  expect(see([4, 3, 0.2], -0.6)).toBe(testId(1))
  expect(see([4, 3, 0.2], -3)).toBeNull()
  expect(see([0.1, 3, 0.1], -0.6)).toBeNull()
})
