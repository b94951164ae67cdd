import { describe, expect, it } from 'vitest'
import { counted, countedOf, wordFor } from './plural'

describe('numbers with their words', () => {
  it('are told in the singular for one alone', () => {
    expect([0, 1, 2, 2400].map(count => counted(count, 'thing'))).toEqual([
      '0 things',
      '1 thing',
      '2 things',
      '2,400 things',
    ])
    expect([1, 3].map(count => counted(count, 'copy', 'copies'))).toEqual(['1 copy', '3 copies'])
    expect([1, 2].map(count => wordFor(count, 'becomes', 'become'))).toEqual(['becomes', 'become'])
  })

  it('go with words that are given for many', () => {
    expect([
      countedOf(1, 'parts'),
      countedOf(1, 'parts known'),
      countedOf(1, 'copies'),
      countedOf(1, 'meshes'),
      countedOf(0, 'nodes'),
      countedOf(1200, 'triangles'),
    ]).toEqual(['1 part', '1 part known', '1 copy', '1 mesh', '0 nodes', '1,200 triangles'])
  })
})
