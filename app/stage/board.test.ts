import { describe, expect, it } from 'vitest'
import { AXES_WRITTEN } from '~~/core/units/height'
import { boards, boardWith } from './board'

describe('the colours and letters of axes', () => {
  it('go with the letter that is written: what stands upright has those of Z with height along Z', () => {
    const { colors } = boards.night
    const [x, y, z] = [colors['axis-x'], colors['axis-y'], colors['axis-z']]
    expect(boardWith('night', AXES_WRITTEN.y)).toEqual(boards.night)
    expect(boardWith('night', AXES_WRITTEN.z)).toMatchObject({ axes: [x, z, y], letters: ['X', 'Z', 'Y'], colors })
  })
})
