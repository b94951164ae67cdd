import { Ray, Vector3 } from 'three'
import { it } from 'vitest'
import { findPlacements } from '../core/level/find'
import { clickTarget } from '../core/level/tree'
import { clipDistances, orbit } from '../core/math/pose'
import { madeUpLevel, median, numbers } from './made-up-level'
import { reportCompared, reportGrowth } from './report'

// Script time of what happens on a pointer move, at three sizes of level, and how it grows with the size.
const SIZES = [1_000, 10_000, 100_000]

it('looking and picking', () => {
  const levels = SIZES.map(madeUpLevel)
  const nothing = new Set<string>()
  const rows: Record<string, number[]> = {
    'hover: one ray, nearest thing': levels.map(({ index, camera, level }) => {
      const next = numbers(7)
      const ray = new Ray(camera.position.clone(), new Vector3())
      return median(400, () => {
        ray.direction
          .set(next() * 1.6 - 0.8, next() * 1.6 - 0.8, 0.5)
          .unproject(camera)
          .sub(camera.position)
          .normalize()
        const hit = index.raycast(ray, id => !level.isLocked(id))
        if (hit) clickTarget(level, hit.id, nothing)
      })
    }),
    'everything on the line of sight': levels.map(({ index, camera }) => {
      const next = numbers(7)
      const ray = new Ray(camera.position.clone(), new Vector3())
      return median(400, () => {
        ray.direction
          .set(next() * 1.6 - 0.8, next() * 1.6 - 0.8, 0.5)
          .unproject(camera)
          .sub(camera.position)
          .normalize()
        index.raycastAll(ray)
      })
    }),
    'frame over a tenth of the picture': levels.map(({ index, projection }) =>
      median(60, () => index.pickInFrame(projection, { x0: -0.3, y0: -0.3, x1: 0.33, y1: 0.33 }, 'touch')),
    ),
    'one orbit step: pose and clip distances': levels.map(({ index, camera }) => {
      let pose = { eye: camera.position.clone(), target: new Vector3(), height: 10 }
      return median(2000, () => {
        pose = orbit(pose, pose.target, 0.01, 0.001)
        clipDistances(pose, index.bounds())
      })
    }),
    'find by name, all of the level': levels.map(({ level }) =>
      median(20, i => findPlacements(level, `prop ${i}7`, { part: () => undefined })),
    ),
  }
  reportGrowth({
    topic: 'Picking and moving',
    title: 'Looking and picking',
    about: 'Script time of what happens on a pointer move, and of finding; medians.',
    unit: 'ms',
    of: 'placements',
    sizes: SIZES,
    rows: Object.entries(rows).map(([what, values]) => ({ what, values })),
  })
})

it('a frame over everything at 10,000', () => {
  const { index, projection } = madeUpLevel(10_000)
  let count = 0
  const time = median(
    20,
    () => (count = index.pickInFrame(projection, { x0: -1, y0: -1, x1: 1, y1: 1 }, 'touch').length),
  )
  const inside = median(20, () => index.pickInFrame(projection, { x0: -1, y0: -1, x1: 1, y1: 1 }, 'inside'))
  reportCompared({
    topic: 'Picking and moving',
    title: 'A frame over the whole picture of 10,000',
    about: `It touches ${count.toLocaleString('en')} things.`,
    unit: 'ms',
    rows: [
      { what: 'what it touches', value: time },
      { what: 'what is inside', value: inside },
    ],
  })
})
