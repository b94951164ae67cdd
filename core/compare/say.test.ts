import { describe, expect, it } from 'vitest'
import { degreesToQuat } from '../math/transform'
import { AXES_WRITTEN } from '../units/height'
import { sayApart } from './say'

describe('a value that differs', () => {
  const said = (field: string, here: unknown, height: 'y' | 'z') =>
    sayApart(
      { path: [field], here, there: undefined },
      { length: metres => `${metres} m`, named: () => undefined, axes: AXES_WRITTEN[height] },
    ).here

  it('is said as the ledger has it, whichever way axes are written', () => {
    expect([said('translation', [1, 2, 3], 'y'), said('translation', [1, 2, 3], 'z')]).toEqual([
      '1 m, 2 m, 3 m',
      '1 m, -3 m, 2 m',
    ])
    expect([said('scale', [1, 2, 3], 'y'), said('scale', [1, 2, 3], 'z')]).toEqual(['1, 2, 3', '1, 3, 2'])
    const turned = degreesToQuat([10, 20, 30])
    expect([said('rotation', turned, 'y'), said('rotation', turned, 'z')]).toEqual(['10°, 20°, 30°', '10°, -30°, 20°'])
  })
})
