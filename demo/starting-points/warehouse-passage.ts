import { RULES } from '../../core/arrange/rules'
import { cameraOwn, lightOwn } from '../../core/level/create'
import type { MadeLevel } from '../builder'
import { LevelBuilder } from '../builder'

/** A passage of 20 m between the walls of two warehouses, of pieces that fit end to end. */
export function warehousePassage(): MadeLevel {
  const { placements, blocks, add, group, put, arrangement } = new LevelBuilder('warehouse passage')
  const line = RULES.line.first

  const shell = group('Shell')
  const floor = arrangement(shell, 'Floor', { ...line, count: 5, along: [0, 0, 4] }, [0, -0.4, -8])
  put(floor, 'Floor slab', 'Quay slab 4 m', [0, 0, 0])
  for (const [name, x, heading] of [
    ['Left wall', -1.7, 90],
    ['Right wall', 1.7, -90],
  ] as const) {
    const wall = arrangement(shell, name, { ...line, count: 5, along: [0, 0, 4] }, [x, 0, -8])
    put(wall, `${name}: piece`, 'Canal wall 4 m', [0, 0, 0], heading)
  }
  const kerb = arrangement(shell, 'Kerb along the left wall', { ...line, count: 10, along: [0, 0, 2] }, [-1.25, 0, -9])
  put(kerb, 'Kerb piece', 'Kerb 2 m', [0, 0, 0], 90)

  const goods = group('Goods')
  put(goods, 'Crate 1', 'Crate', [0.9, 0, -6], 6)
  put(goods, 'Crate 2', 'Crate', [0.85, 0, -4.9], -8)
  put(goods, 'Barrel 1', 'Barrel', [0.95, 0, -2.5])
  put(goods, 'Barrel 2', 'Barrel', [0.95, 0, -1.7])
  put(goods, 'Planter', 'Planter', [0.95, 0, 3], 90)
  const lanterns = arrangement(null, 'Lanterns', { ...line, count: 3, along: [0, 0, 6] }, [-0.75, 0, -6])
  put(lanterns, 'Lantern', 'Lantern post', [0, 0, 0])

  const marks = group('Cameras and lights')
  const mark = { partId: null, parentId: marks }
  add('Along the passage', { ...mark, kind: 'camera', own: cameraOwn({ fieldOfView: 60 }) }, [0, 1.7, 9.5], [-4, 0, 0])
  const sun = lightOwn({ light: 'sun', color: '#fff1d6', intensity: 100_000, when: 'day' })
  add('Sun', { ...mark, kind: 'light', own: sun }, [2, 8, 4], [-62, 25, 0])
  return { placements, blocks }
}
