import fc from 'fast-check'
import { Box3, Matrix4, Sphere, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { ChunkSource, ChunkView } from './choose-chunks'
import { chooseAll, chooseChunks } from './choose-chunks'
import { ChunkedMatrices } from './chunked-matrices'

const everywhere: ChunkView = {
  isSeen: () => true,
  distanceTo: box => box.distanceToPoint(new Vector3()),
  pixelsAt: distance => 1000 / Math.max(distance, 0.1),
}
const levels = [
  { triangles: 1000, error: 0 },
  { triangles: 100, error: 0.02 },
  { triangles: 12, error: 0.5 },
]
const anyPlace = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -300, max: 300, noNaN: true })))

function chunked(places: readonly (readonly number[])[]): ChunkedMatrices {
  const array = new Float32Array(places.flatMap(([x, y, z]) => new Matrix4().makeTranslation(x!, y!, z!).elements))
  return new ChunkedMatrices(array, places.length, new Sphere(new Vector3(0, 1, 0), 2))
}

describe('chunks of instances', () => {
  it('hold each instance once, all of it within the box of its chunk', () => {
    fc.assert(
      fc.property(fc.array(anyPlace, { minLength: 1, maxLength: 200 }), places => {
        const { chunks, sorted, count } = chunked(places)
        expect(chunks.reduce((sum, chunk) => sum + chunk.count, 0)).toBe(count)
        const found = Array.from({ length: count }, (_, i) =>
          [...sorted.subarray(i * 16 + 12, i * 16 + 15)].join(),
        ).sort()
        expect(found).toEqual(places.map(place => place.map(Math.fround).join()).sort())
        for (const { start, count: many, box } of chunks) {
          for (let i = start; i < start + many; i++) {
            const [x, y, z] = sorted.subarray(i * 16 + 12, i * 16 + 15)
            expect(
              box
                .clone()
                .expandByScalar(1e-3)
                .containsBox(new Box3(new Vector3(x! - 2, y! - 1, z! - 2), new Vector3(x! + 2, y! + 3, z! + 2))),
            ).toBe(true)
          }
        }
      }),
    )
  })

  it('follow one instance that is moved, however far', () => {
    const matrices = chunked([
      [0, 0, 0],
      [1, 0, 0],
      [200, 0, 0],
    ])
    const array = new Float32Array(48)
    array.set(new Matrix4().makeTranslation(0, 50, 0).elements, 16)
    matrices.write(1, array)
    const [chunk] = matrices.chunks.filter(({ box }) => box.containsPoint(new Vector3(0, 50, 0)))
    expect(chunk!.count).toBe(2)
    expect([...matrices.sorted].filter((value, i) => i % 16 === 13 && value === 50)).toHaveLength(1)
  })

  it('are drawn within the limit, each no more than once, by meshes that lie off by no more than is said', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(anyPlace, { minLength: 1, maxLength: 60 }), { minLength: 1, maxLength: 4 }),
        fc.integer({ min: 500, max: 300_000 }),
        (all, limit) => {
          const sources: ChunkSource[] = all.map(places => ({ chunks: chunked(places).chunks, levels, isClear: false }))
          const { chosen, triangles, error } = chooseChunks(sources, everywhere, limit)
          expect(triangles).toBeLessThanOrEqual(limit)
          expect(
            chosen.reduce(
              (sum, { source, level, count }) => sum + count * sources[source]!.levels[level]!.triangles,
              0,
            ),
          ).toBe(triangles)
          expect(new Set(chosen.map(({ chunk }) => chunk)).size).toBe(chosen.length)
          for (const { chunk, level, count } of chosen) {
            expect(count).toBeGreaterThan(0)
            expect(count).toBeLessThanOrEqual(chunk.count)
            if (Number.isFinite(error))
              expect(levels[level]!.error * everywhere.pixelsAt(everywhere.distanceTo(chunk.box))).toBeLessThanOrEqual(
                error,
              )
          }
          // Nothing is left out as long as boxes are few enough.
          const placed = all.reduce((sum, places) => sum + places.length, 0)
          if (placed * 1000 <= limit) expect(chosen.reduce((sum, { count }) => sum + count, 0)).toBe(placed)
        },
      ),
    )
  })

  it('are drawn whole where they are near, and thinned evenly where they are far', () => {
    const near = Array.from({ length: 10 }, (_, i) => [i, 0, 3])
    const far = Array.from({ length: 4000 }, (_, i) => [100 + (i % 63) * 3, 0, 100 + Math.floor(i / 63) * 3])
    const { chosen, error } = chooseChunks(
      [{ chunks: chunked([...near, ...far]).chunks, levels, isClear: false }],
      everywhere,
      30_000,
    )
    expect(error).toBe(Infinity)
    const isNear = (box: Box3) => everywhere.distanceTo(box) < 60
    expect(
      chosen
        .filter(({ chunk }) => isNear(chunk.box))
        .every(({ count, chunk, level }) => count === chunk.count && level < 2),
    ).toBe(true)
    const shares = chosen
      .filter(({ chunk, count }) => !isNear(chunk.box) && chunk.count > 30 && count < chunk.count)
      .map(({ count, chunk }) => count / chunk.count)
    expect(Math.max(...shares) - Math.min(...shares)).toBeLessThan(0.1)
    expect(Math.min(...shares)).toBeGreaterThan(0.1)
  })

  it('are all drawn in a whole picture, by the coarsest mesh that lies off by no more than is said, the largest first', () => {
    fc.assert(
      fc.property(fc.array(anyPlace, { minLength: 1, maxLength: 200 }), places => {
        const { chunks } = chunked(places)
        const chosen = chooseAll([{ chunks, levels, isClear: false }], everywhere, 1)
        expect(new Set(chosen.map(({ chunk }) => chunk)).size).toBe(chunks.length)
        let before = Infinity
        for (const { chunk, level, count } of chosen) {
          expect(count).toBe(chunk.count)
          const pixels = everywhere.pixelsAt(everywhere.distanceTo(chunk.box))
          expect(levels[level]!.error * pixels).toBeLessThanOrEqual(1)
          if (level < 2) expect(levels[level + 1]!.error * pixels).toBeGreaterThan(1)
          expect(pixels).toBeLessThanOrEqual(before)
          before = pixels
        }
      }),
    )
  })

  it('of a crowd are many, so that what is near is told from what is not', () => {
    const crowd = Array.from({ length: 4000 }, (_, i) => [(i % 64) / 3, 0, Math.floor(i / 64) / 3])
    const { chunks } = chunked(crowd)
    expect(Math.max(...chunks.map(({ count }) => count))).toBeLessThanOrEqual(200)
    expect(chunks.length).toBeLessThan(100)
  })

  it('that are out of sight are not drawn', () => {
    const view = { ...everywhere, isSeen: (box: Box3) => box.min.x > 0 }
    const { chosen } = chooseChunks(
      [
        {
          chunks: chunked([
            [-100, 0, 0],
            [100, 0, 0],
          ]).chunks,
          levels,
          isClear: false,
        },
      ],
      view,
      1e9,
    )
    expect(chosen.map(({ chunk }) => chunk.box.min.x > 0)).toEqual([true])
  })
})
