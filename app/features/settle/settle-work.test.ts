import { describe, expect, it } from 'vitest'
import type { Vec3 } from '~~/core/math/vectors'
import { settleScene } from '~~/core/settle/scene'
import { loadPhysics, Settling } from '~~/core/settle/settle'
import { levelOfBoxes, testId } from '../../../tests/support'
import type { SettleNews } from './settle-work'
import { settleWork } from './settle-work'

const scene = () => {
  const { level, index } = levelOfBoxes([
    { size: [20, 1, 20] as Vec3, translation: [0, -1, 0] as Vec3 },
    { size: [0.8, 0.6, 0.7] as Vec3, translation: [0, 0.3, 0] as Vec3 },
  ])
  return settleScene(level, index, [testId(2)], () => 'box')
}

describe('settling in a worker', () => {
  it('comes to rest where the same physics does without one, and tells how far it is', async () => {
    await loadPhysics()
    const plain = new Settling(scene())
    while (!plain.isDone) plain.step()
    const told: SettleNews[] = []
    const last = await settleWork().run(scene(), news => told.push(news))
    expect([[...last!.matrices], last!.seconds, last!.resting, last!.isDone]).toEqual([
      [...plain.matrices()],
      plain.seconds,
      1,
      true,
    ])
    expect(told.map(({ seconds }) => seconds)).toEqual(told.map(({ seconds }) => seconds).toSorted((a, b) => a - b))
    plain.dispose()
  })

  it('goes no further in a pause, and ends for another run or when it is stopped', async () => {
    const work = settleWork()
    const told: number[] = []
    const first = work.run(scene(), ({ seconds }) => told.push(seconds))
    await new Promise(resolve => setTimeout(resolve, 150))
    work.pause(true)
    await new Promise(resolve => setTimeout(resolve, 60))
    const before = told.at(-1)
    await new Promise(resolve => setTimeout(resolve, 250))
    expect(told.at(-1)).toBe(before)
    const second = work.run(scene(), () => {})
    expect(await first).toBeNull()
    work.stop()
    expect(await second).toBeNull()
  })
})
