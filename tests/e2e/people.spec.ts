import { eq } from 'drizzle-orm'
import { levelSummarySchema } from '../../core/api/schema'
import { changes, people, personSettings } from '../../server/db/schema'
import type { TestServer } from '../server'
import { makeServer } from '../server'
import { answered, Editor, expect, nudge, test } from './support'

const KEY = 'the-writing-key-of-the-tests'
let locked: TestServer
test.beforeAll(async () => {
  locked = await makeServer({ env: { HANDY_GRID_KEY: KEY } })
})
test.afterAll(() => locked.dispose())

async function newLevel(name: string): Promise<string> {
  const made = await fetch(`${locked.url}/api/levels`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'authorization': `Bearer ${KEY}` },
    body: JSON.stringify({ name, from: 'empty' }),
  })
  return levelSummarySchema.parse(await made.json()).id
}

test('a keeper lets somebody in, who works under that name, may less in one level, and is out at once', async ({
  page,
  browser,
  errors,
}) => {
  errors.allow(answered(401, 403, 404))
  const [quay, hall] = [await newLevel('Quay'), await newLevel('Hall')]
  await page.goto(`${locked.url}/enter#key=${KEY}`)
  await page.getByTestId('who-am-i').click()
  await page.getByText('People and their roles').click()
  await expect(page.getByText('Nobody is let in by name yet.')).toBeVisible()
  await page.getByLabel('Name of the new person').fill('<i>')
  await page.getByRole('button', { name: 'Let in' }).click()
  await expect(page.getByRole('alert')).toContainText('A name')
  await page.getByLabel('Name of the new person').fill('Ada')
  await page.getByRole('button', { name: 'Let in' }).click()
  const link = await page.getByTestId('key-link').locator('input').inputValue()
  await page.getByRole('button', { name: 'Done' }).click()
  const row = page.locator('[data-person=Ada]')
  await expect(row).toContainText('a key of')

  const other = await (await browser.newContext({ reducedMotion: 'reduce' })).newPage()
  const ada = new Editor(other, locked)
  await other.goto(link)
  await expect(other.getByTestId('who-am-i')).toHaveText('Ada')
  await other.getByRole('link', { name: 'Open Quay' }).click()
  ada.levelId = quay
  await ada.ready()
  await other.keyboard.press('g')
  await other.getByTestId('people').click()
  await expect(other.getByTestId('people-here')).toContainText('Ada')
  await expect(other.getByTestId('people-here').getByLabel('Your name')).toHaveCount(0)
  await other.keyboard.press('Escape')

  // Less in one level: it has that at once, where it is open as well.
  await row.getByRole('button', { name: 'the same in all levels' }).click()
  const choose = async (level: string, role: string) => {
    await page
      .getByRole('dialog')
      .getByRole('combobox', { name: `Role in ${level}` })
      .click({ force: true })
    await page.getByRole('option', { name: role, exact: true }).click()
  }
  await choose('Quay', 'Looking')
  await choose('Hall', 'Not at all')
  await page.getByRole('button', { name: 'Save' }).click()
  await expect(row).toContainText('less in 2 levels')
  await expect(ada.saveState()).toHaveText('Only looking')
  await other.goto(locked.url)
  await expect(other.getByRole('link', { name: 'Open Quay' })).toBeVisible()
  await expect(other.getByRole('link', { name: 'Open Hall' })).toHaveCount(0)
  await other.goto(`${locked.url}/levels/${hall}`)
  await expect(other.getByRole('heading', { name: 'There is no such level' })).toBeVisible()

  // Out, while a level is open.
  await other.goto(`${locked.url}/levels/${quay}`)
  await ada.ready()
  await row.getByRole('button', { name: 'End' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'End' }).click()
  await expect(other.getByText('A key is needed')).toBeVisible()
  await expect(row).toContainText('ended')
  await expect(page.getByRole('list', { name: /What keepers did/ }).getByRole('listitem')).toHaveText([
    /ended Ada/,
    /changed the roles in single levels of Ada: 2 levels/,
    /let in Ada: Working/,
  ])
  const rows = await locked.db.select().from(people)
  expect(rows).toMatchObject([{ name: 'Ada', role: 'work', keyHash: null }])
  await page.goto('about:blank')
  await other.context().close()
})

test('what somebody does who is known by name is theirs in the list of changes, and another role is had at once', async ({
  page,
  errors,
}) => {
  errors.allow(answered(401, 403))
  const keeper = { 'content-type': 'application/json', 'authorization': `Bearer ${KEY}` }
  const made = await fetch(`${locked.url}/api/people`, {
    method: 'POST',
    headers: keeper,
    body: JSON.stringify({ name: 'Ben', role: 'work' }),
  })
  const { key, person } = (await made.json()) as { key: string; person: { id: string } }
  const editor = new Editor(page, locked)
  const from = await fetch(`${locked.url}/api/levels`, {
    method: 'POST',
    headers: keeper,
    body: JSON.stringify({ name: 'Night', from: 'demo' }),
  })
  editor.levelId = levelSummarySchema.parse(await from.json()).id
  await page.goto(`${locked.url}/enter?to=/levels/${editor.levelId}#key=${key}`)
  await editor.ready()
  await nudge(page, 'Stalls', 'Position Y', '0.1')
  await expect(editor.saveState()).toHaveText('Saved · change 1')
  await page.getByRole('button', { name: 'List of changes' }).click()
  await expect(page.getByText('Ben (signed in)')).toBeVisible()
  await page.keyboard.press('Escape')
  const [row] = await locked.db.select().from(changes).where(eq(changes.levelId, editor.levelId))
  expect(row).toMatchObject({ author: 'Ben', personId: person.id })
  await fetch(`${locked.url}/api/people/${person.id}`, {
    method: 'PATCH',
    headers: keeper,
    body: JSON.stringify({ role: 'look' }),
  })
  await expect(editor.saveState()).toHaveText('Only looking')
  await nudge(page, 'Stalls', 'Position Y', '0.2')
  await expect(page.getByTestId('notice')).toContainText('your role here is Looking')
  await page.goto('about:blank')
})

test('what somebody has set goes along to wherever they come in next, and is not that of the next one there', async ({
  page,
  browser,
  errors,
}) => {
  errors.allow(answered(401, 403))
  const made = await fetch(`${locked.url}/api/people`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'authorization': `Bearer ${KEY}` },
    body: JSON.stringify({ name: 'Noor', role: 'work' }),
  })
  const { key, person } = (await made.json()) as { key: string; person: { id: string } }
  await page.goto(`${locked.url}/enter#key=${key}`)
  await expect(page.getByTestId('who-am-i')).toHaveText('Noor')
  await page.getByRole('button', { name: 'Settings' }).click()
  const sheet = page.getByTestId('settings')
  await expect(sheet.getByTestId('kept-with')).toContainText('Kept with Noor')
  await sheet.getByLabel('Size of text').fill('130')
  await page.keyboard.press('Enter')
  await sheet.locator('[data-setting="Height along"]').getByRole('button', { name: 'Z', exact: true }).click()
  const stored = async () =>
    (await locked.db.select().from(personSettings).where(eq(personSettings.personId, person.id)))[0]?.settings
  await expect.poll(stored).toMatchObject({ textSize: 130, height: 'z' })

  const other = await (await browser.newContext({ reducedMotion: 'reduce' })).newPage()
  const scale = () => other.evaluate(() => getComputedStyle(document.documentElement).getPropertyValue('--scale'))
  await other.goto(`${locked.url}/enter#key=${key}`)
  await expect(other.getByTestId('who-am-i')).toHaveText('Noor')
  await expect.poll(scale).toBe('1.3')
  // Set there, it comes back here with the next look.
  await other.getByRole('button', { name: 'Settings' }).click()
  await other.getByTestId('settings').getByRole('button', { name: 'Look: as it was at first' }).click()
  await expect.poll(stored).toMatchObject({ textSize: 100, height: 'z' })
  await page.reload()
  await expect
    .poll(() => page.evaluate(() => getComputedStyle(document.documentElement).getPropertyValue('--scale')))
    .toBe('1')
  await page.goto('about:blank')
  await other.context().close()
})
