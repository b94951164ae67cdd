import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { placeLabel } from './label-place'

const room = { width: 744, height: 660 }
const size = { width: 210, height: 58 }
const at = fc.record({ x: fc.integer({ min: 0, max: room.width }), y: fc.integer({ min: 0, max: room.height }) })

describe('a label at the pointer', () => {
  it('is always wholly on the stage', () => {
    fc.assert(
      fc.property(at, fc.array(at, { maxLength: 3 }), (point, others) => {
        const { x, y } = placeLabel(
          point,
          size,
          room,
          others.map(other => ({ left: other.x - 40, right: other.x + 40, top: other.y - 30, bottom: other.y + 30 })),
        )
        expect(x).toBeGreaterThanOrEqual(0)
        expect(y).toBeGreaterThanOrEqual(0)
        expect(x + size.width).toBeLessThanOrEqual(room.width)
        expect(y + size.height).toBeLessThanOrEqual(room.height)
      }),
    )
  })

  it('leaves what is dragged in sight wherever there is room on any of its sides', () => {
    fc.assert(
      fc.property(at, fc.integer({ min: 10, max: 110 }), fc.integer({ min: 10, max: 110 }), (point, w, h) => {
        // The pointer holds the thing somewhere in it.
        const thing = { left: point.x - w / 3, right: point.x + w, top: point.y - h, bottom: point.y + h / 2 }
        const { x, y } = placeLabel(point, size, room, [thing])
        const isCovered =
          x < thing.right && x + size.width > thing.left && y < thing.bottom && y + size.height > thing.top
        expect(isCovered).toBe(false)
      }),
    )
  })

  it('is near the pointer, to the right and above where it may', () => {
    expect(placeLabel({ x: 300, y: 300 }, size, room, [])).toEqual({ x: 316, y: 226 })
    // At an edge it comes in, and stays above the pointer.
    expect(placeLabel({ x: 700, y: 300 }, size, room, [])).toMatchObject({
      x: expect.toSatisfy((x: number) => x + size.width <= room.width),
      y: 226,
    })
    // Below the upper edge it slides down beside the pointer, never over it.
    expect(placeLabel({ x: 300, y: 10 }, size, room, [])).toEqual({ x: 316, y: 4 })
  })
})
