import { describe, expect, it } from 'vitest'
import { toolBench } from '~/editor/tool-bench'
import { actionsByKey } from './actions-by-key'
import { useActions } from './use-actions'

describe('actions', () => {
  it('have each a name and a key of their own', () => {
    toolBench([])
    expect(actionsByKey(useActions().actions).size).toBeGreaterThan(60)
  })

  it('are refused where two have one key, or one name', () => {
    const run = () => {}
    expect(() => actionsByKey([{ name: 'Group', key: 'g', run }, { name: 'Set down', key: 'g', run }])).toThrow('g does "Group" already')
    expect(() => actionsByKey([{ name: 'Group', key: 'g', run }, { name: 'Group', key: 'h', run }])).toThrow('two actions are called "Group"')
    expect([...actionsByKey([{ name: 'Copy', key: 'Ctrl+c', byBrowser: true, run }, { name: 'Cut', key: 'x', run }]).keys()]).toEqual(['x'])
  })
})
