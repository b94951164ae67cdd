import { describe, expect, it } from 'vitest'
import { EXERCISE_NAMES } from '~~/core/learn/exercises'
import { readProgress } from './progress'

describe('how far somebody is', () => {
  const [one, other] = EXERCISE_NAMES

  it('is read as it was kept', () => {
    expect(readProgress({ done: [one], skipped: [other] })).toEqual({ done: [one], skipped: [other] })
  })

  it.each([
    [null],
    [7],
    ['done'],
    [[]],
    [{ done: 'all' }],
    [{ done: null, skipped: {} }],
    [{ done: ['no-such', 3, {}] }],
  ])('is at the beginning where %j was kept', kept => expect(readProgress(kept)).toEqual({ done: [], skipped: [] }))

  it('keeps what is known beside what is not', () => {
    expect(readProgress({ done: [one, 'gone by now'], skipped: 1 })).toEqual({ done: [one], skipped: [] })
  })
})
