import { describe, expect, it } from 'vitest'
import { Slot } from './slot'

describe('a slot', () => {
  it('shows what was shown last, and is emptied only by whoever has it', () => {
    const seen: (string | null)[] = []
    const slot = new Slot<string>(value => seen.push(value))
    const [drag, draft] = [slot.claim(), slot.claim()]
    draft(null)
    draft('a ring')
    drag('a move')
    draft(null)
    expect(seen).toEqual(['a ring', 'a move'])
    drag('further')
    drag(null)
    drag(null)
    expect(seen).toEqual(['a ring', 'a move', 'further', null])
    draft('a grid')
    drag(null)
    expect(seen.at(-1)).toBe('a grid')
  })
})
