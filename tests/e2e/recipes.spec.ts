import { expect, test } from './support'

test('steps taken down by hand are played on other things, with other numbers, and say at which step they cannot be', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Crate', part: 'Crate', translation: [0, 0, 0] },
    { name: 'Barrel', part: 'Barrel', translation: [3, 0, 0] },
    { name: 'Planter', part: 'Planter', translation: [6, 0, 0] },
  ])
  await editor.look([3, 7, 11], [3, 0, 0])
  const bench = page.getByTestId('recipes')
  const find = async (text: string) => {
    await page.keyboard.press('/')
    await page.getByRole('combobox', { name: 'Find or do' }).fill(text)
    await expect(page.getByRole('option').first()).toContainText(text)
    await page.keyboard.press('Enter')
  }
  const row = async (name: string) => (await editor.rows()).find(each => each.name === name)!

  // Taken down: a drag along X, a turn by key, a duplicate.
  await editor.pick('Crate')
  await find('Take down a recipe')
  await expect(page.getByText('Taking down a recipe')).toBeVisible()
  const peg = await editor.handle({ kind: 'axis', axis: 0 })
  await editor.pressAndMove(peg, { x: peg.x + 60, y: peg.y })
  await page.mouse.up()
  await page.keyboard.press('.')
  await editor.saved()
  const moved = await row('Crate')
  expect(moved.translation[0]).toBeGreaterThan(0)
  await find('Take down a recipe')
  await expect(bench).toBeVisible()
  const form = bench.getByTestId('recipe')
  await expect(form.getByRole('listitem')).toHaveCount(2)

  // Played on two others: they go as far, and turn as much; one change.
  await editor.pick('Barrel', 'Planter')
  await expect(form).toContainText('Play on 2 things')
  await form.getByRole('button', { name: 'Play on 2 things' }).click()
  expect((await editor.done()).at(-1)).toMatch(/^Play “/)
  for (const [name, from] of [
    ['Barrel', 3],
    ['Planter', 6],
  ] as const) {
    const { translation, rotation } = await row(name)
    expect(translation).toEqual([from + moved.translation[0], 0, 0])
    expect(rotation).toEqual(moved.rotation)
  }
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect((await row('Planter')).translation).toEqual([6, 0, 0])

  // With another number, seen on the stage before it is done.
  await form.getByLabel('Move X', { exact: true }).fill('-1')
  await page.keyboard.press('Enter')
  await form.getByRole('button', { name: 'Play on 2 things' }).click()
  await editor.saved()
  expect((await row('Barrel')).translation).toEqual([2, 0, 0])
  await form.getByRole('button', { name: 'Begin with these numbers' }).click()

  // Kept with the level, it is a row of the database, and an action by name.
  await form.getByLabel('Name of the recipe').fill('Back a step')
  await page.keyboard.press('Enter')
  await form.getByRole('button', { name: 'To the level' }).click()
  await expect(bench.getByRole('list', { name: "The level's" })).toContainText('Back a step')
  await editor.saved()
  const [kept] = await editor.recipes()
  expect(kept).toMatchObject({
    name: 'Back a step',
    inputs: [expect.objectContaining({ first: -1 }), expect.anything()],
  })
  await editor.pick('Planter')
  await find('Play “Back a step” of the level')
  await editor.saved()
  expect((await row('Planter')).translation).toEqual([4, 0, 0])

  // Of the list of changes: what is hidden goes onto a layer; without that layer it says so.
  await page.getByRole('button', { name: 'Add a layer' }).click()
  await editor.pick('Crate')
  await find('Hide')
  await editor.saved()
  await page.getByRole('button', { name: 'List of changes' }).click()
  await page
    .getByTestId('history')
    .getByRole('menuitem', { name: /^Change \d+ into a recipe$/ })
    .first()
    .click()
  await page.getByRole('button', { name: 'Make a recipe of 1 change' }).click()
  await expect(form.getByLabel('Name of the recipe')).toHaveValue('Hide Crate')
  await page.keyboard.press('Escape')
  await expect(form).toContainText('Pick what it is to be played on.')
  await editor.pick('Barrel')
  await form.getByRole('button', { name: 'Play on 1 thing' }).click()
  await editor.saved()
  expect((await row('Barrel')).hidden).toBe(true)
})
