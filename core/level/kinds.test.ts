import { describe, expect, it } from 'vitest'
import { createPlacement } from './create'
import type { Kind } from './kinds'
import { anyOwnSchema, extrasOf, KIND_NAMES, KINDS, MARK_KINDS } from './kinds'
import { placementSchema } from './schema'

/** What each kind shows, whether it has a mark, and what is said of it in a file. */
const EACH: Record<Kind, { shows: string; isMark: boolean; extras: object }> = {
  part: { shows: 'part', isMark: false, extras: {} },
  block: { shows: 'block', isMark: false, extras: {} },
  arrangement: { shows: 'copies', isMark: false, extras: {} },
  group: { shows: 'nothing', isMark: false, extras: {} },
  camera: {
    shows: 'nothing',
    isMark: true,
    extras: { camera: { fieldOfView: 50, filmWidth: 36, aspect: 16 / 9, near: 0.1, far: 1000, aim: null, cut: null } },
  },
  light: { shows: 'nothing', isMark: true, extras: { light: KINDS.light.first } },
  marker: {
    shows: 'nothing',
    isMark: true,
    extras: { marker: { marker: 'note', text: '', tags: [], fields: {}, arrow: null } },
  },
}
const id = '00000000-0000-7000-8000-000000000001'

describe('the definition of each kind', () => {
  it('is as listed here', () => {
    expect(KIND_NAMES).toEqual(Object.keys(EACH))
    for (const kind of KIND_NAMES) {
      const { shows, isMark, first } = KINDS[kind]
      expect({ shows, isMark, extras: extrasOf({ kind, own: first }) }, kind).toEqual(EACH[kind])
    }
    expect(MARK_KINDS).toEqual(['camera', 'light', 'marker'])
    expect(new Set(KIND_NAMES.map(kind => KINDS[kind].icon)).size).toBe(KIND_NAMES.length)
  })

  it('comes as a placement that is taken', () => {
    for (const kind of KIND_NAMES) {
      const { shows, first } = KINDS[kind]
      const placement = createPlacement({
        id,
        name: 'Thing',
        kind,
        partId: shows === 'part' ? id : null,
        blockId: shows === 'block' ? id : null,
      })
      expect(placementSchema.safeParse(placement).error, kind).toBeUndefined()
      expect(anyOwnSchema.safeParse(first).success).toBe(true)
      expect(placementSchema.safeParse({ ...placement, own: { stranger: 1 } }).success).toBe(false)
    }
  })
})
