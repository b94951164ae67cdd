import { Matrix4, Quaternion, Ray, Vector3 } from 'three'
import { v7 } from 'uuid'
import { Solid } from '../../core/mesh/solid'
import type { Vec3 } from '../../core/math/vectors'
import { lanternQuayKit } from '../../demo/kit'
import { expect, test } from './support'

const bank = new Solid(lanternQuayKit().find(part => part.name === 'Embankment')!.mesh)

/** The bank's surface at a place, by a ray of its own. */
const surfaceAt = (x: number, z: number) =>
  bank.raycast(new Ray(new Vector3(x, 50, z), new Vector3(0, -1, 0)), new Matrix4())!

test('a running wall of 24 pieces in three courses is built by dragging alone, every gap exactly 0', async ({
  page,
  editor,
}) => {
  const block = v7()
  // Strewn about in front of where the wall will stand, each a little off its place in depth.
  const pieces = Array.from({ length: 24 }, (_, i) => ({
    name: `Piece ${i + 1}`,
    block,
    translation: [(i % 8) * 1.37 - 0.21, 2.6 + Math.floor(i / 8) * 0.9, 0] as Vec3,
  }))
  await editor.openWith(pieces, [
    {
      do: 'put-block',
      id: block,
      fields: { shape: { type: 'box', width: 1, height: 0.5, depth: 0.3 }, color: '#b07850' },
    },
  ])
  await page.keyboard.press('8')
  await page.keyboard.press('a')
  await page.keyboard.press('Shift+l')
  await editor.setGrid('0.5')
  for (let i = 0; i < 24; i++) {
    const [course, place] = [Math.floor(i / 8), i % 8]
    const { translation } = await editor.named(`Piece ${i + 1}`)
    const seen = await editor.at([translation[0], translation[1] + 0.25, 0])
    await page.mouse.click(seen.x, seen.y)
    const grip = await editor.handle({ kind: 'view' })
    // As a hand does it: near its place, three centimetres short of it.
    const goal = await editor.at([place + (course % 2) * 0.5 + (place === 0 ? 0.02 : 0.03), course * 0.5 + 0.03, 0])
    await page.mouse.move(grip.x, grip.y)
    await page.mouse.down()
    await page.mouse.move((grip.x + goal.x) / 2, (grip.y + goal.y) / 2)
    await page.mouse.move(goal.x, goal.y)
    if (i === 1) expect(await editor.readout()).toContain('abuts Piece 1')
    await page.mouse.up()
  }
  await editor.saved()
  const wall = await editor.rows()
  const at = (course: number, place: number) =>
    wall.find(({ name }) => name === `Piece ${course * 8 + place + 1}`)!.translation
  for (let course = 0; course < 3; course++) {
    for (let place = 0; place < 8; place++) {
      expect(at(course, place)[1], `height of ${course} ${place}`).toBe(course * 0.5)
      expect(at(course, place)[2]).toBe(0)
      if (place > 0)
        expect(at(course, place)[0] - at(course, place - 1)[0] - 1, `gap before ${course} ${place}`).toBe(0)
    }
    if (course > 0) expect(Math.abs(at(course, 0)[0] - at(course - 1, 0)[0])).toBe(0.5)
  }
  expect((await editor.done()).filter(label => label.startsWith('Move'))).toHaveLength(24)
})

test('lanterns along a slope are set down, each by itself; the one without ground stays and is picked', async ({
  page,
  editor,
}) => {
  const places: Vec3[] = [
    [-8, 4, -2],
    [-4, 5, 0],
    [0, 6, 1],
    [4, 3.5, 2],
    [8, surfaceAt(8, 3).point.y - 0.6, 3],
    [40, 3, 0],
  ]
  await editor.openWith([
    { name: 'Bank', part: 'Embankment', translation: [0, 0, 0] },
    ...places.map((translation, i) => ({ name: `Lantern ${i + 1}`, part: 'Lantern post', translation })),
  ])
  await editor.pick(...places.map((_, i) => `Lantern ${i + 1}`))
  await page.keyboard.press('g')
  await expect(page.getByText('One thing has no ground below it')).toBeVisible()
  expect(await editor.pickedNames()).toEqual(['Lantern 6'])
  await editor.saved()
  const rows = await editor.rows()
  for (const [i, [x, y, z]] of places.entries()) {
    const { translation } = rows.find(({ name }) => name === `Lantern ${i + 1}`)!
    expect([translation[0], translation[2]]).toEqual([x, z])
    if (i < 5) expect(translation[1]).toBeCloseTo(surfaceAt(x, z).point.y, 5)
    else expect(translation[1]).toBe(y)
  }
  expect(await editor.done()).toEqual(['Set down 6 things'])
})

test('a crate is hugged up a bank, upright and leaning with it', async ({ page, editor }) => {
  await editor.openWith([
    { name: 'Bank', part: 'Embankment', translation: [0, 0, 0] },
    { name: 'Crate', part: 'Crate', translation: [0, 0, 7.5] },
  ])
  await editor.pick('Crate')
  await editor.look([2, 6, 16], [0, 1, 2])
  await page.keyboard.press('h')
  const drag = async (to: Vec3) => {
    await editor.pressAndMove(await editor.handle({ kind: 'view' }), await editor.at(to))
    const said = await editor.readout()
    await page.mouse.up()
    return said
  }
  const half = surfaceAt(1, 1).point
  expect(await drag([half.x, half.y, half.z])).toContain('hugs Bank')
  const upright = await editor.named('Crate')
  expect(upright.rotation).toEqual([0, 0, 0, 1])
  expect(upright.translation[1]).toBeCloseTo(surfaceAt(upright.translation[0], upright.translation[2]).point.y, 5)
  expect([upright.translation[0] % 0.25, upright.translation[2] % 0.25]).toEqual([0, 0])

  await page.getByRole('button', { name: 'Hug menu' }).click()
  await page.getByRole('button', { name: 'Leaning' }).click()
  await page.keyboard.press('Escape')
  const up = surfaceAt(-2, -1).point
  await drag([up.x, up.y, up.z])
  await editor.saved()
  const leaning = await editor.named('Crate')
  const { normal } = surfaceAt(leaning.translation[0], leaning.translation[2])
  expect(normal.y).toBeLessThan(0.999)
  expect(new Vector3(0, 1, 0).applyQuaternion(new Quaternion(...leaning.rotation)).distanceTo(normal)).toBeLessThan(
    1e-5,
  )
  expect(await editor.row(leaning.id)).toEqual(leaning)

  // Set down with no corner below: of all its points none is under the bank, and one touches it.
  await page.getByRole('button', { name: 'Line up', exact: true }).click()
  await page.getByRole('button', { name: 'No corner below' }).click()
  await page.keyboard.press('g')
  await editor.saved()
  const set = (await editor.row(leaning.id))!
  expect(set.translation[1]).not.toBe(leaning.translation[1])
  const stands = new Matrix4().compose(
    new Vector3(...set.translation),
    new Quaternion(...set.rotation),
    new Vector3(1, 1, 1),
  )
  const gaps = lanternQuayKit()
    .find(part => part.name === 'Crate')!
    .mesh.primitives.flatMap(({ positions }) =>
      Array.from({ length: positions.length / 3 }, (_, i) => {
        const { x, y, z } = new Vector3().fromArray(positions, i * 3).applyMatrix4(stands)
        return y - surfaceAt(x, z).point.y
      }),
    )
  expect(Math.min(...gaps)).toBeGreaterThan(-2e-3)
  expect(Math.min(...gaps)).toBeLessThan(2e-3)
})

test('a corner is brought to a corner with the key held, marked before the drag, and only along what is free', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Slab', part: 'Quay slab 4 m', translation: [0, 0, 0] },
    { name: 'Crate', part: 'Crate', translation: [-4, 0.31, 1.07] },
  ])
  const block = (await editor.named('Slab')).translation
  expect(block).toEqual([0, 0, 0])
  await editor.pick('Crate')
  await editor.look([-1, 5, 9], [-1, 0.2, 0])
  const matrix = await page.evaluate(id => window.handyGrid!.worldMatrix(id), (await editor.named('Crate')).id)
  const crate = new Solid(lanternQuayKit().find(part => part.name === 'Crate')!.mesh)
  // The crate's highest corner towards the viewer's right, and a corner of the slab's top.
  const corner = farthest(crate, new Vector3(1, 1, 1)).applyMatrix4(new Matrix4().fromArray(matrix))
  const slab = new Solid(lanternQuayKit().find(part => part.name === 'Quay slab 4 m')!.mesh)
  const target = farthest(slab, new Vector3(-1, 1.001, 1))
  const [from, to] = [await editor.at(corner.toArray()), await editor.at(target.toArray())]
  await page.mouse.move(from.x, from.y)
  await page.keyboard.down('n')
  await editor.drawn()
  await editor.pressAndMove(from, to)
  expect(await editor.readout()).toContain('of Slab')
  await page.mouse.up()
  await page.keyboard.up('n')
  await editor.saved()
  const moved = (await editor.named('Crate')).translation
  const way = target.clone().sub(corner)
  way.toArray().forEach((value, i) => expect(moved[i]).toBeCloseTo([-4, 0.31, 1.07][i]! + value, 5))
  expect((await editor.row((await editor.named('Crate')).id))!.translation).toEqual(moved)
})

function farthest(solid: Solid, direction: Vector3): Vector3 {
  let best = new Vector3()
  for (const { positions } of solid.mesh.primitives) {
    for (let i = 0; i < positions.length; i += 3) {
      const point = new Vector3().fromArray(positions, i)
      if (best.lengthSq() === 0 || point.dot(direction) > best.dot(direction)) best = point
    }
  }
  return best
}
