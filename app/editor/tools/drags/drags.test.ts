import { Quaternion, Vector3 } from 'three'
import { beforeAll, describe, expect, it, vi } from 'vitest'
import { turnAbout } from '~~/core/edit/handles/turn'
import { setPivots, toOwn } from '~~/core/edit/handles/pivot'
import { degreesToQuat, quatToDegrees } from '~~/core/math/transform'
import { testId } from '../../../../tests/support'
import { keyFor } from '../../keys/test-keys'
import { testEditor } from '../../test-editor'
import type { DragKind } from './drag-kind'
import { runDrag } from './drag'
import { moveDrag } from './move'
import { pointDrag } from './pivot'
import { sizeDrag } from './size'
import { turnDrag } from './turn'

beforeAll(() => {
  vi.stubGlobal('requestAnimationFrame', () => 0)
  vi.stubGlobal('cancelAnimationFrame', () => {})
})

const [one, two] = [testId(1), testId(2)]

function start(...placements: Parameters<typeof testEditor>[0]) {
  const bench = testEditor(
    placements.length > 0 ? placements : [{ translation: [0.2, 0, 0] }, { translation: [3, 0, 0] }],
  )
  bench.pick([one])
  return { ...bench, frame: () => bench.world.frame()! }
}

const kinds: Record<string, (bench: ReturnType<typeof start>) => DragKind> = {
  move: ({ world, frame }) => moveDrag(world, frame(), { kind: 'view' }),
  turn: ({ world, frame }) => turnDrag(world, frame(), 1),
  size: ({ world, frame }) => sizeDrag(world, frame(), [1, 1, 1]),
  pivot: ({ world, frame, level }) =>
    pointDrag(world, frame(), { kind: 'view' }, 'Move the pivot of', point =>
      setPivots(level, [one], toOwn(level, one, point)),
    ),
}

describe('every drag', () => {
  it.each(Object.entries(kinds))(
    'of %s cancelled half-way leaves the level as it was, to the bit, and says no more',
    (_, kind) => {
      const bench = start()
      const { world, level, seen, over } = bench
      const before = JSON.stringify([...level.placements()])
      const gesture = runDrag(world, kind(bench), over(0.2, 0, 0))
      gesture.move(over(1, 0, 1))
      gesture.move(over(2, 0.5, 0))
      expect(seen.previews.at(-1)!.length).toBeGreaterThan(0)
      gesture.cancel()
      expect(JSON.stringify([...level.placements()])).toBe(before)
      expect(seen.previews.at(-1)).toBeNull()
      expect(seen.readouts.at(-1)).toBeNull()
      expect(seen.labels).toEqual([])
    },
  )

  it.each(Object.entries(kinds))('of %s writes once, at the release', (_, kind) => {
    const bench = start()
    const gesture = runDrag(bench.world, kind(bench), bench.over(0.7, 0, 0.2))
    gesture.move(bench.over(1.9, 0.4, 1))
    gesture.move(bench.over(2.4, 0.6, 1))
    expect(bench.seen.labels).toEqual([])
    gesture.end(bench.over(2.4, 0.6, 1))
    expect(bench.seen.labels).toHaveLength(1)
  })

  it.each(Object.entries(kinds))('of %s that comes back to where it began is no change', (_, kind) => {
    const bench = start()
    bench.set.steps({ grid: { size: 0.5, lattice: false } })
    const gesture = runDrag(bench.world, kind(bench), bench.over(0.7, 0, 0.2))
    gesture.move(bench.over(1.9, 0, 1))
    gesture.move(bench.over(0.7, 0, 0.2))
    gesture.end(bench.over(0.7, 0, 0.2))
    expect(bench.seen.labels).toEqual([])
  })

  it('leaves an instance behind when Alt is held as it starts', () => {
    const bench = start()
    const gesture = runDrag(bench.world, kinds.move!(bench), bench.over(0.2, 0, 0, { alt: true }))
    gesture.move(bench.over(2, 0, 0))
    gesture.end(bench.over(2, 0, 0))
    expect(bench.level.size).toBe(3)
    const left = [...bench.level.placements()].at(-1)!
    expect(left).toMatchObject({ translation: [0.2, 0, 0], partId: testId(99), name: 'Thing 3' })
    expect(bench.seen.labels).toEqual(['Move Thing 1'])
  })

  it('leaves locked things alone', () => {
    const bench = start()
    bench.world.change('', [{ do: 'put', id: two, fields: { locked: true } }])
    bench.pick([two, one])
    const gesture = runDrag(bench.world, kinds.move!(bench), bench.over(0.2, 0, 0))
    gesture.move(bench.over(1.2, 0, 0))
    gesture.end(bench.over(1.2, 0, 0))
    expect(bench.level.need(two).translation).toEqual([3, 0, 0])
  })

  it('takes the camera along while V is held, and goes on from where it is', () => {
    const bench = start()
    bench.set.steps({ grid: { size: 0, lattice: true } })
    const eye = bench.view.eye.clone()
    const gesture = runDrag(
      bench.world,
      moveDrag(bench.world, bench.frame(), { kind: 'axis', axis: 0 }),
      bench.over(0.2, 0, 0),
    )
    gesture.key!(keyFor('takeCamera'))
    const [from, to] = [bench.over(0.2, 0, 0), bench.over(1.2, 0, 0)]
    for (let i = 1; i <= 4; i++) gesture.move({ ...from, x: from.x + ((to.x - from.x) * i) / 4 })
    gesture.end(to)
    const moved = bench.level.need(one).translation[0] - 0.2
    expect(moved).toBeCloseTo(1, 2)
    expect(bench.view.eye.x - eye.x).toBeCloseTo(moved, 9)
  })
})

describe('a lock', () => {
  it('set before a drag holds for that drag, from anywhere, and is free again after it', () => {
    const bench = start()
    bench.set.lock({ kind: 'axis', axis: 0 })
    const gesture = runDrag(bench.world, kinds.move!(bench), bench.over(-2, 0, 3))
    gesture.move(bench.over(-1.2, 0, 1))
    gesture.end(bench.over(-1.2, 0, 1))
    const [x, y, z] = bench.level.need(one).translation
    expect([y, z]).toEqual([0, 0])
    expect(x).toBeGreaterThan(0.2)
    expect(x % 0.5).toBe(0)
    expect(bench.handling.lock).toBeNull()
  })

  it('changes during a drag by key: an axis, out of an axis, and free again', () => {
    const bench = start()
    bench.set.steps({ grid: { size: 0, lattice: true } })
    const gesture = runDrag(bench.world, kinds.move!(bench), bench.over(0.2, 0, 0))
    const moved = () =>
      (bench.seen.previews.at(-1)![0] as { fields: { translation: number[] } }).fields.translation.map(
        (value, i) => Math.round((value - [0.2, 0, 0][i]!) * 1000) / 1000 + 0,
      )
    gesture.move(bench.over(1.2, 0, 1))
    gesture.key!(keyFor('lockZ'))
    expect(moved()[0]).toBe(0)
    expect(moved()[2]).not.toBe(0)
    gesture.key!(keyFor('lockOutOfY'))
    expect(moved()).toEqual([1, 0, 1])
    gesture.key!(keyFor('unlock'))
    expect(moved()[1]).not.toBe(0)
    expect(bench.seen.readouts.at(-1)!.title).toBe('Move across the view')
  })

  it('chooses the axis of a turn and the sides of a sizing', () => {
    const bench = start()
    bench.set.lock({ kind: 'axis', axis: 2 })
    const turn = runDrag(bench.world, kinds.turn!(bench), bench.over(1.2, 0, 0))
    turn.move(bench.over(0.2, 1, 0))
    expect(bench.seen.readouts.at(-1)!.title).toBe('Turn about Z')
    turn.cancel()
    bench.set.lock({ kind: 'plane', axis: 1 })
    const size = runDrag(bench.world, kinds.size!(bench), bench.over(0.7, 1, 0.5))
    size.move(bench.over(1.4, 1, 1))
    expect(bench.seen.readouts.at(-1)!.title).toBe('Size along XZ')
  })
})

describe('typed numbers', () => {
  it('take over from the pointer, are shown at once, and are exact', () => {
    const bench = start()
    const gesture = runDrag(
      bench.world,
      moveDrag(bench.world, bench.frame(), { kind: 'axis', axis: 0 }),
      bench.over(0.2, 0, 0),
    )
    gesture.move(bench.over(1, 0, 0))
    expect(gesture.goesOn!()).toBe(false)
    expect(gesture.key!(keyFor('type'))).toBe(true)
    expect(gesture.goesOn!()).toBe(true)
    expect(bench.seen.asked!.fields).toMatchObject([{ label: 'X', quantity: 'length' }])
    gesture.move(bench.over(9, 0, 0))
    bench.seen.asked!.change([0.6096])
    expect(bench.seen.previews.at(-1)).toMatchObject([{ fields: { translation: [0.8096, 0, 0] } }])
    bench.seen.asked!.commit()
    expect(bench.level.need(one).translation).toEqual([0.8096, 0, 0])
    expect(bench.seen.asked).toBeNull()
  })

  it('can be left again, and then nothing has happened', () => {
    const bench = start()
    runDrag(bench.world, kinds.turn!(bench), bench.over(0, 0, 0), 'type')
    bench.seen.asked!.change([90])
    bench.seen.asked!.cancel()
    expect(bench.seen.labels).toEqual([])
    expect(bench.level.need(one).rotation).toEqual([0, 0, 0, 1])
  })

  it('size by a factor or in metres, whichever was changed', () => {
    const bench = start()
    runDrag(bench.world, sizeDrag(bench.world, bench.frame(), [0, 1, 0]), bench.over(0, 0, 0), 'type')
    bench.seen.asked!.change([1, 2.5])
    bench.seen.asked!.commit()
    expect(bench.level.need(one).scale).toEqual([1, 2.5, 1])
    runDrag(bench.world, sizeDrag(bench.world, bench.frame(), [0, 1, 0]), bench.over(0, 0, 0), 'type')
    bench.seen.asked!.change([2, 2.5])
    bench.seen.asked!.commit()
    expect(bench.level.need(one).scale).toEqual([1, 5, 1])
  })
})

describe('moving', () => {
  it('follows local axes, and says what it snapped to', () => {
    const bench = start()
    bench.set.axes(new Quaternion(...degreesToQuat([0, 90, 0])))
    const gesture = runDrag(
      bench.world,
      moveDrag(bench.world, bench.frame(), { kind: 'axis', axis: 0 }),
      bench.over(0.2, 0, 0),
    )
    gesture.move(bench.over(0.2, 0, -1.4))
    gesture.end(bench.over(0.2, 0, -1.4))
    expect(bench.level.need(one).translation.map(value => Math.round(value * 1e9) / 1e9 + 0)).toEqual([0.2, 0, -1.5])
    expect(bench.seen.readouts.at(-2)!.notes[0]).toBe('on the grid of 0.500 m')
  })

  it('abuts, marks the faces, and with Ctrl does not', () => {
    const bench = start({ translation: [0, 0, 0] }, { translation: [3, 0, 0] })
    bench.settings.kept.abut = true
    bench.set.steps({ grid: { size: 0.3, lattice: false } })
    const gesture = runDrag(
      bench.world,
      moveDrag(bench.world, bench.frame(), { kind: 'axis', axis: 0 }),
      bench.over(0, 0, 0),
    )
    gesture.move(bench.over(1.93, 0, 0))
    expect(bench.seen.readouts.at(-1)!.notes).toContain('abuts Thing 2')
    expect(bench.seen.hints!.faces).toHaveLength(1)
    gesture.end(bench.over(1.93, 0, 0))
    expect(bench.level.need(one).translation).toEqual([2, 0, 0])
  })

  it('brings a chosen corner to a corner of something else', () => {
    const bench = start({ translation: [0, 0, 0] }, { translation: [3, 0, 0] })
    bench.settings.kept.vertex = true
    const gesture = runDrag(
      bench.world,
      moveDrag(bench.world, bench.frame(), { kind: 'view' }, new Vector3(0.5, 1, 0.5)),
      bench.over(0.5, 1, 0.5),
    )
    gesture.move(bench.over(2.5, 1, 0.5))
    expect(bench.seen.hints).toMatchObject({ target: { x: 2.5, y: 1, z: 0.5 } })
    gesture.end(bench.over(2.5, 1, 0.5))
    expect(bench.level.need(one).translation).toEqual([2, 0, 0])
  })
})

describe('turning', () => {
  it('goes in steps, counts past full turns, and sets a tipped thing upright exactly', () => {
    const bench = start({ rotation: turnAbout(new Vector3(0, 0, 1), 90).toArray() as [number, number, number, number] })
    bench.view.lookFrom(new Vector3(0, 0, 10), new Vector3(0, 0, 0))
    const at = (degrees: number) =>
      bench.over(Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180), 0)
    const gesture = runDrag(bench.world, turnDrag(bench.world, bench.frame(), 2), at(0))
    for (let degrees = 0; degrees >= -448; degrees -= 8) gesture.move(at(degrees))
    expect(bench.seen.readouts.at(-1)).toMatchObject({ title: 'Turn about Z', value: '-450°' })
    expect(bench.seen.readouts.at(-1)!.notes).toContain('1 whole turn and -90°')
    gesture.end(at(-448))
    expect(bench.level.need(one).rotation.map(value => value + 0)).toEqual([0, 0, 0, 1])
  })

  it('on the lattice lands on multiples of the step, wherever it began', () => {
    const bench = start({ rotation: degreesToQuat([0, 7, 0]) })
    bench.set.steps({ turn: { size: 15, lattice: true } })
    bench.view.lookFrom(new Vector3(0, 10, 0.01), new Vector3(0, 0, 0))
    const gesture = runDrag(bench.world, turnDrag(bench.world, bench.frame(), 1), bench.over(1, 0, 0))
    gesture.move(bench.over(Math.cos(20 / 57.3), 0, -Math.sin(20 / 57.3)))
    gesture.end(bench.over(1, 0, 0))
    const [, y, , w] = bench.level.need(one).rotation
    expect((2 * Math.atan2(y, w) * 180) / Math.PI).toBeCloseTo(30, 9)
  })

  it('turns around a pin, and each around its own', () => {
    const bench = start({ translation: [0, 1, 0] }, { translation: [3, 0, 0] })
    bench.set.around([0, 3, 0])
    const gesture = runDrag(bench.world, turnDrag(bench.world, bench.frame(), 2), bench.over(0, 1, 0), 'type')
    expect(gesture.goesOn!()).toBe(true)
    bench.seen.asked!.change([90])
    bench.seen.asked!.commit()
    expect(bench.level.need(one).translation.map(value => Math.round(value * 1e9) / 1e9 + 0)).toEqual([2, 3, 0])
    bench.set.around('each')
    bench.pick([one, two])
    runDrag(bench.world, turnDrag(bench.world, bench.frame(), 1), bench.over(0, 1, 0), 'type')
    bench.seen.asked!.change([45])
    bench.seen.asked!.commit()
    expect(bench.level.need(two).translation).toEqual([3, 0, 0])
  })
})

describe('sizing', () => {
  it('by a face leaves the face across, with Shift the pivot, and goes in steps', () => {
    const bench = start({ translation: [0, 0, 0] })
    bench.set.steps({ size: { size: 0.25, lattice: false } })
    const drag = (to: [number, number, number], shift: boolean) => {
      const gesture = runDrag(bench.world, sizeDrag(bench.world, bench.frame(), [1, 0, 0]), bench.over(0.5, 0.5, 0))
      gesture.move(bench.over(...to, { shift }))
      gesture.end(bench.over(...to, { shift }))
      return bench.level.need(one)
    }
    expect(drag([1.02, 0.5, 0], false)).toMatchObject({ scale: [1.5, 1, 1], translation: [0.25, 0, 0] })
    bench.world.change('', [{ do: 'put', id: one, fields: { translation: [0, 0, 0], scale: [1, 1, 1] } }])
    expect(drag([1.02, 0.5, 0], true)).toMatchObject({ scale: [2, 1, 1], translation: [0, 0, 0] })
  })
})

describe('with height along Z', () => {
  const begin = () => {
    const bench = start({ translation: [0, 0, 0] })
    bench.settings.kept.height = 'z'
    bench.set.steps({ grid: { size: 0, lattice: false }, turn: { size: 0, lattice: false } })
    return bench
  }

  it('a drag says and locks what is written, and writes what is kept', () => {
    const bench = begin()
    const { world, seen, over, level } = bench
    const gesture = runDrag(world, moveDrag(world, bench.frame(), { kind: 'view' }), over(0, 0, 0))
    gesture.key!(keyFor('lockY'))
    gesture.move(over(0, 0, -2))
    expect(seen.readouts.at(-1)).toMatchObject({ title: 'Move along Y', value: '+2.000 m' })
    gesture.end(over(0, 0, -2))
    expect(level.need(one).translation[2]).toBeCloseTo(-2, 6)
    expect(level.need(one).translation[1]).toBe(0)
  })

  it('places and planes are said in the order of the letters', () => {
    const bench = begin()
    const { world, seen, over } = bench
    const gesture = runDrag(world, moveDrag(world, bench.frame(), { kind: 'plane', axis: 1 }), over(0, 0, 0))
    gesture.move(over(1, 0, 3))
    expect(seen.readouts.at(-1)).toMatchObject({ title: 'Move in XY', value: 'X +1.000 m  Y -3.000 m' })
    gesture.cancel()
    const about = runDrag(world, turnDrag(world, bench.frame(), 2), over(1, 0, 0), 'type')
    expect(seen.asked).toMatchObject({ title: 'Turn about Y', fields: [{ label: 'Z', axis: 2 }] })
    about.cancel()
    // A turn about what is kept as +Z is the other way about Y.
    const turn = runDrag(world, turnDrag(world, bench.frame(), 2), over(1, 0, 0))
    turn.move(over(0.7, 0.7, 0))
    const { value } = seen.readouts.at(-1)!
    turn.end(over(0.7, 0.7, 0))
    const kept = quatToDegrees(bench.level.need(one).rotation)[2]
    expect(Math.abs(kept)).toBeGreaterThan(10)
    expect(Number.parseFloat(value)).toBeCloseTo(-kept, 1)
    // A place is said whole.
    const pivot = runDrag(
      world,
      pointDrag(world, bench.frame(), { kind: 'plane', axis: 1 }, 'Move the pivot of', () => []),
      over(0, 0, 0),
    )
    pivot.move(over(1, 0, 3))
    expect(seen.readouts.at(-1)!.value).toBe('X 1.000 m  Y -3.000 m  Z 0.000 m')
    pivot.cancel()
  })
})
