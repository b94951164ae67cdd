import fc from 'fast-check'
import { expect, it } from 'vitest'
import type { FoundLine } from './found-lines'
import { FoundLines } from './found-lines'

const STEP = 0.5
const line = fc.record({
  x0: fc.integer({ min: -3, max: 3 }),
  y0: fc.integer({ min: -3, max: 3 }),
  x1: fc.integer({ min: -3, max: 3 }),
  y1: fc.integer({ min: -3, max: 3 }),
  // Less than half a point off is the same place.
  off: fc.double({ min: -0.1, max: 0.1, noNaN: true }),
  depth: fc.integer({ min: 0, max: 5 }),
  isCut: fc.boolean(),
  layer: fc.integer({ min: 0, max: 2 }),
})

const all = (found: FoundLines) =>
  Array.from({ length: found.count }, (_, i) =>
    found.read(i, { x0: 0, y0: 0, x1: 0, y1: 0, depth: 0, isCut: false, layer: 0 }),
  )

/** The same by a map of texts. */
function byTexts(lines: readonly FoundLine[]): FoundLine[] {
  const found = new Map<string, FoundLine>()
  for (const each of lines) {
    const end = (x: number, y: number) => `${Math.round((x / STEP) * 2) + 0} ${Math.round((y / STEP) * 2) + 0}`
    const ends = [end(each.x0, each.y0), end(each.x1, each.y1)]
    if (ends[0] === ends[1]) continue
    const key = ends.sort().join(' ')
    const known = found.get(key)
    if (!known || (each.isCut && !known.isCut) || (each.isCut === known.isCut && each.depth > known.depth))
      found.set(key, each)
  }
  return [...found.values()]
}

it('keeps one line at each place: what is cut before all others, else the nearest', () => {
  fc.assert(
    fc.property(fc.array(line, { maxLength: 60 }), given => {
      const lines = given.map(({ off, ...each }) => ({ ...each, x0: each.x0 + off, y1: each.y1 - off }))
      const found = new FoundLines(STEP)
      for (const each of lines) found.put(each)
      expect(all(found)).toEqual(byTexts(lines))
    }),
  )
})

it('holds many, in order of when they were found', () => {
  const found = new FoundLines(STEP)
  const lines = Array.from({ length: 20_000 }, (_, i) => ({
    x0: i % 141,
    y0: Math.floor(i / 141),
    x1: -i,
    y1: 1000,
    depth: i,
    isCut: false,
    layer: i % 3,
  }))
  for (const each of [...lines, ...lines]) found.put(each)
  expect(all(found)).toEqual(lines)
})

it('knows a line again far from the origin', () => {
  const found = new FoundLines(0.001)
  const far = { x0: 9e6, y0: -9e6, x1: 9e6 + 1, y1: -9e6, depth: 0, isCut: false, layer: 0 }
  found.put(far)
  found.put({ ...far, depth: 1 })
  found.put({ ...far, x1: far.x1 + 1 })
  expect(all(found).map(({ depth }) => depth)).toEqual([1, 0])
})
