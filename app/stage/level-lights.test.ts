import type { Light } from 'three'
import { Box3, Matrix4, SpotLight, Vector3 } from 'three'
import { expect, it } from 'vitest'
import { lightOwn } from '../../core/level/create'
import type { Lamp } from '../../core/scene/lamp-cells'
import type { LampGrid } from './lamp-grid'
import { LevelLights } from './level-lights'
import { View } from './view'

it('an area gives off its luminance times its area, whichever side is longer', () => {
  const grids: (readonly Lamp[])[] = []
  const lights = new LevelLights({
    set: (lamps: readonly Lamp[]) => void grids.push(lamps),
    update: () => {},
    dispose: () => {},
  } as unknown as LampGrid)
  const view = new View(
    'walkaround',
    true,
    () => new Box3(),
    () => {},
  )
  for (const [id, width, height] of [
    ['a', 2, 0.5],
    ['b', 0.5, 2],
    ['c', 3, 2],
  ] as const)
    lights.set(id, [
      { light: lightOwn({ light: 'area', intensity: 100, width, height, color: '#ffffff' }), matrix: new Matrix4() },
    ])
  lights.setSky({ of: 'night', exposure: 0 })
  lights.update(view, 'lit')
  const [a, b, c] = grids.at(-1)!
  expect(
    [b!.color.r / a!.color.r, c!.color.r / a!.color.r, b!.area / a!.area, c!.area / a!.area].map(value =>
      Number(value.toFixed(9)),
    ),
  ).toEqual([1, 6, 1, 6])
})

it('a lamp with shadows has a light of its own while it shines, and only then; all others are in the grid, dealt once', () => {
  const grids: (readonly Lamp[])[] = []
  const lights = new LevelLights({
    set: (lamps: readonly Lamp[]) => void grids.push(lamps),
    update: () => {},
    dispose: () => {},
  } as unknown as LampGrid)
  const view = new View(
    'walkaround',
    true,
    () => new Box3(),
    () => {},
  )
  view.lookFrom(new Vector3(0, 2, 5), new Vector3())
  const shining = () =>
    lights.object.children.filter(
      child => child instanceof SpotLight && child.visible && (child as Light).intensity > 0,
    ).length
  lights.set('a', [{ light: lightOwn({ light: 'spot', when: 'night' }), matrix: new Matrix4() }])
  lights.set('b', [{ light: lightOwn({ light: 'point' }), matrix: new Matrix4() }])
  lights.setSky({ of: 'night', exposure: 4 })
  expect(lights.update(view, 'lit')).toBe(true)
  expect([shining(), grids.length, grids.at(-1)!.length]).toEqual([1, 1, 1])
  expect(lights.update(view, 'lit')).toBe(false)
  lights.update(view, 'even')
  expect([shining(), grids.length]).toEqual([0, 1])
  lights.setSky({ of: 'day', exposure: 15 })
  lights.update(view, 'lit')
  expect([shining(), grids.at(-1)!.length, lights.isLit]).toEqual([0, 1, false])
  lights.setSky({ of: 'night', exposure: 4 })
  lights.update(view, 'lit')
  lights.remove('a')
  lights.update(view, 'lit')
  expect(shining()).toBe(0)
  lights.remove('b')
  lights.update(view, 'lit')
  expect([lights.count, grids.at(-1)!.length]).toEqual([0, 0])
})
