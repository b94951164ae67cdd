import sharp from 'sharp'
import type { Vec3 } from '../../core/math/vectors'
import type { Thing } from './support'
import { expect, test } from './support'

/** Metres between things, and things in a row. */
const [APART, IN_ROW] = [2.5, 142]
const COUNT = 20_000
const PARTS = ['Crate', 'Kerb 2 m', 'Barrel', 'Glass screen']

const placeOf = (i: number): Vec3 => [
  ((i % IN_ROW) - IN_ROW / 2) * APART,
  0,
  (Math.floor(i / IN_ROW) - IN_ROW / 2) * APART,
]

/** Of two pictures of one size, the share of pixels of which some channel is another by more than `by`. */
async function difference(one: Buffer, other: Buffer, by = 12): Promise<number> {
  const [a, b] = await Promise.all([one, other].map(each => sharp(each).removeAlpha().raw().toBuffer()))
  let differing = 0
  for (let i = 0; i < a!.length; i += 3) if ([0, 1, 2].some(k => Math.abs(a![i + k]! - b![i + k]!) > by)) differing++
  return differing / (a!.length / 3)
}

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
  // Simpler meshes for the distance are asked for when they are first wanted.
  await rested()
  await page.waitForLoadState('networkidle')
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
