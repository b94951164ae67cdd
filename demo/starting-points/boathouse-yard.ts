import { RULES } from '../../core/arrange/rules'
import { cameraOwn, lightOwn } from '../../core/level/create'
import type { MadeLevel } from '../builder'
import { LevelBuilder } from '../builder'

const [WOOD, CHALK, TIN] = ['#a9794c', '#e9e3d2', '#8b9aa0']

/**
 * The yard beside the boathouse of Lantern Quay, 20 by 12 m, for the first steps: each exercise has its own corner.
 * Height 0 is the paving.
 */
export function boathouseYard(): MadeLevel {
  const { placements, blocks, idOf, add, group, put, arrangement, block } = new LevelBuilder('boathouse yard')
  const line = RULES.line.first

  const ground = group('Ground')
  // Slabs of their own: leaves can be scattered on them.
  const paving = group('Paving', [0, 0, 0], [0, 0, 0], ground)
  for (let i = 0; i < 15; i++)
    put(paving, `Slab ${i + 1}`, 'Quay slab 4 m', [-8 + (i % 5) * 4, -0.4, -4 + Math.floor(i / 5) * 4])
  const edge = arrangement(ground, 'Edge', { ...line, count: 5, along: [4, 0, 0] }, [-8, -0.4, 6.4])
  put(edge, 'Edge piece', 'Quay edge 4 m', [0, 0, 0])
  const wall = arrangement(ground, 'Wall to the water', { ...line, count: 5, along: [4, 0, 0] }, [-8, -2.8, 6.45])
  put(wall, 'Wall piece', 'Canal wall 4 m', [0, 0, 0])
  const water = arrangement(ground, 'Water', { ...line, count: 3, along: [8, 0, 0] }, [-8, -1.4, 10.8])
  put(water, 'Water piece', 'Canal water 8 m', [0, 0, 0])

  const house = group('Boathouse')
  block(house, 'Back wall', WOOD, { type: 'box', width: 6, height: 3, depth: 0.2 }, [-6, 0, -5.8])
  block(house, 'Side wall', WOOD, { type: 'box', width: 0.2, height: 3, depth: 3.8 }, [-8.9, 0, -3.8])
  block(house, 'Roof', TIN, { type: 'box', width: 6.2, height: 0.15, depth: 4 }, [-5.9, 3, -3.9])
  // A door of 1.2 by 2.2 m in the opening of the front, its hinge at its left edge.
  block(house, 'Front wall', WOOD, { type: 'box', width: 4.6, height: 3, depth: 0.2 }, [-5.3, 0, -2])
  block(house, 'Door', '#7a5236', { type: 'box', width: 1.2, height: 2.2, depth: 0.1 }, [-8.2, 0, -2])

  // Moved along an axis, and in a plane: onto the marks of chalk.
  const marksOfChalk = group('Marks of chalk')
  const chalk = { type: 'box', width: 0.9, height: 0.02, depth: 0.9 } as const
  block(marksOfChalk, 'Mark for the crate', CHALK, chalk, [-3, 0, 2])
  block(marksOfChalk, 'Mark for the barrel', CHALK, chalk, [1, 0, 3.5])
  put(null, 'Crate', 'Crate', [-6, 0, 2])
  put(null, 'Barrel', 'Barrel', [-1, 0, 4.75])

  // Behind the glass.
  put(null, 'Glass screen', 'Glass screen', [7, 0, -3])
  put(null, 'Basket behind the glass', 'Basket', [7, 0, -3.9])

  // Turned by 90.
  put(null, 'Bench', 'Bench', [3, 0, 3.6], 0)
  // One on another.
  put(null, 'Basket', 'Basket', [-4.6, 0, 4.4])
  // Corner to corner.
  const stack = { type: 'box', width: 1.6, height: 0.5, depth: 0.8 } as const
  block(null, 'Planks', '#c49a63', stack, [3.5, 0, 0])
  block(null, 'Loose planks', '#c49a63', stack, [6.3, 0, 1.2])
  // Face to face.
  put(null, 'Railing', 'Railing 2 m', [-7, 0, 5.75])
  put(null, 'Loose railing', 'Railing 2 m', [-3.5, 0, 5.75])
  // A row, and one of its copies.
  const row = arrangement(null, 'Row of lanterns', { ...line, count: 3, along: [2, 0, 0] }, [-1, 0, -5.2])
  put(row, 'Lantern', 'Lantern post', [0, 0, 0])
  // Measured and typed: 3 m between two bollards.
  const bollard = { type: 'cylinder', radius: 0.15, height: 0.8, sides: 16 } as const
  block(null, 'Bollard', TIN, bollard, [4.5, 0, 5.2])
  block(null, 'Second bollard', TIN, bollard, [8.1, 0, 5.2])
  // What floats.
  put(null, 'Planter that floats', 'Planter', [8.8, 0.7, 2.2])

  const marks = group('Cameras and lights')
  const mark = { partId: null, parentId: marks }
  add('Over the yard', { ...mark, kind: 'camera', own: cameraOwn({ fieldOfView: 50 }) }, [9, 6, 11], [-24, 40, 0])
  const sun = lightOwn({ light: 'sun', color: '#fff1d6', intensity: 100_000, when: 'day' })
  add('Sun', { ...mark, kind: 'light', own: sun }, [-6, 8, 6], [-52, -28, 0])
  // The paving is 40 cm thick.
  const limits = [{ id: idOf('limit/off-grid'), of: 'off-grid', off: false, values: { step: 0.05 } }]
  return { placements, blocks, limits }
}
