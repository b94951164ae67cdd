import { RULES } from '../../core/arrange/rules'
import { LIMITS } from '../../core/arrange/scatter/limits'
import { FIRST_INGREDIENT } from '../../core/arrange/scatter/rule'
import { cameraOwn, lightOwn } from '../../core/level/create'
import type { MadeLevel } from '../builder'
import { LevelBuilder } from '../builder'

/** What grows there, and how often it comes. */
const GROWS = { 'Reed': 5, 'Grass tuft': 6, 'Field stone': 1 }

/** A grassed bank behind a towpath, with a scatter to play with. */
export function reedBank(): MadeLevel {
  const { placements, blocks, idOf, add, group, put, arrangement } = new LevelBuilder('reed bank')
  const line = RULES.line.first

  const ground = group('Ground')
  put(ground, 'Bank', 'Embankment', [0, -0.5, -8])
  const path = arrangement(ground, 'Towpath', { ...line, count: 6, along: [4, 0, 0] }, [-10, -0.4, 0])
  put(path, 'Path slab', 'Quay slab 4 m', [0, 0, 0])
  const edge = arrangement(ground, 'Edge', { ...line, count: 6, along: [4, 0, 0] }, [-10, -0.4, 2.4])
  put(edge, 'Edge piece', 'Quay edge 4 m', [0, 0, 0])
  const wall = arrangement(ground, 'Wall to the water', { ...line, count: 6, along: [4, 0, 0] }, [-10, -2.8, 2.45])
  put(wall, 'Wall piece', 'Canal wall 4 m', [0, 0, 0])
  const water = arrangement(ground, 'Water', { ...line, count: 3, along: [8, 0, 0] }, [-8, -1.4, 6.8])
  put(water, 'Water piece', 'Canal water 8 m', [0, 0, 0])

  const growth = arrangement(
    null,
    'Growth on the bank',
    {
      ...RULES.scatter.first,
      seed: 7,
      on: [{ id: idOf('Bank'), stream: 1 }],
      density: 2,
      mix: Object.entries(GROWS).map(([part, weight], i) => ({
        ...FIRST_INGREDIENT,
        source: idOf(part),
        stream: i + 1,
        weight,
        size: [0.7, 1.2],
        room: 0.2,
      })),
      limits: [
        { ...LIMITS.slope.first, from: 0, to: 38, soft: 8 },
        { ...LIMITS.height.first, from: 0.1, to: 3 },
      ],
    },
    [0, 0, -8],
  )
  for (const part of Object.keys(GROWS)) put(growth, part, part, [0, 0, 0])
  put(null, 'Bench', 'Bench', [2, 0, -0.8])
  put(null, 'Boat', 'Rowing boat', [-3, -1.4, 5], 80)

  const marks = group('Cameras and lights')
  const mark = { partId: null, parentId: marks }
  add('From the water', { ...mark, kind: 'camera', own: cameraOwn({ fieldOfView: 50 }) }, [6, 2.4, 10], [-8, 24, 0])
  const sun = lightOwn({ light: 'sun', color: '#fff1d6', intensity: 100_000, when: 'day' })
  add('Sun', { ...mark, kind: 'light', own: sun }, [-6, 8, 6], [-52, -28, 0])
  return { placements, blocks }
}
