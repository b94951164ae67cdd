import { answered, expect, test } from './support'

test('levels are made, renamed, duplicated, deleted and brought back from the list', async ({
  errors,
  page,
  server,
  editor,
}) => {
  errors.allow(answered(422))
  await page.goto(server.url)
  await page.getByRole('button', { name: 'New level' }).click()
  await page.getByLabel('Name', { exact: true }).fill('<b>Bold</b>')
  await page.getByRole('button', { name: 'Start level' }).click()
  await expect(page.getByText('must be plain text without < or >')).toBeVisible()
  await page.getByLabel('Name', { exact: true }).fill('Mill Lane')
  await page.getByRole('button', { name: 'Start level' }).click()
  await editor.ready()
  await expect(page.getByText('Drag a part from the kit onto the ground to begin.')).toBeVisible()

  await page.getByRole('link', { name: 'Handy Grid: all levels' }).click()
  const more = async (level: string, action: string) => {
    await page.getByRole('button', { name: `More for ${level}`, exact: true }).click()
    await page.locator('.v-list-item', { hasText: action }).click()
  }
  await more('Mill Lane', 'Rename')
  await page.getByLabel('Name', { exact: true }).fill('Mill Lane 2')
  await page.getByRole('button', { name: 'Rename' }).click()
  await more('Mill Lane 2', 'Duplicate')
  await expect(page.getByRole('link', { name: 'Open Mill Lane 2, copy' })).toBeVisible()
  await more('Mill Lane 2', 'Delete')
  await expect(page.getByRole('link', { name: 'Open Mill Lane 2', exact: true })).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('link', { name: 'Open Mill Lane 2', exact: true })).toBeVisible()
})

test('a level that is not there says so', async ({ errors, page, server }) => {
  errors.allow(answered(404))
  await page.goto(`${server.url}/levels/00000000-0000-7000-8000-000000000000`)
  await expect(page.getByRole('heading', { name: 'There is no such level' })).toBeVisible()
})
