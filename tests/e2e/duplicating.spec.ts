import { eq, inArray } from 'drizzle-orm'
import { v7 } from 'uuid'
import { degreesToQuat } from '../../core/math/transform'
import { blocks, parts } from '../../server/db/schema'
import { expect, test } from './support'

test('a crate is duplicated in place, moved by an exact distance, and again; the choice of what is shared is remembered', async ({
  page,
  editor,
}) => {
  const block = v7()
  await editor.openWith(
    [
      { name: 'Crate', part: 'Crate', translation: [0, 0, 0] },
      { name: 'Plinth', block, translation: [0, 0, 2], rotation: degreesToQuat([0, 30, 0]), scale: [2, 1, 1] },
    ],
    [
      {
        do: 'put-block',
        id: block,
        fields: { shape: { type: 'box', width: 1, height: 1, depth: 1 }, color: '#a08060' },
      },
    ],
  )
  await editor.look([3, 3, 6], [0.5, 0.4, 0])
  await editor.pick('Crate')
  await page.getByRole('button', { name: 'Repeat', exact: true }).click()
  await expect(page.getByTestId('instances')).toContainText('Crate: 1 of 1')

  // In place, then moved by its handle with a typed distance, then the same step three times.
  await page.keyboard.press('Control+d')
  expect((await editor.placements()).map(({ translation }) => translation)).toEqual([
    [0, 0, 0],
    [0, 0, 2],
    [0, 0, 0],
  ])
  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  await editor.pressAndMove(grip, { x: grip.x + 40, y: grip.y })
  await page.keyboard.press('=')
  await page.keyboard.type('24in')
  await page.keyboard.press('Enter')
  await page.mouse.up()
  for (let i = 0; i < 3; i++) await page.keyboard.press('Control+Shift+d')
  await editor.saved()
  const crates = (await editor.rows()).filter(({ name }) => name.startsWith('Crate'))
  expect(new Set(crates.map(({ partId }) => partId)).size).toBe(1)
  // Five of them, each 24 in of 25.4 mm beside the last (NIST SP 811).
  crates
    .map(({ translation }) => translation[0])
    .sort((a, b) => a - b)
    .forEach((x, i) => expect(x).toBeCloseTo(i * 0.6096, 12))
  await expect(page.getByTestId('instances')).toContainText('Crate: 1 of 5')

  // A copy of a block has numbers of its own, and is moved by the bench's distance at once.
  await editor.pick('Plinth')
  await page.getByLabel('It has numbers of its own').check()
  await page.getByLabel('Duplicate along Z').fill('1.5')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Duplicate', exact: true }).click()
  await editor.saved()
  expect(await editor.server.db.select().from(blocks).where(eq(blocks.levelId, editor.levelId))).toHaveLength(2)
  const copies = (await editor.rows()).filter(({ name }) => name.startsWith('Plinth'))
  expect(copies.map(({ name }) => name).sort()).toEqual(['Plinth', 'Plinth 1'])
  expect(copies.map(({ translation }) => translation[2]).sort()).toEqual([2, 3.5])

  // A baked copy is plain geometry, and stands as the other does.
  await page.reload()
  await editor.ready()
  await expect(page.getByLabel('It has numbers of its own')).toBeChecked()
  await page.getByLabel('It is fixed as it stands').check()
  await page.locator('[role=treeitem]').filter({ hasText: 'Plinth' }).first().click()
  await page.getByRole('button', { name: 'Duplicate', exact: true }).click()
  await expect.poll(async () => (await editor.placements()).length).toBe(8)
  await editor.saved()
  const baked = (await editor.rows()).find(({ name, kind }) => name.startsWith('Plinth') && kind === 'part')!
  expect(baked).toMatchObject({ rotation: [0, 0, 0, 1], scale: [1, 1, 1], blockId: null })
  const [part] = await editor.server.db
    .select()
    .from(parts)
    .where(inArray(parts.id, [baked.partId!]))
  expect(part).toMatchObject({ inKit: false, name: 'Plinth 2, baked' })
  // A box of 2 m by 1 m turned by 30 degrees: 2·cos 30° + sin 30° wide.
  expect(part!.maxX - part!.minX).toBeCloseTo(2 * Math.cos(Math.PI / 6) + 0.5, 5)

  // What is picked becomes an instance of what is touched.
  await editor.look([0, 3, 5], [0, 0.4, 0])
  await page.getByRole('button', { name: 'Instance of …' }).click()
  const crate = await editor.at([0, 0.8, 0])
  await page.mouse.move(crate.x, crate.y)
  await page.mouse.click(crate.x, crate.y)
  await editor.saved()
  expect((await editor.row(baked.id))!.partId).toBe(crates[0]!.partId)
})

test('things go through the clipboard: under the pointer, exactly where they were, cut, and into another level', async ({
  page,
  editor,
  context,
}) => {
  await editor.openWith([
    { name: 'Crate', part: 'Crate', translation: [0, 0, 0] },
    { name: 'Barrel', part: 'Barrel', translation: [1.5, 0, 0] },
  ])
  await editor.look([0, 6, 9], [0, 0, 0])
  const places = async (name: string) =>
    (await editor.placements())
      .filter(each => each.name.startsWith(name))
      .map(({ translation }) => translation.map(value => Math.round(value * 100) / 100 + 0))
      .sort((a, b) => a[0]! - b[0]!)
  const point = async (x: number, z: number) => {
    const at = await editor.at([x, 0, z])
    await page.mouse.move(at.x, at.y)
  }
  await editor.pick('Crate', 'Barrel')
  await page.keyboard.press('Control+c')
  await point(-2, 2)
  await page.keyboard.press('Control+v')
  // The grid of half a metre is on; the one picked last comes to stand under the pointer.
  await expect
    .poll(() => places('Barrel'))
    .toEqual([
      [-2, 0, 2],
      [1.5, 0, 0],
    ])
  expect(await places('Crate')).toEqual([
    [-3.5, 0, 2],
    [0, 0, 0],
  ])
  await context.grantPermissions(['clipboard-read', 'clipboard-write'])
  await page.keyboard.press('Control+Shift+v')
  await expect
    .poll(() => places('Crate'))
    .toEqual([
      [-3.5, 0, 2],
      [0, 0, 0],
      [0, 0, 0],
    ])

  // Cut is one change; what was cut is in the clipboard, also for another window with another level.
  const before = (await editor.placements()).length
  await page.keyboard.press('Control+x')
  await expect.poll(async () => (await editor.placements()).length).toBe(before - 2)
  await editor.saved()
  expect((await editor.rows()).length).toBe(before - 2)
  const text = await page.evaluate(() => navigator.clipboard.readText())
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [4, 0, 0] }])
  await page.keyboard.press('Control+Shift+v')
  await expect
    .poll(() => places('Crate'))
    .toEqual([
      [0, 0, 0],
      [4, 0, 0],
    ])
  await editor.saved()
  expect((await editor.rows()).map(({ name }) => name).sort()).toEqual(['Barrel 2', 'Crate', 'Crate 2'])

  // In a field the keys are the field's; what is no text of things is said and changes nothing.
  await page.evaluate(() => navigator.clipboard.writeText('12'))
  await page.keyboard.press('Control+v')
  await expect(page.getByTestId('notice')).toContainText('Nothing to paste')
  expect(text).toContain('"format":"handy-grid things"')
  expect(await editor.placements()).toHaveLength(3)
})
