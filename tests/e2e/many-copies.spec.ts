import { expect, test } from './support'

test('a quarter of a million copies are shown, found and changed without the page standing still; more than a million are refused in place', async ({
  page,
  editor,
}) => {
  test.slow()
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  await editor.pick('Crate')
  await editor.openRepeat('Grid')
  const columns = page.getByLabel('Columns', { exact: true })
  await columns.fill('500')
  await page.keyboard.press('Enter')
  const rows = page.getByLabel('Rows', { exact: true })
  await rows.fill('500')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Keep live' }).click()
  await expect(page.getByTestId('live-count')).toHaveText('250,000 live')
  await editor.saved()
  const { id } = await editor.named('Grid 1')
  // What is saved is the rule.
  expect(JSON.stringify((await editor.row(id))!.own).length).toBeLessThan(400)

  // Side by side: as far apart as a crate is wide. All of them count, whether or not all can be drawn at once where the
  // test runs.
  await expect(page.getByTestId('stats')).toContainText('250,000 copies')
  await expect(page.getByText('400.000 × 0.800 × 400.000')).toBeVisible()

  // One of the last is found where it stands, and picked by a second click.
  const [x, z] = [498 * 0.8, 497 * 0.8]
  await editor.look([x + 2, 5, z + 4], [x, 0.4, z])
  const at = await editor.at([x, 0.7, z])
  await page.keyboard.press('Escape')
  for (const expected of [id, `${id}#497,498,0`]) {
    await page.mouse.move(at.x + 1, at.y)
    await page.mouse.click(at.x, at.y)
    await expect.poll(() => page.evaluate(() => window.handyGrid!.picked())).toEqual([expected])
  }
  await page.keyboard.press('PageUp')
  await editor.saved()
  expect((await editor.row(id))!.own).toMatchObject({
    exceptions: { '497,498,0': { move: [0, expect.any(Number), 0] } },
  })

  await page.getByRole('treeitem', { name: 'Grid 1' }).click()
  await rows.fill('2001')
  await page.keyboard.press('Enter')
  await expect(page.getByText('It would make 1,000,500 copies; a million is the most.')).toBeVisible()
  await rows.fill('3')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('live-count')).toHaveText('1,500 live')
  await expect(page.getByTestId('stats')).toContainText('1,500 copies')
  await editor.saved()
  expect((await editor.row(id))!.own).toMatchObject({ rule: { counts: [500, 1, 3] }, exceptions: { '497,498,0': {} } })
})
