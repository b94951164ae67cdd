import { BoxGeometry, Matrix4 } from 'three'
import { describe, expect, it } from 'vitest'
import { RULES } from '../arrange/rules'
import { baseOfShape, bentKey, withBase } from '../arrange/path/bent-key'
import { shapeKey } from '../mesh/block-key'
import { MeshBuilder } from '../mesh/mesh-builder'
import { ShapeLibrary } from './shapes'

const box = (height: number) =>
  new MeshBuilder()
    .add(
      { name: 'Plain', baseColor: [1, 1, 1], roughness: 1, metallic: 0, emissive: [0, 0, 0] },
      new BoxGeometry(1, height, 1),
    )
    .build()
const [RAIL, POST] = ['018f0000-0000-7000-8000-000000000001', '018f0000-0000-7000-8000-000000000002']
const crate = (width: number) => shapeKey({ shape: { type: 'box', width, height: 1, depth: 1 }, color: '#808080' })
const rule = {
  ...RULES.path.first,
  points: [
    [0, 0, 0],
    [4, 0, 0],
    [4, 0, 4],
  ] as [number, number, number][],
}
const bent = (shape: string, index = 0) => bentKey(shape, rule, index, new Matrix4(), new Matrix4(), [])
const heightOf = (shapes: ShapeLibrary, shape: string) => {
  const { min, max } = shapes.solid(shape)!.bounds
  return max.y - min.y
}

describe('the names of bent shapes', () => {
  it('tell what is bent, and name the same of something else', () => {
    for (const base of [RAIL, crate(2)]) {
      expect([baseOfShape(base), baseOfShape(bent(base, 1))]).toEqual([base, base])
      expect(withBase(bent(base, 1), POST)).toBe(bent(POST, 1))
    }
  })
})

describe('a library of shapes', () => {
  it('has what is bent of a part as that part is now, and the same as before when it is as before', () => {
    const shapes = new ShapeLibrary()
    const [once, twice] = [bent(RAIL), bent(RAIL, 1)]
    expect([shapes.solid(RAIL), shapes.solid(once), shapes.keyOf(twice)]).toEqual([undefined, undefined, undefined])
    shapes.put(RAIL, 'low', box(1))
    const [low, lowTwice] = [shapes.solid(once), shapes.solid(twice)]
    expect(
      [heightOf(shapes, RAIL), heightOf(shapes, once), heightOf(shapes, twice)].map(height => height.toFixed(6)),
    ).toEqual(['1.000000', '1.000000', '1.000000'])
    expect(shapes.solid(once)).toBe(low)
    const keys = [RAIL, once, twice].map(shape => shapes.keyOf(shape))
    shapes.put(RAIL, 'high', box(3))
    expect(
      [heightOf(shapes, RAIL), heightOf(shapes, once), heightOf(shapes, twice)].map(height => height.toFixed(6)),
    ).toEqual(['3.000000', '3.000000', '3.000000'])
    for (const [i, shape] of [RAIL, once, twice].entries()) expect(shapes.keyOf(shape)).not.toBe(keys[i])
    shapes.put(RAIL, 'low', box(1))
    expect([shapes.solid(once), shapes.solid(twice)]).toEqual([low, lowTwice])
  })

  it('knows equal meshes of two parts by one key, with a solid for each part, and lets a mesh go with the last part that has it', () => {
    const shapes = new ShapeLibrary()
    shapes.put(RAIL, 'same', box(1))
    shapes.put(POST, 'same', box(1))
    expect([shapes.solid(POST) === shapes.solid(RAIL), shapes.keyOf(POST)]).toEqual([false, 'same'])
    const key = shapes.keyOf(RAIL)!
    shapes.drop(RAIL)
    expect([shapes.has(RAIL), shapes.solid(RAIL), shapes.solidBy(key) !== undefined]).toEqual([false, undefined, true])
    shapes.put(POST, 'another', box(2))
    expect(shapes.solidBy(key)).toBeUndefined()
  })

  it('lets the oldest of what it made go, never a part', () => {
    const few = new ShapeLibrary(100_000)
    few.put(RAIL, 'rail', box(1))
    const first = few.solid(crate(1))
    expect(few.solid(crate(1))).toBe(first)
    for (let width = 2; width < 20; width++) few.solid(crate(width))
    expect(few.solid(crate(1))).not.toBe(first)
    expect([few.solid(crate(19)) === few.solid(crate(19)), few.has(RAIL), few.solid(RAIL)?.triangles]).toEqual([
      true,
      true,
      12,
    ])
  })
})
