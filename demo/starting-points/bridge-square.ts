import { RULES } from '../../core/arrange/rules'
import { cameraOwn, lightOwn } from '../../core/level/create'
import type { MadeLevel } from '../builder'
import { LevelBuilder } from '../builder'

/** A paved square of 16 by 16 m on a grid of 4 m, a canal along it, and a bridge to the other side. */
export function bridgeSquare(): MadeLevel {
  const { placements, blocks, add, group, put, arrangement } = new LevelBuilder('bridge square')
  const [grid, line, ring] = [RULES.grid.first, RULES.line.first, RULES.ring.first]

  const ground = group('Ground')
  const paving = arrangement(ground, 'Paving', { ...grid, counts: [4, 1, 4], spacing: [4, 4, 4] }, [-6, -0.4, -6])
  put(paving, 'Slab', 'Quay slab 4 m', [0, 0, 0])
  const edge = arrangement(ground, 'Edge', { ...line, count: 4, along: [4, 0, 0] }, [-6, -0.4, 8.4])
  put(edge, 'Edge piece', 'Quay edge 4 m', [0, 0, 0])
  const wall = arrangement(ground, 'Wall to the water', { ...line, count: 4, along: [4, 0, 0] }, [-6, -2.8, 8.45])
  put(wall, 'Wall piece', 'Canal wall 4 m', [0, 0, 0])
  const water = arrangement(ground, 'Water', { ...line, count: 3, along: [8, 0, 0] }, [-8, -1.4, 12.8])
  put(water, 'Water piece', 'Canal water 8 m', [0, 0, 0])
  const far = arrangement(ground, 'Other side', { ...line, count: 2, along: [4, 0, 0] }, [-2, -0.4, 18.75])
  put(far, 'Slab there', 'Quay slab 4 m', [0, 0, 0])
  const farWall = arrangement(ground, 'Wall over there', { ...line, count: 2, along: [4, 0, 0] }, [-2, -2.8, 16.95])
  put(farWall, 'Wall piece there', 'Canal wall 4 m', [0, 0, 0], 180)

  put(null, 'Bridge', 'Bridge span', [0, -1.25, 12.75], 90)
  const lanterns = arrangement(null, 'Lanterns', { ...grid, counts: [2, 1, 2], spacing: [13, 1, 13] }, [-6.5, 0, -6.5])
  put(lanterns, 'Lantern', 'Lantern post', [0, 0, 0])
  const seats = arrangement(null, 'Seats', { ...ring, count: 6, radius: 3.5, facing: 'in' }, [0, 0, -1])
  put(seats, 'Seat', 'Bench', [0, 0, 0])

  const marks = group('Cameras and lights')
  const mark = { partId: null, parentId: marks }
  add('Over the square', { ...mark, kind: 'camera', own: cameraOwn({ fieldOfView: 50 }) }, [9, 6, -11], [-22, 142, 0])
  const sun = lightOwn({ light: 'sun', color: '#fff1d6', intensity: 100_000, when: 'day' })
  add('Sun', { ...mark, kind: 'light', own: sun }, [-6, 8, -6], [-50, -40, 0])
  return { placements, blocks }
}
