import { expect, test } from './support'

test('help is found by everyday words, read beside the stage, and what the pointer is at is said by one key', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  await editor.look([2, 2, 5], [0, 0.4, 0])
  const find = async (text: string) => {
    await page.keyboard.press('/')
    await page.getByRole('combobox', { name: 'Find or do' }).fill(text)
  }
  await find('help')
  await expect(page.getByRole('option').first()).toContainText('Handbook')
  await page.keyboard.press('Enter')
  const book = page.getByTestId('handbook')
  await expect(book.getByRole('heading', { name: 'Handbook', level: 1 })).toBeVisible()
  await book.getByLabel('Look in the handbook').fill('How do I rotate it?')
  await book.getByRole('menuitem', { name: /Turning, sizing and pivots/ }).click()
  await expect(book.getByRole('heading', { level: 1 })).toHaveText('Turning, sizing and pivots')
  const drawing = book.getByRole('img', { name: /How a door turns/ })
  await expect.poll(() => drawing.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBeGreaterThan(100)
  // The keys of its actions, and links that lead on and back.
  await expect(book.getByRole('row', { name: 'Turn handles T' })).toBeVisible()
  await book.getByRole('button', { name: 'Page before' }).click()
  await expect(book.getByRole('heading', { level: 1 })).toHaveText('Handbook')
  await book.getByRole('link', { name: 'Scattering' }).click()
  await expect(book.getByRole('heading', { level: 1 })).toHaveText('Scattering')
  await page.locator('.stage-canvas').hover()
  await page.keyboard.press('F1')
  await expect(book).toBeHidden()

  // A page and a part of the page are found among actions.
  await find('how do I export')
  await page.getByRole('option', { name: /Handing over and bringing in/ }).click()
  await expect(book.getByRole('heading', { level: 1 })).toHaveText('Handing over and bringing in')
  await book.getByRole('button', { name: 'Close the handbook' }).click()

  // On the stage: a handle, the thing, nothing.
  await editor.pick('Crate')
  const card = page.getByTestId('what-is-this')
  const ask = async (at: { x: number; y: number }, name: string | RegExp) => {
    await page.mouse.move(at.x - 4, at.y)
    await page.mouse.move(at.x, at.y)
    await page.keyboard.press('?')
    await expect(card.getByRole('heading')).toHaveText(name)
  }
  await ask(await editor.handle({ kind: 'axis', axis: 0 }), 'Peg of X')
  await page.keyboard.press('Escape')
  await expect(card).toBeHidden()
  expect(await editor.pickedNames()).toEqual(['Crate'])
  await page.getByRole('button', { name: 'Pick', exact: true }).click()
  await ask(await editor.at([0.2, 0.2, 0.4]), 'Crate')
  await expect(card).toContainText('placement of the part Crate')
  await page.keyboard.press('?')
  await expect(card).toBeHidden()
  // Beside it: a control with its key, and a number of the ledger.
  const button = (await page.getByRole('button', { name: 'Undo', exact: true }).boundingBox())!
  await ask({ x: button.x + 8, y: button.y + 8 }, /Undo\s*Ctrl Z/)
  await page.keyboard.press('Escape')
  const field = (await page.getByLabel('Position X', { exact: true }).boundingBox())!
  await ask({ x: field.x + 20, y: field.y + 8 }, 'Position X')
  await expect(card).toContainText('Where the pivot stands, in metres')
  await card.getByRole('button', { name: 'More in the handbook' }).click()
  await expect(book.getByRole('heading', { level: 1 })).toHaveText('What every number means')

  // Its examples are levels.
  await book.getByRole('button', { name: 'All pages' }).click()
  await book.getByRole('link', { name: 'Scattering' }).click()
  await book.getByRole('button', { name: 'Open a level with an example' }).click()
  await expect(page.getByRole('button', { name: 'Example: Scattering' })).toBeVisible()
  editor.levelId = page.url().split('/').at(-1)!
  await editor.ready()
  expect((await editor.rows()).map(({ name }) => name)).toContain('Growth on the bank')
})

test('each panel and dialog says what it is where one looks, and its page is read over a dialog that stays as it is', async ({
  page,
  server,
  editor,
}) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  const card = page.getByTestId('what-is-this')
  for (const [panel, name, says] of [
    ['.bench', 'Kit', 'From the kit onto a surface'],
    ['.roster', 'Roster', 'All things of the level in their tree.'],
    ['.ledger', 'Ledger', 'The exact numbers of what is picked'],
    ['.rail', 'Rail', 'what drags snap to'],
  ] as const) {
    await page.locator(panel).getByRole('button', { name: 'What is this?' }).click()
    await expect(card.getByRole('heading')).toHaveText(name)
    await expect(card).toContainText(says)
    await page.keyboard.press('Escape')
    await expect(card).toBeHidden()
  }
  // In a dialog by its mark and by keys; what was typed there is still there afterwards.
  await page.keyboard.press('Control+s')
  const dialog = page.getByTestId('milestones')
  await dialog.getByLabel('Name of the milestone').fill('Half of a name')
  await dialog.getByRole('button', { name: 'What is this?' }).click()
  await expect(card).toContainText('Undo, the list of changes, milestones, comparing and variants.')
  await card.getByRole('button', { name: 'More in the handbook' }).click()
  const book = page.getByTestId('handbook')
  await expect(book.getByRole('heading', { level: 1 })).toHaveText('The way back')
  await book.getByLabel('Look in the handbook').fill('snap')
  await expect(book.getByRole('menuitem', { name: /Snapping/ }).first()).toBeVisible()
  await book.getByRole('button', { name: 'Close the handbook' }).click()
  await expect(book).toBeHidden()
  await expect(dialog.getByLabel('Name of the milestone')).toHaveValue('Half of a name')
  await dialog.getByRole('button', { name: 'Close' }).focus()
  await page.keyboard.press('?')
  await expect(card).toBeVisible()
  await page.keyboard.press('Escape')
  await page.keyboard.press('Escape')
  await expect(dialog).toBeHidden()

  // Where no level is open, by the same mark and keys.
  await page.goto(server.url)
  await page.getByRole('button', { name: 'New level' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'What is this?' }).click()
  await expect(card.getByRole('heading')).toHaveText('New level')
  await page.keyboard.press('Escape')
  await page.keyboard.press('Escape')
  await page.getByRole('heading', { name: 'Levels', level: 1 }).hover()
  await page.keyboard.press('F1')
  await expect(book.getByRole('heading', { name: 'Handbook', level: 1 })).toBeVisible()
  await page.keyboard.press('F1')
  await expect(book).toBeHidden()
  await page
    .getByRole('link', { name: /^Open / })
    .first()
    .hover()
  await page.keyboard.press('?')
  await expect(card).toContainText('Click opens it')
})

test('a tool says at its first use what one needs to know of it, and never again', async ({ page, editor }) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  const told = page.getByTestId('first-use')
  await page.keyboard.press('u')
  await expect(told).toHaveText('Click both ends; they snap to corners and edges. Shift goes on as a chain.')
  await page.keyboard.press('Escape')
  await expect(told).toBeHidden()
  await page.keyboard.press('u')
  await expect(page.getByTestId('modes')).toContainText('Measuring: tape')
  await expect(told).toBeHidden()
  await page.reload()
  await editor.ready()
  await page.keyboard.press('u')
  await expect(page.getByTestId('modes')).toContainText('Measuring: tape')
  await expect(told).toBeHidden()
})
