import { describe, expect, it } from 'vitest'
import { keptSettingsSchema, withSettings } from './person-settings'

describe('what is kept of how somebody works', () => {
  it('is put together setting by setting, but of another version it is all there is', () => {
    const kept = { version: 2, settings: { textSize: 90, unit: 'cm' } }
    expect(withSettings(null, kept)).toEqual(kept)
    expect(withSettings(kept, { version: 2, settings: { textSize: 120 } }).settings).toEqual({
      textSize: 120,
      unit: 'cm',
    })
    expect(withSettings(kept, { version: 3, settings: { textSize: 120 } })).toEqual({
      version: 3,
      settings: { textSize: 120 },
    })
  })

  it('is bounded in number, depth and size, whatever it means', () => {
    const ok = (settings: unknown, version: unknown = 1) => keptSettingsSchema.safeParse({ version, settings }).success
    expect([ok({}), ok({ any: [{ thing: null }] }), ok({ 'a name': '' })]).toEqual([true, true, true])
    expect([ok({ '': 1 }), ok([]), ok(null), ok({ n: Infinity }), ok({}, 0), ok({}, 1.5)]).toEqual(
      Array.from({ length: 6 }, () => false),
    )
  })
})
