import { expect, it } from 'vitest'
import { secondsLeft } from './progress'

it('reckons how long the rest takes by what was done since it was known, and not before that says something', () => {
  const known = (at: number, share: number) => ({ at, share })
  expect(secondsLeft(null, null)).toBeNull()
  expect(secondsLeft(known(0, 0.1), known(400, 0.5))).toBeNull()
  expect(secondsLeft(known(0, 0.1), known(5000, 0.12))).toBeNull()
  // A quarter in two seconds: the half that is left takes four.
  expect(secondsLeft(known(1000, 0.25), known(3000, 0.5))).toBeCloseTo(4, 9)
  expect(secondsLeft(known(0, 0), known(2000, 1))).toBe(0)
})
