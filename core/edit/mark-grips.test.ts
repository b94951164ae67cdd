import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { KINDS } from '../level/kinds'
import type { KindDefinition } from '../level/kind-definition'
import { cameraOwn, lightOwn, markerOwn } from '../level/create'
import { dragMark, gripsOfMark } from './mark-grips'

const on = { at: [1, 2, 3] as [number, number, number], on: null, point: [1, 2, 3] as [number, number, number] }
const dragged = (own: Parameters<typeof dragMark>[0], index: number, ...to: [number, number, number]) =>
  dragMark(own, gripsOfMark(own, null)[index]!, new Vector3(...to), on)

describe('the grips of marks', () => {
  it('lie where the range, the cone and the sizes of lights are, and drag them', () => {
    const spot = lightOwn({ light: 'spot', range: 10, outerCone: 45, innerCone: 30 })
    expect(
      gripsOfMark(spot, null).map(({ name, at }) => [name, ...at.toArray().map(value => Number(value.toFixed(6)))]),
    ).toEqual([
      ['aim', 0, 0, -5],
      ['range', 0, 0, -10],
      ['cone', 10, 0, -10],
    ])
    expect(dragged(spot, 1, 0, 0, -4)).toMatchObject({ range: 4 })
    // tan 30° = 0.57735.
    expect(dragged(spot, 2, 5.7735, 0, -10)).toMatchObject({ outerCone: 30, innerCone: 29.5 })
    expect(dragged(lightOwn({ light: 'point' }), 0, 0, 3, 4)).toMatchObject({ range: 5 })
    expect(dragged(lightOwn({ light: 'area' }), 1, 2, 0, 0)).toMatchObject({ width: 4 })
    expect(dragged(lightOwn({ light: 'area' }), 2, 0, 0.75, 0)).toMatchObject({ height: 1.5 })
  })

  it('never drag a light or a line to where it could not be kept', () => {
    for (const own of [
      ...(['sun', 'point', 'spot', 'area'] as const).map(light => lightOwn({ light })),
      markerOwn('walk'),
      markerOwn('note'),
      cameraOwn({ aim: on }),
    ]) {
      const kind = 'light' in own ? 'light' : 'marker' in own ? 'marker' : 'camera'
      for (const [i] of gripsOfMark(own, null).entries()) {
        for (const to of [
          [0, 0, 0],
          [1e5, 1e5, 1e5],
          [-3, -2, 7],
          [0, 0, 9],
        ] as [number, number, number][]) {
          const next = dragged(own, i, ...to)
          if (next)
            expect(
              (KINDS[kind] as unknown as KindDefinition<object, boolean>).own.safeParse(next).error,
            ).toBeUndefined()
        }
      }
    }
  })

  it('turn what has no aim, and aim what has one; points of a line and arrows follow', () => {
    expect(dragged(cameraOwn(), 0, 1, 2, 3)).toBeNull()
    expect(dragged(cameraOwn({ aim: { ...on, at: [0, 0, 0] } }), 0, 1, 2, 3)).toMatchObject({ aim: on })
    expect(
      dragged(
        markerOwn('walk', {
          points: [
            [0, 0, 0],
            [0, 0, 1],
            [0, 0, 2],
          ],
        }),
        1,
        1,
        0.5,
        1,
      ),
    ).toMatchObject({
      points: [
        [0, 0, 0],
        [1, 0.5, 1],
        [0, 0, 2],
      ],
    })
    expect(dragged(markerOwn('note'), 0, 1, 2, 3)).toMatchObject({ arrow: on })
    expect(gripsOfMark(markerOwn('spawn'), null)).toEqual([])
  })
})
