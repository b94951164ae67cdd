import fc from 'fast-check'
import { Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyVec3 } from '../../../tests/support'
import type { Constraint } from '../handles/lock'
import { axesOnGrid, snapOffset, WORLD_GRID } from './grid'

const step = { size: 0.25, lattice: true }
const straight = new Quaternion()
const anyConstraint: fc.Arbitrary<Constraint> = fc.constantFrom(
  ...([0, 1, 2] as const).flatMap(axis => [
    { kind: 'axis' as const, axis },
    { kind: 'plane' as const, axis },
  ]),
  { kind: 'view' as const },
)

describe('what is said of the grid', () => {
  it('is true of whatever was snapped to it, and all that the drag could change: property', () => {
    fc.assert(
      fc.property(anyVec3, anyVec3, anyConstraint, (from, way, constraint) => {
        const start = new Vector3(...from)
        const offset = snapOffset(start, new Vector3(...way), constraint, straight, step, WORLD_GRID)
        const { axes, whole } = axesOnGrid(start, offset, constraint, straight, step, WORLD_GRID)
        expect(whole).toBe(true)
        const end = start.clone().add(offset)
        for (const axis of axes)
          expect(Math.abs(end.getComponent(axis) / 0.25 - Math.round(end.getComponent(axis) / 0.25))).toBeLessThan(1e-5)
      }),
    )
  })

  it('names only the axes that are: a face that was met at 2.3 m is not on it', () => {
    const said = axesOnGrid(
      new Vector3(),
      new Vector3(2.3, 0, 1.25),
      { kind: 'plane', axis: 1 },
      straight,
      step,
      WORLD_GRID,
    )
    expect(said).toEqual({ axes: [2], whole: false })
    expect(
      axesOnGrid(new Vector3(0.1, 0, 0), new Vector3(0.5, 0, 0), { kind: 'axis', axis: 0 }, straight, step, WORLD_GRID)
        .axes,
    ).toEqual([])
    // In increments it has gone whole steps; a height that the ground decided is not asked about.
    expect(
      axesOnGrid(
        new Vector3(0.1, 0, 0),
        new Vector3(0.5, 0, 0),
        { kind: 'axis', axis: 0 },
        straight,
        { size: 0.25, lattice: false },
        WORLD_GRID,
      ).whole,
    ).toBe(true)
    expect(
      axesOnGrid(new Vector3(), new Vector3(0.5, 0.13, 0.5), { kind: 'view' }, straight, step, WORLD_GRID, true),
    ).toEqual({ axes: [0, 2], whole: true })
    expect(
      axesOnGrid(
        new Vector3(),
        new Vector3(0.5, 0, 0),
        { kind: 'view' },
        straight,
        { size: 0, lattice: true },
        WORLD_GRID,
      ),
    ).toEqual({ axes: [], whole: false })
  })
})
