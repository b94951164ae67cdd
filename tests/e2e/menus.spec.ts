import type { Page } from '@playwright/test'
import { expect, test } from './support'

const menuOf = (page: Page) => page.locator('.v-overlay--active [role=menu]')
const entry = (page: Page, name: string) =>
  menuOf(page)
    .getByRole('menuitem')
    .filter({ has: page.getByText(name, { exact: true }) })

test('the menu offers what can be done where it is asked for, with favourites and what was used last at its top', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Crate', part: 'Crate', translation: [0, 0, 0] },
    { name: 'Barrel', part: 'Barrel', translation: [3, 0, 0] },
    { name: 'Planter', part: 'Planter', translation: [-3, 0, 0] },
  ])
  await editor.look([1, 5, 9], [1, 0, 0])
  const rightClick = async (point: [number, number, number]) => {
    const at = await editor.at(point)
    await page.mouse.move(at.x + 3, at.y + 2)
    await page.mouse.move(at.x, at.y)
    await editor.drawn()
    await page.mouse.click(at.x, at.y, { button: 'right' })
    await expect(menuOf(page)).toBeVisible()
  }
  const close = async () => {
    await page.keyboard.press('Escape')
    await expect(menuOf(page)).toHaveCount(0)
  }
  const favourites = () => menuOf(page).locator('[data-favourite]')

  // Nothing is picked: what is under the pointer is, and the menu is about it.
  await rightClick([0, 0.3, 0])
  expect(await editor.pickedNames()).toEqual(['Crate'])
  await expect(menuOf(page)).toContainText('What is picked')
  // Stars: one by the pointer, two by key.
  await entry(page, 'Hide').hover()
  await entry(page, 'Hide').locator('.star').click()
  for (const name of ['Lock', 'Remove']) {
    await entry(page, name).focus()
    await page.keyboard.press('Alt+s')
  }
  await expect(favourites()).toHaveCount(3)
  // By its edge the last is dragged to the top, by key one place down again.
  const grip = (await favourites().nth(2).locator('.grip').boundingBox())!
  const first = (await favourites().nth(0).boundingBox())!
  await page.mouse.move(grip.x + 8, grip.y + 10)
  await page.mouse.down()
  await page.mouse.move(grip.x + 10, first.y + 20, { steps: 6 })
  await page.mouse.move(grip.x + 10, first.y + 8, { steps: 2 })
  await page.mouse.up()
  await expect(favourites()).toContainText(['Remove', 'Hide', 'Lock'])
  await favourites().nth(0).focus()
  await page.keyboard.press('Alt+ArrowDown')
  await expect(favourites()).toContainText(['Hide', 'Remove', 'Lock'])
  await favourites().nth(2).click()
  await expect(menuOf(page)).toHaveCount(0)
  expect(await editor.done()).toEqual(['Lock Crate'])

  // After a reload they are there, and so is what was used last; in find or do as well.
  await page.reload()
  await editor.ready()
  await editor.look([1, 5, 9], [1, 0, 0])
  await editor.pick('Barrel')
  await page.keyboard.press('/')
  await page.getByRole('combobox', { name: 'Find or do' }).fill('duplicate')
  await expect(page.getByRole('option', { name: 'Duplicate', exact: false }).first()).toBeVisible()
  await page.keyboard.press('Alt+s')
  await page.keyboard.press('Escape')
  await expect(page.locator('.v-overlay__scrim')).toHaveCount(0)
  await page.keyboard.press('Shift+F10')
  await expect(menuOf(page)).toBeVisible()
  await expect(favourites()).toContainText(['Hide', 'Remove', 'Lock', 'Duplicate'])
  // By key alone, of what is picked.
  await favourites().nth(0).focus()
  await page.keyboard.press('Enter')
  expect((await editor.done()).at(-1)).toBe('Hide Barrel')

  // On a row it is of the row.
  await editor.rosterRow('Crate').click({ button: 'right' })
  expect(await editor.pickedNames()).toEqual(['Crate'])
  await expect(menuOf(page)).toHaveAttribute('aria-label', 'Menu of Crate')
  await entry(page, 'Look at what is picked').click()
  await editor.rosterRow('Crate').click({ button: 'right' })
  await expect(menuOf(page)).toContainText(/Last used\s*Look at what is picked/)
  await close()

  // Of the handles what these do; of the ground what can be done there.
  await editor.pick('Planter')
  await editor.look([-2, 5, 9], [-2, 0, 0])
  const peg = await editor.handle({ kind: 'axis', axis: 1 })
  await page.mouse.move(peg.x, peg.y)
  await editor.drawn()
  await page.mouse.click(peg.x, peg.y, { button: 'right' })
  await entry(page, 'Local axes').click()
  await expect(page.getByRole('button', { name: /^Axes/ }).first()).toContainText('Local')
  const box = (await page.getByTestId('stage').boundingBox())!
  await page.mouse.click(box.x + 30, box.y + box.height / 2, { button: 'right' })
  await expect(menuOf(page)).toContainText('Here')
  // And everything, by groups.
  await entry(page, 'Everything that can be done').click()
  await entry(page, 'View').click()
  await entry(page, 'Plan').click()
  await expect(page.getByRole('button', { name: 'Plan', exact: true })).toHaveAttribute('aria-pressed', 'true')

  // Of a card of the kit, by the keyboard where the focus is.
  await page.locator('[data-part="Crate"]').focus()
  await page.keyboard.press('Shift+F10')
  await expect(menuOf(page)).toHaveAttribute('aria-label', 'Crate')
  await entry(page, 'Details …').click()
  await expect(page.getByRole('dialog')).toBeVisible()
})
