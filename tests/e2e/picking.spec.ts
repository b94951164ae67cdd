import { Level } from '../../core/level/level'
import { createPlacement } from '../../core/level/create'
import type { Vec3 } from '../../core/math/vectors'
import { expect, test } from './support'

test('a second click, or the key before the click, picks the thing behind the glass; the menu lists both', async ({
  page,
  editor,
}) => {
  await editor.open()
  await editor.look([4.2, 1.1, 2], [4.2, 0.6, -3])
  const spot = await editor.at([4.2, 0.5, -2.4])
  await page.mouse.move(spot.x, spot.y)
  await page.mouse.click(spot.x, spot.y)
  expect(await editor.pickedNames()).toEqual(['Glass screen'])
  await page.mouse.click(spot.x, spot.y)
  expect(await editor.pickedNames()).toEqual(['Barrel 1'])

  // Round and round: after the last comes the first.
  for (let i = 0; i < 12 && (await editor.pickedNames())[0] !== 'Glass screen'; i++)
    await page.mouse.click(spot.x, spot.y)
  expect(await editor.pickedNames()).toEqual(['Glass screen'])

  await page.mouse.click(spot.x - 300, 100)
  await page.mouse.move(spot.x, spot.y, { steps: 2 })
  await page.waitForTimeout(100)
  await page.keyboard.press(';')
  await page.mouse.click(spot.x, spot.y)
  expect(await editor.pickedNames()).toEqual(['Barrel 1'])

  await page.mouse.click(spot.x, spot.y, { button: 'right' })
  const items = page.getByRole('menu', { name: 'Under the pointer' }).getByRole('menuitem')
  await expect(items.nth(0)).toContainText('Glass screen')
  await expect(items.nth(1)).toContainText('Barrel 1')
  await items.nth(0).click()
  expect(await editor.pickedNames()).toEqual(['Glass screen'])
})

test('a frame drawn down takes what it touches, drawn up only what is wholly inside', async ({ page, editor }) => {
  await editor.open()
  await page.getByRole('button', { name: 'Plan', exact: true }).click()
  await editor.drawn()
  const [a, b] = [await editor.at([-5.5, 0, 0.9]), await editor.at([-4.5, 0, 1.95])]
  await editor.pressAndMove(b, a)
  await expect(page.getByTestId('frame-count')).toHaveText('1 inside')
  await page.mouse.up()
  expect(await editor.pickedNames()).toEqual(['Lantern post 2'])
  await expect(page.getByTestId('frame-count')).toHaveCount(0)

  await page.getByRole('button', { name: 'Pick', exact: true }).click()
  await editor.pressAndMove(a, b)
  await expect(page.getByTestId('frame-count')).toContainText('touched')
  await page.mouse.up()
  const touched = await editor.pickedNames()
  expect(touched).toContain('Lantern post 2')
  expect(touched).toContain('Quay slab 4')
  expect(touched).not.toContain('Planter 1')

  // Ctrl takes out again what the frame takes in.
  await page.keyboard.down('Control')
  await editor.pressAndMove(b, a)
  await page.mouse.up()
  await page.keyboard.up('Control')
  expect(await editor.pickedNames()).not.toContain('Lantern post 2')
})

test('a click picks the group, the next one what is inside; a mark is not in the way unless it may be picked', async ({
  page,
  editor,
}) => {
  await editor.open()
  await editor.look([1, 3.4, 2], [1, 2.4, -4])
  const awning = await editor.at([1.2, 2.42, -3.8])
  await page.mouse.click(awning.x, awning.y)
  expect(await editor.pickedNames()).toEqual(['Tea stall'])
  await page.mouse.click(awning.x, awning.y)
  expect(await editor.pickedNames()).toEqual(['Tea stall: awning'])

  await page.keyboard.press('Escape')
  const mark = await editor.at((await editor.named('Note for the band')).translation)
  await page.mouse.click(mark.x, mark.y)
  expect(await editor.pickedNames()).not.toContain('Note for the band')
  await page.getByRole('button', { name: 'Show', exact: true }).click()
  await page.getByLabel('Marks can be picked on the stage').check()
  // The first closes the menu, the second lets go of what is picked.
  await page.keyboard.press('Escape')
  await expect(page.getByLabel('Marks can be picked on the stage')).toHaveCount(0)
  await page.keyboard.press('Escape')
  await page.mouse.click(mark.x, mark.y)
  expect(await editor.pickedNames()).toEqual(['Note for the band'])

  await editor.choose('Kind that can be picked', 'only cameras')
  await expect(page.getByTestId('modes')).toContainText('Only cameras can be picked')
  await page.mouse.click(awning.x, awning.y)
  expect(await editor.pickedNames()).toEqual([])
  await page.getByTestId('stage').hover()
  await page.getByRole('button', { name: 'End Esc' }).click()
  await expect(page.getByTestId('modes')).toHaveCount(0)
  await page.mouse.click(awning.x, awning.y)
  expect(await editor.pickedNames()).toEqual(['Tea stall'])
})

test('twelve lanterns are found by name and renamed at once, with a preview', async ({ page, server, editor }) => {
  await editor.open()
  // Seven posts along the quay, one that is repeated along the landing's edge, and four more.
  const post = await editor.named('Lantern post 1')
  const more = Array.from({ length: 4 }, (_, i) =>
    createPlacement({
      ...post,
      id: crypto.randomUUID(),
      name: `Lantern post ${i + 8}`,
      order: 200 + i,
      translation: [i * 2 - 4, 0, -1],
    }),
  )
  const response = await fetch(`${server.url}/api/levels/${editor.levelId}/changes`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      baseRevision: 0,
      changes: [
        {
          id: crypto.randomUUID(),
          label: 'More posts',
          author: 'Test',
          operations: more.map(({ id, ...fields }) => ({ do: 'put', id, fields })),
        },
      ],
    }),
  })
  expect(response.status).toBe(200)
  await page.reload()
  await editor.ready()

  await page.getByTestId('stage').hover()
  await page.keyboard.press('/')
  await page.getByRole('combobox', { name: 'Find or do' }).fill('lantern post')
  await page.getByRole('option', { name: 'Pick all 12 found' }).click()
  expect(await editor.pickedNames()).toHaveLength(12)
  await page.keyboard.press('F2')
  // They have nothing in common at their beginning, so that the old name stands there; it is taken out, and a number
  // put in.
  await expect(page.getByLabel('Text 1 of the name')).toBeFocused()
  await page.keyboard.type('Quay lamp ')
  await page.keyboard.press('Delete')
  await page.locator('.v-chip', { hasText: /^number$/ }).click()
  await page.getByText('‹1 …›').click()
  await page.getByLabel('Digits').fill('2')
  await page.getByLabel('First number').fill('7')
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  await page.getByLabel('Text 2 of the name').fill(' <west>')
  await expect(page.getByText('plain text without < or >')).toBeVisible()
  await page.getByLabel('Text 2 of the name').fill(' west')
  await expect(page.getByTestId('rename-preview')).toContainText('Quay lamp 18 west')
  await page.getByRole('button', { name: 'Rename all' }).click()
  await editor.saved()
  const names = (await editor.rows())
    .map(row => row.name)
    .filter(name => name.startsWith('Quay lamp'))
    .sort()
  expect(names).toEqual(Array.from({ length: 12 }, (_, i) => `Quay lamp ${String(i + 7).padStart(2, '0')} west`))
  expect(await editor.journal()).toEqual(['More posts', 'Rename 12 things'])
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect(
    (await editor.rows()).filter(row => row.name.startsWith('Lantern post') || row.name === 'Edge lantern'),
  ).toHaveLength(12)
})

test('grouping, dragging in the roster and ungrouping leave every world matrix as it was, in the database', async ({
  page,
  editor,
}) => {
  await editor.open()
  const worlds = async () => {
    const level = new Level(await editor.rows())
    return new Map([...level.placements()].map(({ id }) => [id, level.worldMatrix(id).elements]))
  }
  const before = await worlds()
  const expectSame = async () => {
    await editor.saved()
    const now = await worlds()
    for (const [id, matrix] of before)
      now.get(id)!.forEach((value, i) => expect(Math.abs(value - matrix[i]!)).toBeLessThan(1e-9))
  }
  // Inside a stall that is turned, so that something is to be kept.
  await editor.rosterRow('Stalls').locator('.twist').click()
  await editor.rosterRow('Fruit stall').locator('.twist').click()
  await editor.rosterRow('Fruit stall: frame').click()
  await editor.rosterRow('Fruit stall: awning').click({ modifiers: ['Control'] })
  await page.keyboard.press('Control+g')
  const group = await editor.named('Group 1')
  expect((await editor.named('Fruit stall: frame')).parentId).toBe(group.id)
  await expectSame()

  await editor.rosterRow('Group 1').dragTo(editor.rosterRow('Square'))
  expect((await editor.named('Group 1')).parentId).toBe((await editor.named('Square')).id)
  await expectSame()

  await editor.rosterRow('Square').locator('.twist').click()
  await editor.rosterRow('Group 1').click()
  await page.keyboard.press('Control+Shift+G')
  expect((await editor.placements()).some(placement => placement.name === 'Group 1')).toBe(false)
  expect((await editor.named('Fruit stall: awning')).parentId).toBe((await editor.named('Square')).id)
  await expectSame()

  await page.keyboard.press('Escape')
  await editor.rosterRow('Waterside').dblclick()
  await page.getByLabel('New name').fill('By the water')
  await page.keyboard.press('Enter')
  expect((await editor.named('By the water')).kind).toBe('group')
})

test('hide, lock, show only and layers', async ({ page, editor }) => {
  await editor.open()
  const quay: Vec3 = [-1, 0, 0.5]
  const spot = await editor.at(quay)
  await page.mouse.click(spot.x, spot.y)
  const [slab] = await editor.pickedNames()
  expect(slab).toMatch(/^Quay slab/)
  await page.keyboard.press('i')
  await expect(page.getByTestId('modes')).toContainText('Showing only some things')
  await expect(page.getByTestId('stats')).toContainText(/\b[01]k tris/)
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('modes')).toHaveCount(0)

  await page.getByRole('button', { name: 'Lock layer Ground' }).click()
  await page.keyboard.press('Escape')
  await page.mouse.click(spot.x, spot.y)
  expect(await editor.pickedNames()).toEqual([])
  await page.getByRole('button', { name: 'Hide layer Ground' }).click()
  await editor.drawn()
  await editor.saved()
  expect(await editor.journal()).toEqual(['Change layer Ground', 'Change layer Ground'])
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await page.mouse.click(spot.x, spot.y)
  expect(await editor.pickedNames()).toEqual([slab])
})
