import { reactive } from 'vue'
import { describe, expect, it } from 'vitest'
import { putValue, valueAt } from './field'

describe('values of forms', () => {
  it('are looked up and put at a path, also in a list, and what is given stays', () => {
    const given = { by: [1, 2, 3], as: 'copy', room: { ends: true } }
    const next = putValue(given, ['by', 1], 5)
    expect([next.by, given.by, next.room === given.room, Array.isArray(next.by)]).toEqual([
      [1, 5, 3],
      [1, 2, 3],
      true,
      true,
    ])
    expect([valueAt(next, ['by', 1]), valueAt(next, ['gone', 'far'])]).toEqual([5, undefined])
    expect(putValue(given, ['room'], undefined)).toEqual({ by: [1, 2, 3], as: 'copy' })
    expect(putValue(given, ['room', 'ends'], false).room).toEqual({ ends: false })
  })

  it('may be of something that a page watches', () => {
    const kept = reactive({ by: [0, 0, 0] })
    expect(putValue(kept, ['by', 2], 1.5).by).toEqual([0, 0, 1.5])
    expect(kept.by).toEqual([0, 0, 0])
  })
})
