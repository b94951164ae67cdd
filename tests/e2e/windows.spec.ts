import type { Page } from '@playwright/test'
import { Editor, expect, test } from './support'

test('a second window with roster and ledger shares what is picked and the handles, and each saves its own changes', async ({
  page,
  editor,
  context,
}) => {
  await editor.openWith([
    { name: 'Crate', part: 'Crate', translation: [0, 0, 0] },
    { name: 'Barrel', part: 'Barrel', translation: [2.5, 0, 0] },
  ])
  await editor.look([1, 5, 8], [1, 0, 0])
  const opened = async (action: string): Promise<Page> => {
    const coming = context.waitForEvent('page')
    await page.keyboard.press('/')
    await page.getByRole('combobox', { name: 'Find or do' }).fill(action)
    await page.keyboard.press('Enter')
    return coming
  }
  const lists = await opened('Second window with roster and ledger')
  await expect(lists.getByRole('tree')).toBeVisible({ timeout: 90_000 })
  await expect(lists.getByTestId('stage')).toHaveCount(0)

  // Picked on the stage here, it is picked in the lists there, and the other way round.
  await editor.clickOn([0, 0.3, 0])
  await expect(lists.getByLabel('Position X', { exact: true })).toHaveValue('0.000')
  await lists.locator('[role=treeitem]', { hasText: 'Barrel' }).click()
  await expect.poll(() => editor.pickedNames()).toEqual(['Barrel'])
  await expect(page.getByLabel('Position X', { exact: true })).toHaveValue('2.500')

  // Typed there, it is here and in the database; dragged here, the numbers follow there.
  await lists.getByLabel('Position X', { exact: true }).fill('3')
  await lists.keyboard.press('Enter')
  await expect.poll(async () => (await editor.named('Barrel')).translation[0]).toBe(3)
  const barrel = await editor.named('Barrel')
  await expect.poll(async () => (await editor.row(barrel.id))?.translation[0]).toBe(3)
  const peg = await editor.handle({ kind: 'axis', axis: 0 })
  await editor.pressAndMove(peg, { x: peg.x + 70, y: peg.y })
  await page.mouse.up()
  await editor.saved()
  const { translation } = (await editor.row(barrel.id))!
  expect(translation[0]).toBeGreaterThan(3.2)
  await expect(lists.getByLabel('Position X', { exact: true })).toHaveValue(translation[0].toFixed(3))

  // What is made in one is picked in the other as soon as it is there.
  await page.keyboard.press('Control+d')
  await expect.poll(async () => (await editor.placements()).length).toBe(3)
  await expect(lists.locator('[role=treeitem][aria-selected=true]')).toHaveCount(1)
  await expect(lists.locator('[role=treeitem][aria-selected=true]')).toHaveText(/^Barrel 1Part/)

  // Each takes back its own.
  await lists.getByRole('button', { name: /^Undo/ }).click()
  await expect(lists.getByRole('dialog')).toContainText('position of Barrel: now')
  await lists.keyboard.press('Escape')
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await editor.placements()).length).toBe(2)
  // They are one person to each other.
  await expect(page.getByTestId('notice')).toHaveCount(0)
  await expect(page.getByTestId('people')).toHaveAccessibleName('People: nobody else is here')
  await lists.close()

  // The stage in a window of its own: alone, with the same handles, and from where the first looks, if wanted.
  await page.keyboard.press('t')
  const second = await opened('Second window with the stage')
  const other = new Editor(second, editor.server)
  await other.ready()
  await expect(second.getByRole('tree')).toHaveCount(0)
  const turn = second.getByRole('group', { name: 'Handles' }).getByRole('button', { name: 'Turn' })
  await expect(turn).toHaveAttribute('aria-pressed', 'true')
  await page.keyboard.press('Control+,')
  await page.getByTestId('settings').getByLabel('The same view in both windows').click()
  await page.getByTestId('settings').getByRole('button', { name: 'Done' }).click()
  await editor.look([6, 4, 1], [0, 0, 0])
  await expect.poll(async () => (await other.view()).eye.map(Math.round)).toEqual([6, 4, 1])
  await other.look([-5, 3, 2], [1, 0, 0])
  await expect.poll(async () => (await editor.view()).eye.map(Math.round)).toEqual([-5, 3, 2])
})

test('panels are put away by key, and remembered by the width of the window', async ({ page, editor }) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate' }])
  const [roster, bench] = [page.getByRole('tree'), page.getByRole('heading', { name: 'Kit', exact: true })]
  await page.keyboard.press('Control+Alt+2')
  await expect(roster).toHaveCount(0)
  await page.setViewportSize({ width: 1000, height: 700 })
  await expect(roster).toBeVisible()
  await page.keyboard.press('Control+Alt+1')
  await expect(bench).toHaveCount(0)
  await page.setViewportSize({ width: 1280, height: 800 })
  await expect(bench).toBeVisible()
  await expect(roster).toHaveCount(0)
  await page.reload()
  await editor.ready()
  await expect(roster).toHaveCount(0)
  await page.keyboard.press('Control+Alt+2')
  await expect(roster).toBeVisible()
})
