import fc from 'fast-check'
import { Vector3 } from 'three'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useSettings } from '../settings'
import { testEditor } from '../test-editor'
import { Fingers, steerByFingers } from './fingers'
import type { PointerAt } from './gesture'

const at = (x: number, y: number): PointerAt => ({ x, y, ctrl: false, shift: false, alt: false })

function start(kind: 'walkaround' | 'plan' = 'walkaround') {
  const { world, view } = testEditor([{ name: 'Crate' }])
  view.kind = kind
  view.setPose(view.savePose())
  return { world, view }
}

describe('fingers on the stage', () => {
  it('moved together keep what is under them under them', () => {
    fc.assert(
      fc.property(fc.integer({ min: -150, max: 150 }), fc.integer({ min: -100, max: 100 }), (dx, dy) => {
        const { world, view } = start('plan')
        const ground = view.rayAt(at(400, 300)).origin.clone().setY(0)
        const steer = steerByFingers(world, [at(350, 300), at(450, 300)])
        steer.move([at(350 + dx / 2, 300 + dy / 2), at(450 + dx / 2, 300 + dy / 2)])
        steer.move([at(350 + dx, 300 + dy), at(450 + dx, 300 + dy)])
        const seen = view.project(ground)!
        expect([seen.x - 400 - dx, seen.y - 300 - dy].every(off => Math.abs(off) < 0.5)).toBe(true)
      }),
      { numRuns: 25 },
    )
  })

  it('spread go nearer, so far as they spread, at their middle', () => {
    const { world, view } = start()
    const before = view.savePose()
    const far = before.eye.distanceTo(new Vector3(0, 0, 0))
    const steer = steerByFingers(world, [at(350, 300), at(450, 300)])
    steer.move([at(320, 300), at(480, 300)])
    expect(view.savePose().eye.distanceTo(before.eye)).toBeGreaterThan(far * 0.2)
    const middle = view.rayAt(at(400, 300))
    expect(middle.distanceToPoint(new Vector3(0, 0, 0))).toBeLessThan(0.6)
    steer.move([at(350, 300), at(450, 300)])
    expect(view.savePose().eye.distanceTo(before.eye)).toBeLessThan(1e-6)
  })

  it('twisted turn the level with them; a little twist is none', () => {
    const { world, view } = start()
    const beside = new Vector3(1, 0.5, 0)
    const angleOf = () => {
      const [seen, middle] = [view.project(beside)!, view.project(new Vector3(0, 0.5, 0))!]
      return Math.atan2(seen.y - middle.y, seen.x - middle.x)
    }
    const turned = (degrees: number) => {
      const angle = (degrees * Math.PI) / 180
      const [x, y] = [Math.cos(angle) * 80, Math.sin(angle) * 80]
      return [at(400 - x, 300 - y), at(400 + x, 300 + y)]
    }
    const eye = view.savePose().eye.clone()
    const steer = steerByFingers(world, turned(0))
    steer.move(turned(4))
    expect(view.savePose().eye.distanceTo(eye)).toBeLessThan(1e-9)
    const before = angleOf()
    for (const degrees of [10, 20, 30, 40]) steer.move(turned(degrees))
    // Clockwise on the screen, where y runs down.
    expect(angleOf()).toBeGreaterThan(before + 0.1)
    expect(view.savePose().eye.y).toBeCloseTo(eye.y, 6)
  })

  it('orbit by three, or by two where that is set', () => {
    const three = (dx: number) => [at(300 + dx, 300), at(400 + dx, 300), at(500 + dx, 320)]
    const { world, view } = start()
    const eye = view.savePose().eye.clone()
    steerByFingers(world, three(0)).move(three(60))
    const orbited = view.savePose().eye
    expect(orbited.distanceTo(eye)).toBeGreaterThan(1)
    // About what lies under the fingers, which is near the middle of the level.
    expect(Math.abs(orbited.length() - eye.length())).toBeLessThan(1.5)
    const again = start()
    useSettings().kept.pointing.fingers = 'orbit'
    const before = again.view.savePose().eye.clone()
    steerByFingers(again.world, three(0).slice(0, 2)).move(three(60).slice(0, 2))
    expect(Math.abs(again.view.savePose().eye.length() - before.length())).toBeLessThan(1.5)
    expect(again.view.savePose().eye.distanceTo(before)).toBeGreaterThan(1)
  })
})

describe('a finger by itself', () => {
  beforeEach(() => vi.useFakeTimers())
  afterEach(() => vi.useRealTimers())

  function begin() {
    const said: string[] = []
    const { world } = start()
    const fingers = new Fingers(world, {
      onRested: ({ x, y }) => said.push(`rested at ${x} ${y}`),
      onSteer: () => said.push('steers'),
    })
    return { fingers, said }
  }

  it('has rested where it came down, unless it was lifted, went away or was joined', () => {
    const { fingers, said } = begin()
    expect(fingers.putDown(1, at(100, 100))).toBe(false)
    fingers.slide(1, at(104, 103))
    vi.advanceTimersByTime(600)
    expect(said).toEqual(['rested at 100 100'])
    fingers.lift(1)
    fingers.putDown(1, at(100, 100))
    expect([fingers.areDown, fingers.lift(1), fingers.areDown]).toEqual([true, false, false])
    fingers.putDown(2, at(100, 100))
    fingers.slide(2, at(130, 100))
    fingers.lift(2)
    vi.advanceTimersByTime(600)
    expect(said).toHaveLength(1)
    fingers.putDown(3, at(100, 100))
    expect(fingers.putDown(4, at(200, 100))).toBe(true)
    vi.advanceTimersByTime(600)
    expect(said.slice(1)).toEqual(['steers'])
  })

  it('that is left of several does nothing, until all are gone', () => {
    const { fingers } = begin()
    fingers.putDown(1, at(100, 100))
    fingers.putDown(2, at(200, 100))
    expect(fingers.lift(1)).toBe(true)
    expect(fingers.slide(2, at(300, 100))).toBe(true)
    expect(fingers.lift(2)).toBe(true)
    expect(fingers.putDown(3, at(100, 100))).toBe(false)
    expect([fingers.slide(3, at(120, 100)), fingers.lift(3), fingers.lift(9)]).toEqual([false, false, false])
  })
})
