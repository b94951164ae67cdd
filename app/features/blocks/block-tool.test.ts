import { Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { FIRST_BLOCKS } from '~~/core/mesh/block'
import type { BlockShape } from '~~/core/mesh/block'
import { degreesToQuat } from '~~/core/math/transform'
import { BlockTool } from './block-tool'
import { keyFor } from '~/editor/keys/test-keys'
import { testEditor } from '~/editor/test-editor'

function start(shape: BlockShape, placements: Parameters<typeof testEditor>[0] = []) {
  const bench = testEditor(placements)
  const tool = new BlockTool(bench.world, () => ({ shape, color: '#aa8866' }))
  const draw = (from: [number, number, number], to: [number, number, number]) => {
    const gesture = tool.press(bench.over(...from))!
    gesture.move(bench.over((from[0] + to[0]) / 2, from[1], (from[2] + to[2]) / 2))
    gesture.move(bench.over(...to))
    gesture.end(bench.over(...to))
  }
  const made = () => {
    const placement = [...bench.level.placements()].at(-1)!
    return { placement, block: bench.level.blocks.get(placement.blockId!)! }
  }
  return { ...bench, tool, draw, made }
}

describe('drawing a block', () => {
  it('draws a box from corner to corner on the grid, then pulls up its height', () => {
    const { tool, draw, made, over, seen } = start(FIRST_BLOCKS.box)
    draw([-1.1, 0, -0.9], [0.9, 0, 0.6])
    expect(seen.labels).toEqual([])
    tool.hover(over(0.9, 1.5, 0.6))
    tool.press(over(0.9, 1.5, 0.6))
    expect(made().block.shape).toEqual({ type: 'box', width: 2, depth: 1.5, height: 1.5 })
    expect(made().placement).toMatchObject({ kind: 'block', translation: [0, 0, -0.25], name: 'Box 1', partId: null })
    expect(seen.labels).toEqual(['Draw Box 1'])
    expect([...seen.selection.ids]).toEqual([made().placement.id])
  })

  it('lets a slab grow down from the height it was drawn at', () => {
    const { tool, draw, made, over, index } = start(FIRST_BLOCKS.slab)
    draw([-1, 0, -1], [1, 0, 1])
    tool.hover(over(1, 0.5, 1))
    tool.press(over(1, 0.5, 1))
    expect(made().block.shape).toEqual({ type: 'slab', width: 2, depth: 2, thickness: 0.5 })
    const box = index.extents.boundsOf([made().placement.id])
    expect([box.min.y, box.max.y]).toEqual([-0.5, 0])
  })

  it('draws round shapes from their middle, and a ball without a height', () => {
    const { draw, made } = start(FIRST_BLOCKS.ball)
    draw([1, 0, 0], [2.4, 0, 0])
    expect(made().block.shape).toMatchObject({ type: 'ball', radius: 1.5 })
    expect(made().placement.translation).toEqual([1, 0, 0])
  })

  it('stands on a slope as it lies', () => {
    const turn = degreesToQuat([0, 0, 20])
    const { tool, draw, made, over } = start(FIRST_BLOCKS.box, [
      { scale: [12, 1, 12], rotation: turn, translation: [0, -1, 0] },
    ])
    const on = (x: number, z: number) =>
      new Vector3(x, 1, z)
        .applyQuaternion(new Quaternion(...turn))
        .add(new Vector3(0, -1, 0))
        .toArray()
    draw(on(-1, -1), on(1, 1))
    tool.press(over(0, 2, 0))
    const up = new Vector3(0, 1, 0).applyQuaternion(new Quaternion(...made().placement.rotation))
    expect((Math.acos(up.y) * 180) / Math.PI).toBeCloseTo(20, 3)
  })

  it('snaps the height to a corner of something else', () => {
    const { tool, draw, made, over, settings, seen } = start(FIRST_BLOCKS.box, [
      { translation: [4, 0, 0], scale: [1, 1.37, 1] },
    ])
    draw([-1, 0, -1], [1, 0, 1])
    settings.kept.vertex = true
    tool.hover(over(4.5, 1.37, 0.5))
    expect(seen.readouts.at(-1)!.notes[0]).toBe('as high as Thing 1')
    tool.press(over(4.5, 1.37, 0.5))
    expect((made().block.shape as { height: number }).height).toBeCloseTo(1.37, 6)
  })

  it('puts one down with the given numbers at a click, and types numbers while drawing', () => {
    const { tool, made, over, seen } = start({ ...FIRST_BLOCKS.cylinder, radius: 0.3, height: 2.2 })
    tool.press(over(1, 0, 1))!.end(over(1, 0, 1))
    expect(made().block.shape).toMatchObject({ radius: 0.3, height: 2.2 })
    const gesture = tool.press(over(-2, 0, 0))!
    gesture.move(over(-1, 0, 0))
    expect(gesture.key!(keyFor('type'))).toBe(true)
    expect(seen.asked!.fields.map(({ label }) => label)).toEqual(['Width', 'Depth', 'Height'])
    seen.asked!.change([1.2, 0, 0.75])
    seen.asked!.commit()
    expect(made().block.shape).toMatchObject({ type: 'cylinder', radius: 0.6, height: 0.75 })
  })

  it('cancelled half-way makes nothing, and the tool goes on', () => {
    const { tool, draw, seen } = start(FIRST_BLOCKS.box)
    draw([-1, 0, -1], [1, 0, 1])
    tool.work()!.drop()
    expect([tool.work(), seen.labels]).toEqual([null, []])
  })

  it('dropped half-way is brought back as it was, and kept by Enter', () => {
    const { tool, draw, made } = start(FIRST_BLOCKS.box)
    draw([-1, 0, -1], [1, 0, 1])
    const work = tool.work()!
    work.drop()
    work.resume()
    expect(tool.key(keyFor('finish'))).toBe(true)
    expect(made().block.shape).toMatchObject({ type: 'box', width: 2, depth: 2 })
  })

  it('warns of steps that cannot be walked', () => {
    const { tool, draw, over, seen } = start(FIRST_BLOCKS.steps)
    draw([-1, 0, -1], [1, 0, 1])
    tool.hover(over(1, 2.5, 1))
    expect(seen.readouts.at(-1)!.notes.join()).toMatch(/at most 178 mm is allowed/)
  })
})
