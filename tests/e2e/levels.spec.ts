import { eq } from 'drizzle-orm'
import type { ListedLevel } from '../../core/api/schema'
import { levelSummarySchema } from '../../core/api/schema'
import { levels } from '../../server/db/schema'
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
  await expect(page.getByRole('link', { name: 'Open Mill Lane', exact: true })).toBeVisible()
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

test('who is new is told where to begin, until something was begun', async ({ page, server }) => {
  const welcome = page.getByText('New here?')
  let shown: (level: ListedLevel) => ListedLevel[] = level => [{ ...level, revision: 0 }]
  await page.route('**/api/levels', async route => {
    const answer = await route.fetch()
    const { levels: all } = (await answer.json()) as { levels: ListedLevel[] }
    await route.fulfill({ response: answer, json: { levels: shown(all.find(({ name }) => name === 'Lantern Quay')!) } })
  })
  await page.goto(server.url)
  await expect(welcome).toBeVisible()
  shown = level => [
    level,
    { ...level, id: '01a00000-0000-7000-8000-000000000001', name: 'Mill Lane', hasPicture: false },
  ]
  await page.reload()
  await expect(page.getByRole('link', { name: 'Open Mill Lane' })).toBeVisible()
  await expect(welcome).toBeHidden()
})

test('a level that is not there says so', async ({ errors, page, server }) => {
  errors.allow(answered(404))
  await page.goto(`${server.url}/levels/00000000-0000-7000-8000-000000000000`)
  await expect(page.getByRole('heading', { name: 'There is no such level' })).toBeVisible()
})

test('many levels are looked for, tagged, put away and brought back, several at once, each undone by one click', async ({
  page,
  server,
}) => {
  const make = async (name: string, from = 'empty') =>
    levelSummarySchema.parse(
      await (
        await fetch(`${server.url}/api/levels`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify({ name, from }),
        })
      ).json(),
    ).id
  const [one, two] = [await make('Listed pier 1'), await make('Listed pier 2'), await make('Listed shed')]
  const row = async (id: string) => (await server.db.select().from(levels).where(eq(levels.id, id)))[0]!
  await page.goto(server.url)
  const names = () => page.getByRole('list', { name: 'Levels', exact: true }).locator('.card > .link')
  await page.getByRole('textbox', { name: 'Look for a level' }).fill('listed pier')
  await expect(names()).toHaveCount(2)
  for (const name of ['Listed pier 1', 'Listed pier 2'])
    await page.getByRole('checkbox', { name: `Choose ${name}` }).click()
  const bar = page.getByRole('group', { name: 'What is chosen' })
  await expect(bar).toContainText('2 levels')
  await bar.getByRole('button', { name: 'Tag' }).click()
  await page.getByLabel('Tags, with commas between').fill('water, night')
  await page.keyboard.press('Enter')
  await expect(page.getByText('2 levels: water, night.')).toBeVisible()
  await expect
    .poll(async () => [(await row(one)).tags, (await row(two)).tags])
    .toEqual([
      ['water', 'night'],
      ['water', 'night'],
    ])
  // A tag that is clicked is looked for.
  await page.getByRole('textbox', { name: 'Look for a level' }).fill('')
  await page.locator('.v-chip', { hasText: 'night' }).first().click()
  await expect(names()).toHaveCount(2)
  for (const name of ['Listed pier 1', 'Listed pier 2'])
    await page.getByRole('checkbox', { name: `Choose ${name}` }).click()
  await bar.getByRole('button', { name: 'Put into the archive' }).click()
  await expect(names()).toHaveCount(0)
  await expect.poll(async () => (await row(one)).archivedAt).not.toBeNull()
  await page.getByRole('button', { name: 'Archive 2' }).click()
  await expect(names()).toHaveCount(2)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(async () => (await row(two)).archivedAt).toBeNull()
  await page.getByRole('button', { name: 'Archive 0' }).click()
  await expect(names()).toHaveCount(2)
})

test('a level is begun from a starting point, ours or one of your own', async ({ page, server, editor }) => {
  await page.goto(server.url)
  const start = async (beginning: string, name: string) => {
    await page.getByRole('button', { name: 'New level' }).click()
    await page.getByRole('radio', { name: beginning, exact: true }).click()
    await page.getByLabel('Name', { exact: true }).fill(name)
    await page.getByRole('button', { name: 'Start level' }).click()
    await editor.ready()
    editor.levelId = page.url().split('/').at(-1)!
  }
  await start('Warehouse passage', 'Passage of mine')
  expect((await editor.rows()).map(({ name }) => name)).toContain('Left wall')
  await page.getByRole('button', { name: 'Passage of mine' }).click()
  await page.getByRole('menuitem', { name: 'Save as a starting point' }).click()
  await expect(page.getByText('Levels can be begun from this one')).toBeVisible()
  const first = editor.levelId
  await page.getByRole('link', { name: 'Handy Grid: all levels' }).click()
  await start('Passage of mine', 'Second passage')
  expect(editor.levelId).not.toBe(first)
  expect((await editor.rows()).map(({ name }) => name)).toContain('Left wall')
})
