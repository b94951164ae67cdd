import { Ray, Vector3 } from 'three'
import { it } from 'vitest'
import { findPlacements } from '../core/level/find'
import { clickTarget } from '../core/level/tree'
import { clipDistances, orbit } from '../core/math/pose'
import { madeUpLevel, median, numbers } from './made-up-level'

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
  const line = (cells: string[]) => cells.map((cell, i) => (i === 0 ? cell.padEnd(42) : cell.padStart(12))).join('')
  console.log(
    [
      line(['script time, median, ms', ...SIZES.map(size => size.toLocaleString('en')), 'growth']),
      ...Object.entries(rows).map(([name, times]) =>
        line([name, ...times.map(time => time.toFixed(4)), `${(times[2]! / times[0]!).toFixed(2)} x`]),
      ),
    ].join('\n'),
  )
}, 600_000)

it('a frame over everything at 10,000', () => {
  const { index, projection } = madeUpLevel(10_000)
  let count = 0
  const time = median(
    20,
    () => (count = index.pickInFrame(projection, { x0: -1, y0: -1, x1: 1, y1: 1 }, 'touch').length),
  )
  const inside = median(20, () => index.pickInFrame(projection, { x0: -1, y0: -1, x1: 1, y1: 1 }, 'inside'))
  console.log(
    `a frame over the whole picture of 10,000: touches ${count} things in ${time.toFixed(2)} ms, inside in ${inside.toFixed(2)} ms`,
  )
}, 600_000)
