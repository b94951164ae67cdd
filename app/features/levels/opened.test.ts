import { describe, expect, it } from 'vitest'
import { readOpened } from './opened'

describe('when levels were opened', () => {
  it('is read as it was kept', () => {
    expect(readOpened({ a: 3, b: 1.5 })).toEqual({ a: 3, b: 1.5 })
  })

  it.each([[null], [7], ['a'], [[1]], [{ a: 'yesterday' }], [{ a: null }]])('is not known where %j was kept', kept =>
    expect(readOpened(kept)).toEqual({}),
  )
})
