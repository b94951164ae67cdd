import sharp from 'sharp'
import type { Vec3 } from '../../core/math/vectors'
import type { Thing } from './support'
import { difference, expect, test } from './support'

/** Metres between things, and things in a row. */
const [APART, IN_ROW] = [2.5, 142]
const COUNT = 20_000
const PARTS = ['Crate', 'Kerb 2 m', 'Barrel', 'Glass screen']

const placeOf = (i: number): Vec3 => [
  ((i % IN_ROW) - IN_ROW / 2) * APART,
  0,
  (Math.floor(i / IN_ROW) - IN_ROW / 2) * APART,
]

test('a level of 20,000 is shown whole when it rests, found in the distance, moved, checked and saved', async ({
  page,
  editor,
}) => {
  test.slow()
  await page.setViewportSize({ width: 1024, height: 700 })
  const things = Array.from({ length: COUNT }, (_, i): Thing => {
    return { name: `Thing ${i}`, part: PARTS[(i * 7) % PARTS.length], translation: placeOf(i) }
  })
  await editor.openWith(things)
  await expect(page.getByTestId('stats')).toContainText('20,000 things')
  const rested = () => page.evaluate(() => window.handyGrid!.rested())
  const look = (eye: Vec3, target: Vec3) =>
    page.evaluate(([from, to]) => window.handyGrid!.lookFrom(from, to), [eye, target] as const)
  const stage = (await page.getByTestId('stage').boundingBox())!
  // Without the strips above, the figures and the rose below.
  const clip = { x: stage.x + 20, y: stage.y + 90, width: stage.width - 40, height: stage.height - 260 }
  const picture = async () => {
    await rested()
    await expect(page.getByTestId('stats')).not.toContainText('% drawn')
    return page.screenshot({ clip })
  }

  // A dozen rows from its edge: what is near, and what is far.
  const [eye, target]: [Vec3, Vec3] = [
    [3, 9, -150],
    [0, 0, -185],
  ]
  await look(eye, target)
  const first = await picture()
  expect((await sharp(first).stats()).channels.some(({ stdev }) => stdev > 15)).toBe(true)

  // Orbited away by hand and back, it is the same picture, however it was put together.
  await page.keyboard.press('Escape')
  const middle = { x: stage.x + stage.width / 2, y: stage.y + stage.height / 2 }
  await page.keyboard.down('Alt')
  await editor.pressAndMove(middle, { x: middle.x + 90, y: middle.y + 20 })
  await page.mouse.up()
  await page.keyboard.up('Alt')
  expect(await difference(first, await picture())).toBeGreaterThan(0.02)
  await look(eye, target)
  expect(await difference(first, await picture())).toBeLessThan(0.002)

  // One in the distance is picked where it is seen, and moved.
  const crates = things.filter(({ part }) => part === 'Crate')
  const far = crates.find(
    ({ translation: at }) => at![2] < eye[2] - 12 && at![2] > eye[2] - 22 && Math.abs(at![0]) < 5,
  )!
  const [x, , z] = far.translation!
  await page.mouse.move(0, 0)
  const at = await editor.at([x, 0.6, z])
  await page.mouse.click(at.x, at.y)
  const { id } = await editor.named(far.name)
  await expect.poll(() => page.evaluate(() => window.handyGrid!.picked())).toEqual([id])
  const before = await editor.rows()
  await page.keyboard.press('PageUp')
  await editor.saved()
  const moved = (await editor.row(id))!
  expect(moved.translation[1]).toBeGreaterThan(0.1)
  expect([moved.translation[0], moved.translation[2]]).toEqual([x, z])
  const after = await editor.rows()
  expect(after.filter(each => each.id !== id)).toEqual(before.filter(each => each.id !== id))

  // It hangs in the air now, which the check says; deleted, nothing of it is seen any more.
  await expect(page.getByTestId('check-state')).toHaveAccessibleName(/1 error/, { timeout: 120_000 })
  await page.keyboard.press('Delete')
  await editor.saved()
  expect(await editor.row(id)).toBeUndefined()
  const without = await picture()
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await editor.saved()
  await page.keyboard.press('Escape')
  await page.mouse.move(0, 0)
  const again = await picture()
  expect(await difference(first, again)).toBeLessThan(0.002)
  expect(await difference(without, again, 8)).toBeGreaterThan(0)
  expect((await editor.row(id))!.translation).toEqual(far.translation)
})

test('a picture that is built up in pieces is the one that is drawn at once', async ({ page, editor }) => {
  const seen = Array.from({ length: 250 }, (_, i): Thing => {
    const part = i % 25 === 0 ? 'Glass screen' : i % 26 === 0 ? 'Lantern post' : 'Crate'
    return { name: `Seen ${i}`, part, translation: [((i % 16) - 8) * 1.6, 0, -4 - Math.floor(i / 16) * 1.6] }
  })
  // Behind the eye: so many that all of them are too many for one frame, or only one at the same place.
  const behind = (count: number) =>
    Array.from({ length: count }, (_, i): Thing => {
      return { name: `Behind ${i}`, part: 'Crate', translation: [i / 1000, 0, 20] }
    })
  const pictures: Buffer[] = []
  for (const count of [1, 120]) {
    await editor.openWith([...seen, ...behind(count)])
    await page.evaluate(() => window.handyGrid!.lookFrom([0, 5, 4], [0, 0, -12]))
    await page.evaluate(() => window.handyGrid!.rested())
    await expect(page.getByTestId('stats')).toContainText(count === 1 ? /k tris(?! within)/ : 'within 1 px')
    const stage = (await page.getByTestId('stage').boundingBox())!
    pictures.push(
      await page.screenshot({
        clip: { x: stage.x + 20, y: stage.y + 90, width: stage.width - 40, height: stage.height - 260 },
      }),
    )
  }
  // Those who have meshes for the distance lie off by no more than a pixel.
  expect(await difference(pictures[0]!, pictures[1]!, 24)).toBeLessThan(0.01)
  expect((await sharp(pictures[0]).stats()).channels.some(({ stdev }) => stdev > 15)).toBe(true)
})
