import { eq } from 'drizzle-orm'
import { blocks, parts } from '../../server/db/schema'
import type { Editor } from './support'
import { expect, test } from './support'

const storedBlocks = (editor: Editor) =>
  editor.server.db.select().from(blocks).where(eq(blocks.levelId, editor.levelId))

test('steps are drawn on the stage, warn when they cannot be walked, and are changed by number; instances follow, copies do not', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Slab', part: 'Quay slab 4 m', translation: [0, 0, 0] }])
  await editor.look([3, 4, 7], [0, 0, 0])
  await page.getByRole('button', { name: 'Blocks', exact: true }).click()
  await page.locator('[data-value=steps]').click()
  await expect(page.getByTestId('modes')).toContainText('Drawing a steps')
  const top = (await editor.named('Slab')).translation[1]
  await editor.pressAndMove(await editor.at([-1, top, -1]), await editor.at([0.25, top, 1]))
  await page.mouse.up()
  const up = await editor.at([0.25, 2.5, 1])
  await page.mouse.move(up.x, up.y, { steps: 3 })
  await expect(page.getByTestId('readout')).toContainText('at most 178 mm is allowed')
  await page.mouse.click(up.x, up.y)
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('stair-warning')).toContainText('178 mm')
  const field = (name: string) => page.getByLabel(name, { exact: true })
  await field('Height').fill('0.9')
  await page.keyboard.press('Enter')
  await field('Depth').fill('1.8')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('stair-warning')).toHaveCount(0)
  await field('Steps').fill('0')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('at least one step')
  await page.keyboard.press('Escape')
  await page.keyboard.press('Escape')
  await expect(field('Steps')).toHaveCount(0)

  // A click alone puts one down with the numbers of the bench.
  await page.locator('[data-value=cone]').click()
  const spot = await editor.at([-1.5, top, 1.5])
  await page.mouse.move(spot.x, spot.y)
  await page.mouse.click(spot.x, spot.y)
  await page.keyboard.press('Escape')
  await editor.saved()
  expect((await storedBlocks(editor)).map(({ shape }) => shape.type).sort()).toEqual(['cone', 'steps'])
  await page.keyboard.press('Delete')
  await editor.pick('Steps 1')

  // An instance is left behind; both show what is changed then.
  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  await page.keyboard.down('Alt')
  await editor.pressAndMove(grip, { x: grip.x + 120, y: grip.y })
  await page.keyboard.up('Alt')
  await page.mouse.up()
  await expect(page.getByText('2 instances share this')).toBeVisible()
  await field('Width').fill('2')
  await page.keyboard.press('Enter')
  await editor.saved()
  const [block, ...none] = await storedBlocks(editor)
  expect(none).toEqual([])
  expect(block!.shape).toEqual({ type: 'steps', width: 2, height: 0.9, depth: 1.8, count: 6 })
  expect((await editor.rows()).filter(({ blockId }) => blockId === block!.id)).toHaveLength(2)
  await page.getByRole('button', { name: 'Make this one independent' }).click()
  await field('Width').fill('1')
  await page.keyboard.press('Enter')
  await editor.saved()
  expect((await storedBlocks(editor)).map(({ shape }) => 'width' in shape && shape.width).sort()).toEqual([1, 2])
  // Removing the last one that shows a block removes the block.
  await page.keyboard.press('Delete')
  await editor.saved()
  expect(await storedBlocks(editor)).toHaveLength(1)
})

test('things are aligned and distributed with a preview, and matched by touching', async ({ page, editor }) => {
  await editor.openWith([
    { name: 'Crate', part: 'Crate', translation: [-2, 0, 0] },
    { name: 'Barrel', part: 'Barrel', translation: [-0.5, 0.3, 0.7] },
    { name: 'Planter', part: 'Planter', translation: [2, 0, 0.2] },
  ])
  await editor.look([0, 4, 6], [0, 0, 0])
  await page.getByRole('button', { name: 'Line up', exact: true }).click()
  await editor.pick('Barrel', 'Planter', 'Crate')
  await page.getByRole('group', { name: 'Align Z' }).getByRole('button', { name: 'pivot' }).click()
  await page.getByRole('group', { name: 'Align Y' }).getByRole('button', { name: 'bottom' }).click()
  // Shown, not done.
  await expect(page.getByRole('button', { name: 'Align (moves 2)' })).toBeEnabled()
  expect((await editor.named('Barrel')).translation).toEqual([-0.5, 0.3, 0.7])
  await page.getByRole('button', { name: 'Align (moves 2)' }).click()
  expect((await editor.named('Barrel')).translation).toEqual([-0.5, 0, 0])
  expect((await editor.named('Planter')).translation).toEqual([2, 0, 0])
  await page.getByRole('button', { name: 'Distribute', exact: true }).first().click()
  await page.getByRole('button', { name: /^Distribute \(moves 1\)$/ }).click()
  const [crate, barrel, planter] = await Promise.all(
    ['Crate', 'Barrel', 'Planter'].map(async name => (await editor.named(name)).translation[0]),
  )
  expect([crate, planter]).toEqual([-2, 2])
  // Equal gaps: the crate is 0.8 m wide, the planter as the ledger says.
  await editor.pick('Planter')
  const width = (text: string) => Number(text.split(' × ')[0])
  const planterWidth = width(await page.getByTestId('local-size').innerText())
  await editor.pick('Barrel')
  const barrelWidth = width(await page.getByTestId('local-size').innerText())
  expect(barrel! - barrelWidth / 2 - (crate! + 0.4)).toBeCloseTo(
    planter! - planterWidth / 2 - (barrel! + barrelWidth / 2),
    2,
  )

  await page.getByRole('button', { name: 'Match', exact: true }).click()
  await page.getByRole('group', { name: 'What to match' }).getByRole('button', { name: 'Height' }).click()
  await page.getByRole('button', { name: 'Touch what to take it from …' }).click()
  const over = await editor.at([-2, 0.4, 0.4])
  await page.mouse.move(over.x, over.y)
  await page.mouse.click(over.x, over.y)
  await expect(page.getByTestId('world-size').or(page.getByTestId('local-size')).first()).toContainText('0.800')
  await editor.saved()
  expect((await editor.rows()).find(({ name }) => name === 'Barrel')).toEqual(await editor.named('Barrel'))
  expect(await editor.done()).toEqual(['Align 2 things', 'Distribute Barrel', 'Match the height of Barrel'])
})

test('a mirrored size is baked for one thing alone and for all instances; nothing moves, and it is there after a reload', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Crate', part: 'Crate', translation: [0, 0, 0], scale: [-1.5, 1, 2] },
    { name: 'Other', part: 'Crate', translation: [2, 0, 0], scale: [3, 1, 1] },
  ])
  await editor.pick('Crate')
  await editor.doMore('Bake …')
  await page.getByRole('button', { name: 'Size', exact: true }).last().click()
  await expect(page.getByTestId('bake-says').first()).toContainText('-1.5 × 1 × 2')
  await expect(page.getByText('It is mirrored')).toBeVisible()
  await page.getByRole('button', { name: 'All instances' }).click()
  await expect(page.getByText('all 2 instances')).toBeVisible()
  await page.getByRole('button', { name: 'Bake', exact: true }).click()
  await expect.poll(async () => (await editor.named('Crate')).scale).toEqual([1, 1, 1])
  expect((await editor.named('Other')).scale).toEqual([-2, 1, 0.5])
  await editor.saved()
  const made = await editor.server.db.select().from(parts).where(eq(parts.name, 'Crate, baked'))
  expect(made).toHaveLength(1)
  expect((await editor.rows()).map(({ partId }) => partId)).toEqual([made[0]!.id, made[0]!.id])
  expect(made[0]!.maxX - made[0]!.minX).toBeCloseTo(1.2, 5)
  await page.reload()
  await editor.ready()
  await editor.pick('Other')
  await expect(page.getByTestId('local-size')).toHaveText('2.400 × 0.800 × 0.800 m')
  await editor.doMore('Reset size')
  await expect(page.getByTestId('bake-says').first()).toContainText('from -2 × 1 × 0.5 to 1 × 1 × 1')
  await page.getByRole('button', { name: 'Reset', exact: true }).click()
  expect((await editor.named('Other')).scale).toEqual([1, 1, 1])
})
