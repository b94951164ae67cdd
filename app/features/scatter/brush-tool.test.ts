import { describe, expect, it } from 'vitest'
import type { StageUse } from '~/editor/keys/stage-uses'
import { keyFor } from '~/editor/keys/test-keys'
import { testEditor } from '~/editor/test-editor'
import { BrushTool } from './brush-tool'

describe('the brush', () => {
  it('is made smaller, larger, weaker and stronger by its keys, within its limits', () => {
    const { world } = testEditor([])
    Object.assign(world.stage, { setSelection: () => {} })
    let brush = { radius: 0.5, strength: 0.5 }
    const events = { brush: () => brush, setBrush: (next: typeof brush) => (brush = next), hit: () => null }
    const tool = new BrushTool(world, 'add', events as never)
    const after = (use: StageUse, times = 1) => {
      brush = { radius: 0.5, strength: 0.5 }
      for (let i = 0; i < times; i++) expect(tool.key(keyFor(use))).toBe(true)
      return brush
    }
    expect(after('brushSmaller').radius).toBeLessThan(0.5)
    expect(after('brushLarger').radius).toBeGreaterThan(0.5)
    expect(after('brushWeaker')).toEqual({ radius: 0.5, strength: 0.4 })
    expect(after('brushStronger').strength).toBeCloseTo(0.6, 12)
    expect([after('brushSmaller', 200).radius, after('brushWeaker', 9).strength]).toEqual([0.01, 0.05])
    expect([after('brushLarger', 200).radius, after('brushStronger', 9).strength]).toEqual([1000, 1])
    expect([tool.key(keyFor()), tool.key(keyFor('brushLarger', false))]).toEqual([false, false])
  })
})
