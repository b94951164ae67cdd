import { Vector3 } from 'three'
import type { Vec3 } from '../../core/math/vectors'
import { expect, test } from './support'

test('a lantern is put exactly on a crate in four panes, and a pane is filled and left again by one key', async ({
  page,
  editor,
}) => {
  await editor.open()
  await editor.setGrid('10cm')
  await editor.rosterRow('Lanterns').locator('.twist').click()
  await editor.rosterRow('Lantern post 4').click()
  const canvas = (await page.getByTestId('stage').boundingBox())!
  await page.mouse.move(canvas.x + 200, canvas.y + 200)
  await page.keyboard.press('5')
  await expect(page.getByLabel('View of the pane')).toHaveCount(4)
  const before = await Promise.all([0, 1, 2, 3].map(pane => editor.view(pane)))
  expect(before.map(view => view.kind)).toEqual(['walkaround', 'plan', 'front', 'side'])

  const crate = (await editor.named('Crate 2')).translation
  const drag = async (pane: number, handle: Parameters<typeof editor.handle>[0], way: Vec3) => {
    const from = (await editor.named('Lantern post 4')).translation
    const [a, b] = [await editor.at(from, pane), await editor.at(from.map((value, i) => value + way[i]!) as Vec3, pane)]
    const grip = await editor.handle(handle, pane)
    await editor.pressAndMove(grip, { x: grip.x + b.x - a.x, y: grip.y + b.y - a.y })
    await page.mouse.up()
  }
  const lantern = (await editor.named('Lantern post 4')).translation
  // In Plan over the crate, in Front up onto it: orthographic panes give exactly what is dragged.
  await drag(1, { kind: 'plane', axis: 1 }, [crate[0] - lantern[0], 0, crate[2] - lantern[2]])
  await drag(2, { kind: 'axis', axis: 1 }, [0, 0.8, 0])
  const placed = await editor.named('Lantern post 4')
  expect(placed.translation).toEqual([crate[0], 0.8, crate[2]])
  await editor.saved()
  expect(await editor.row(placed.id)).toEqual(placed)

  const plan = await editor.at(placed.translation, 1)
  await page.mouse.move(plan.x, plan.y)
  await expect.poll(async () => (await editor.view()).kind).toBe('plan')
  await page.keyboard.press('5')
  await expect(page.getByRole('button', { name: 'Plan', exact: true })).toHaveAttribute('aria-pressed', 'true')
  await page.keyboard.press('5')
  await expect(page.getByLabel('View of the pane')).toHaveCount(4)

  // Orbiting in a fixed view shifts it and never tilts it.
  await page.keyboard.down('Alt')
  // Beside the handles, where Alt would leave an instance instead.
  const handles = await editor.at(placed.translation, 1)
  const middle = { x: handles.x - 100, y: handles.y + 90 }
  await editor.pressAndMove(middle, { x: middle.x + 40, y: middle.y + 30 })
  await page.mouse.up()
  await page.keyboard.up('Alt')
  const after = await editor.view(1)
  const [wasDown, isDown] = [before[1]!, after].map(({ eye, target }) =>
    new Vector3(...eye)
      .sub(new Vector3(...target))
      .normalize()
      .toArray(),
  )
  expect(isDown!.map(value => Math.round(value * 1e9))).toEqual(wasDown!.map(value => Math.round(value * 1e9)))
  expect(after.target[0]).not.toBeCloseTo(before[1]!.target[0], 2)
})

test('one flies away, the wheel changes the speed, and returns by station', async ({ page, editor }) => {
  await editor.open()
  const canvas = (await page.getByTestId('stage').boundingBox())!
  const centre = { x: canvas.x + canvas.width / 2, y: canvas.y + canvas.height / 2 }
  await page.getByRole('button', { name: 'Stations' }).click()
  await page.getByLabel('Name of the station').fill('Where I began')
  await page.getByRole('button', { name: 'Save this view' }).click()
  await page.keyboard.press('Escape')
  const start = await editor.view()

  await page.mouse.move(centre.x, centre.y)
  await page.mouse.down({ button: 'right' })
  await page.mouse.move(centre.x + 60, centre.y - 20, { steps: 4 })
  await page.mouse.wheel(0, -400)
  await expect(page.getByTestId('readout')).toContainText(/Fly\s+[1-9]\d\.\d m\/s/)
  await page.keyboard.down('w')
  await expect
    .poll(async () => new Vector3(...(await editor.view()).eye).distanceTo(new Vector3(...start.eye)), {
      timeout: 60_000,
    })
    .toBeGreaterThan(4)
  await page.keyboard.up('w')
  await page.mouse.up({ button: 'right' })
  await expect(page.getByTestId('readout')).toHaveCount(0)
  await editor.drawn()
  const away = await editor.view()
  await editor.drawn()
  expect((await editor.view()).eye).toEqual(away.eye)

  await page.getByRole('button', { name: 'Stations' }).click()
  await page.getByRole('button', { name: 'Where I began', exact: true }).click()
  await expect
    .poll(async () => new Vector3(...(await editor.view()).eye).distanceTo(new Vector3(...start.eye)))
    .toBeLessThan(1e-9)
  await editor.saved()
  expect(await editor.journal()).toEqual(['Save station Where I began'])
  await page.reload()
  await editor.ready()
  await page.getByRole('button', { name: 'Stations' }).click()
  await expect(page.getByRole('button', { name: 'Where I began', exact: true })).toBeVisible()
})

test('the view orbits around what is picked, zooms to what is under the pointer, and goes to a place that is typed', async ({
  page,
  editor,
}) => {
  await editor.open()
  const crate = await editor.named('Crate 1')
  await editor.rosterRow('Goods').locator('.twist').click()
  await editor.rosterRow('Crate 1').click()
  await page.getByTestId('stage').hover()
  await page.keyboard.press('l')
  await editor.drawn()
  const middle: Vec3 = [crate.translation[0], 0.4, crate.translation[2]]
  const seen = await editor.at(middle)
  await page.keyboard.down('Alt')
  await editor.pressAndMove({ x: seen.x + 100, y: seen.y + 120 }, { x: seen.x + 180, y: seen.y + 150 })
  await page.mouse.up()
  await page.keyboard.up('Alt')
  const after = await editor.at(middle)
  expect(Math.hypot(after.x - seen.x, after.y - seen.y)).toBeLessThan(2)

  const planter = (await editor.named('Planter 2')).translation
  await page.keyboard.press('Shift+L')
  await editor.drawn()
  const target: Vec3 = [planter[0], 0.3, planter[2] + 0.2]
  const point = await editor.at(target)
  const distance = async () => new Vector3(...(await editor.view()).eye).distanceTo(new Vector3(...target))
  const far = await distance()
  await page.mouse.move(point.x, point.y)
  for (let i = 0; i < 6; i++) await page.mouse.wheel(0, -200)
  await editor.drawn()
  expect(await distance()).toBeLessThan(far * 0.35)
  const now = await editor.at(target)
  expect(Math.hypot(now.x - point.x, now.y - point.y)).toBeLessThan(35)

  await page.getByLabel('Go to X').fill('12')
  await page.keyboard.press('Enter')
  expect((await editor.view()).target[0]).toBeCloseTo(12, 9)
  await page.getByLabel('Go to X').fill('+30')
  await page.keyboard.press('Enter')
  expect((await editor.view()).target[0]).toBeCloseTo(42, 9)
})

test('field of view, looks, the compass rose and the clear view', async ({ page, editor }) => {
  await editor.open()
  await page.getByRole('button', { name: 'View', exact: true }).click()
  const fieldOfView = page.getByRole('slider', { name: 'Field of view' })
  await fieldOfView.press('End')
  await expect(page.getByTestId('field-of-view')).toHaveText('110°')
  expect((await editor.view()).fieldOfView).toBe(110)
  await fieldOfView.press('Home')
  for (const look of ['Evenly lit', 'Wireframe', 'See-through', 'Lit']) {
    await page.getByRole('button', { name: look, exact: true }).click()
    await editor.drawn()
  }
  await page.keyboard.press('Escape')

  await page.getByRole('button', { name: 'Look from +X' }).click()
  await expect
    .poll(async () => {
      const { eye, target } = await editor.view()
      return new Vector3(...eye).sub(new Vector3(...target)).normalize().x
    })
    .toBeGreaterThan(0.98)
  await page.getByRole('button', { name: 'Look from above' }).click()
  await expect
    .poll(async () => {
      const { eye, target } = await editor.view()
      return new Vector3(...eye).sub(new Vector3(...target)).normalize().y
    })
    .toBeGreaterThan(0.999)

  await page.getByTestId('stage').hover()
  await page.keyboard.press('\\')
  await expect(page.getByRole('heading', { name: 'Roster' })).toHaveCount(0)
  await expect(page.getByTestId('modes')).toContainText('Clear view')
  await page.keyboard.press('Escape')
  await expect(page.getByRole('heading', { name: 'Roster' })).toBeVisible()
})
