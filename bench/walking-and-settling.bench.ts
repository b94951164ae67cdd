import { Color, Vector3 } from 'three'
import { it } from 'vitest'
import { LampCells } from '../core/scene/lamp-cells'
import { settleScene } from '../core/settle/scene'
import { loadPhysics, Settling } from '../core/settle/settle'
import { FIRST_WALK, Walker } from '../core/walk/walker'
import { levelOfBoxes, testId } from '../tests/support'
import { madeUpLevel, median, numbers } from './made-up-level'
import { reportCompared, reportGrowth } from './report'

const SIZES = [1_000, 10_000, 100_000]

/** Median and worst of some times, in milliseconds. */
function middleAndWorst(times: readonly number[]): [number, number] {
  const sorted = times.toSorted((a, b) => a - b)
  return [sorted[Math.floor(sorted.length / 2)]!, sorted.at(-1)!]
}

it('walking: script time of a frame of a sixtieth of a second among props, and the start, by the size of the level', () => {
  const rows = ['a frame, median', 'a frame, worst of 3,000', 'the start'].map(what => ({
    what,
    values: [] as number[],
  }))
  for (const count of SIZES) {
    const { index } = madeUpLevel(count)
    const began = performance.now()
    const walker = new Walker(index, FIRST_WALK, new Vector3(0.3, 0, 0.3))
    walker.findRoom()
    walker.move(1 / 60, { forward: 0, right: 0, yaw: 0, run: false, jump: false, crouch: false })
    const start = performance.now() - began
    const next = numbers(5)
    const times: number[] = []
    let yaw = 0
    for (let i = 0; i < 3000; i++) {
      if (i % 40 === 0) yaw = next() * 6.28
      const from = performance.now()
      walker.move(1 / 60, { forward: 1, right: 0, yaw, run: i % 120 < 60, jump: i % 90 === 0, crouch: false })
      times.push(performance.now() - from)
    }
    for (const [i, value] of [...middleAndWorst(times), start].entries()) rows[i]!.values.push(value)
  }
  reportGrowth({
    topic: 'Walking, settling, light',
    title: 'Walking',
    about: 'Script time of a sixtieth of a second among props, running and jumping.',
    unit: 'ms',
    of: 'placements',
    sizes: SIZES,
    rows,
  })
})

it('settling 200 things: time for their gathering, for falling, and the share of the time that goes by meanwhile', async () => {
  await loadPhysics()
  const next = numbers(9)
  const { level, index } = levelOfBoxes([
    { size: [30, 1, 30], translation: [0, -1, 0] },
    ...Array.from({ length: 200 }, (_, i) => ({
      size: [0.4, 0.3, 0.5] as [number, number, number],
      translation: [next() * 3, 0.5 + i * 0.12, next() * 3] as [number, number, number],
    })),
  ])
  const ids = Array.from({ length: 200 }, (_, i) => testId(i + 2))
  const from = performance.now()
  const scene = settleScene(level, index, ids, () => 'hull')
  const gathered = performance.now() - from
  const settling = new Settling(scene)
  const times: number[] = []
  while (!settling.isDone) {
    const at = performance.now()
    settling.step()
    times.push(performance.now() - at)
  }
  const sum = times.reduce((all, each) => all + each, 0)
  const [middle, worst] = middleAndWorst(times)
  reportCompared({
    topic: 'Walking, settling, light',
    title: 'Settling 200 things',
    about: `Boxes that fall on each other: ${settling.resting} rest after ${settling.seconds.toFixed(1)} s, of which working it out takes ${((sum / 1000 / settling.seconds) * 100).toFixed(0)} %.`,
    unit: 'ms',
    rows: [
      { what: 'gathering them', value: gathered },
      { what: 'a step, median', value: middle },
      { what: 'a step, worst', value: worst },
    ],
  })
  settling.dispose()
})

it('lamps: dealing 1,000 to their cells against 8', () => {
  const next = numbers(3)
  const lamps = (count: number) =>
    Array.from({ length: count }, () => ({
      at: new Vector3(next() * 200, 3, next() * 200),
      range: 9,
      color: new Color(),
      direction: new Vector3(0, -1, 0),
      cosInner: -1.5,
      cosOuter: -2,
      area: 0,
    }))
  const [few, many] = [lamps(8), lamps(1000)]
  const [of8, of1000] = [median(20, () => new LampCells(few)), median(20, () => new LampCells(many))]
  reportCompared({
    topic: 'Walking, settling, light',
    title: 'Dealing lamps to their cells',
    about: 'Over 200 m a side; what a moved lamp costs each frame.',
    unit: 'ms',
    reference: '8 lamps',
    rows: [
      { what: '8 lamps', value: of8 },
      { what: '1,000 lamps', value: of1000, against: of8 },
    ],
  })
})
