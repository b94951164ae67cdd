import fc from 'fast-check'
import { Box3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { Chosen, ChunkSource } from './choose-chunks'
import { Pieces } from './pieces'

const sources: ChunkSource[] = [
  {
    chunks: [],
    levels: [
      { triangles: 1000, error: 0 },
      { triangles: 12, error: 1 },
    ],
    isClear: false,
  },
  { chunks: [], levels: [{ triangles: 70, error: 0 }], isClear: true },
]
const box = new Box3()

/** Chunks one behind the other in one list of instances. */
function chosenOf(counts: readonly (readonly [number, number])[]): Chosen[] {
  let start = 0
  return counts.map(([kind, count]) => {
    const chunk = { start, count, box }
    start += count
    return { source: kind === 2 ? 1 : 0, level: kind === 1 ? 1 : 0, count, chunk }
  })
}

const anyChunks = fc.array(fc.tuple(fc.integer({ min: 0, max: 2 }), fc.integer({ min: 1, max: 400 })), {
  maxLength: 30,
})

describe('pieces of a picture', () => {
  it('hold each instance once, in the order given, and no more triangles than asked unless one has more', () => {
    fc.assert(
      fc.property(anyChunks, fc.integer({ min: 1, max: 100_000 }), (counts, most) => {
        const chosen = chosenOf(counts)
        const pieces = new Pieces(sources, chosen)
        const drawn: string[] = []
        let [rounds, before] = [0, -1]
        while (!pieces.isOver) {
          const piece = pieces.take(most)
          const cost = piece.chosen.map(each => each.count * sources[each.source]!.levels[each.level]!.triangles)
          expect(piece.triangles).toBe(cost.reduce((sum, each) => sum + each, 0))
          const isOne = piece.chosen.length === 1 && piece.chosen[0]!.count === 1
          expect(piece.triangles <= most || isOne).toBe(true)
          for (const { source, level, chunk, count } of piece.chosen) {
            expect(chunk.count).toBe(count)
            for (let i = 0; i < count; i++) drawn.push(`${chunk.start + i} ${source} ${level}`)
          }
          expect(pieces.share).toBeGreaterThan(before)
          before = pieces.share
          expect(++rounds).toBeLessThan(20_000)
        }
        expect(pieces.share).toBe(1)
        expect(drawn).toEqual(
          chosen.flatMap(({ chunk, count, source, level }) =>
            Array.from({ length: count }, (_, i) => `${chunk.start + i} ${source} ${level}`),
          ),
        )
      }),
      { numRuns: 60 },
    )
  })

  it('of nothing are none', () => {
    const pieces = new Pieces(sources, [])
    expect([pieces.isOver, pieces.share]).toEqual([true, 1])
  })
})
