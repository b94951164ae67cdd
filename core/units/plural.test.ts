import { describe, expect, it } from 'vitest'
import { counted, wordFor } from './plural'

describe('numbers with their words', () => {
  it('are told in the singular for one alone', () => {
    expect([0, 1, 2, 2400].map(count => counted(count, 'thing'))).toEqual(['0 things', '1 thing', '2 things', '2,400 things'])
    expect([1, 3].map(count => counted(count, 'copy', 'copies'))).toEqual(['1 copy', '3 copies'])
    expect([1, 2].map(count => wordFor(count, 'becomes', 'become'))).toEqual(['becomes', 'become'])
  })
})
