import type { Page } from '@playwright/test'
import { eq } from 'drizzle-orm'
import { levelSummarySchema } from '../../core/api/schema'
import { answers, threads } from '../../server/db/schema'
import { makeServer } from '../server'
import { answered, Editor, expect, nudge, test } from './support'

const YARD = [
  { name: 'Stall', part: 'Crate', translation: [0, 0, 0] as [number, number, number] },
  { name: 'Barrel stack', part: 'Barrel', translation: [4, 0, 0] as [number, number, number] },
]
const rowsOf = async ({ server, levelId }: Editor) => ({
  threads: await server.db.select().from(threads).where(eq(threads.levelId, levelId)),
  answers: await server.db.select().from(answers).where(eq(answers.levelId, levelId)).orderBy(answers.when),
})
const marks = (page: Page) => page.getByRole('group', { name: 'Notes on the stage' }).getByRole('button')
const sheet = (page: Page) => page.getByTestId('notes-sheet')

/** Where a mark stands on the page. */
async function placeOf(page: Page): Promise<{ x: number; y: number }> {
  const box = (await marks(page).boundingBox())!
  return { x: Math.round(box.x), y: Math.round(box.y + box.height) }
}

async function write(page: Page, text: string): Promise<void> {
  await page.getByTestId('notes-sheet').getByRole('textbox').fill(text)
  await page.keyboard.press('Control+Enter')
}

test('a note is written where the pointer is, answered by another, goes along with its thing and stays when that is removed', async ({
  page,
  editor,
  browser,
}) => {
  await editor.openWith(YARD)
  await editor.look([2, 6, 9], [2, 0, 0])
  const other = new Editor(await (await browser.newContext({ reducedMotion: 'reduce' })).newPage(), editor.server)
  other.levelId = editor.levelId
  await other.page.goto(page.url())
  await other.ready()
  await other.look([2, 6, 9], [2, 0, 0])
  const stall = await editor.named('Stall')

  const at = await editor.at([0, 0.4, 0])
  await page.mouse.move(at.x, at.y)
  await page.keyboard.press('Shift+N')
  await write(page, 'Is there room for the awning?')
  await editor.saved()
  await expect(marks(page)).toHaveText(['1'])
  // It is where the pointer was.
  const begun = await placeOf(page)
  expect(Math.hypot(begun.x - at.x, begun.y - at.y)).toBeLessThan(3)

  await expect(other.page.getByTestId('notes')).toHaveText('1')
  await marks(other.page).click()
  await expect(sheet(other.page)).toContainText('On Stall')
  await sheet(other.page).getByRole('button', { name: 'Answer' }).click()
  await write(other.page, 'Half a metre.')
  await other.saved()
  await expect(marks(page)).toHaveText(['2'])
  await expect(sheet(page)).toContainText('Half a metre.')
  const { threads: begunRows, answers: said } = await rowsOf(editor)
  expect(begunRows).toMatchObject([{ text: 'Is there room for the awning?', done: false, at: { on: stall.id } }])
  expect(said).toMatchObject([{ text: 'Half a metre.', threadId: begunRows[0]!.id }])

  // It goes along, without a change of its own; and stays where it was when its thing is removed.
  await nudge(page, 'Stall', 'Position X', '2')
  await editor.saved()
  await expect.poll(async () => (await placeOf(page)).x).toBeGreaterThan(begun.x + 20)
  expect((await rowsOf(editor)).threads).toEqual(begunRows)
  const moved = await placeOf(page)
  await page.getByTestId('notes').click()
  await expect(sheet(page)).toHaveCount(0)
  await editor.pick('Stall')
  await page.keyboard.press('Delete')
  await editor.saved()
  await expect.poll(() => editor.row(stall.id)).toBeUndefined()
  expect(await placeOf(page)).toEqual(moved)
  await expect.poll(() => placeOf(other.page)).toEqual(moved)
  await expect(sheet(other.page)).toContainText('What it was on is gone')
  await page.keyboard.press('Control+z')
  await expect(sheet(other.page)).toContainText('On Stall')

  // Done, it is no longer among the open ones; and it can be opened again.
  await sheet(other.page).getByRole('button', { name: 'Done' }).click()
  await other.saved()
  await expect(page.getByTestId('notes')).toHaveText('')
  await expect(marks(page)).toHaveCount(0)
  expect((await rowsOf(editor)).threads).toMatchObject([{ done: true }])
  await page.getByTestId('notes').click()
  await sheet(page).getByLabel('Those that are done as well').check()
  await sheet(page).getByText('Is there room for the awning?').click()
  await sheet(page).getByRole('button', { name: 'Open again' }).click()
  await editor.saved()
  await expect(marks(other.page)).toHaveCount(1)
  expect((await rowsOf(editor)).threads).toMatchObject([{ done: false }])
  await other.page.context().close()
})

test('open notes are gone through one after the other by keys, and handed over as a table', async ({
  page,
  editor,
}) => {
  const thread = (n: number, x: number) => ({
    do: 'put-thread' as const,
    id: `0000000${n}-0000-7000-8000-00000000abcd`,
    fields: {
      text: `Note ${n}, =1+1`,
      by: 'Ada',
      when: `2026-11-0${n}T10:00:00.000Z`,
      done: n === 2,
      at: { at: [x, 0, 0] as [number, number, number], on: null, point: [x, 0, 0] as [number, number, number] },
    },
  })
  await editor.openWith(YARD, [thread(1, 0), thread(2, 3), thread(3, 6)])
  await editor.look([2, 6, 9], [2, 0, 0])
  const target = () => page.evaluate(() => window.handyGrid!.view()!.target.map(Math.round))
  await page.keyboard.press('Alt+.')
  await expect(sheet(page)).toContainText('Note 1')
  await expect.poll(target).toEqual([0, 0, 0])
  await page.keyboard.press('Alt+.')
  await expect(sheet(page)).toContainText('Note 3')
  await expect.poll(target).toEqual([6, 0, 0])
  await page.keyboard.press('Alt+.')
  await expect(sheet(page)).toContainText('Note 1')
  await page.keyboard.press('Alt+,')
  await expect(sheet(page)).toContainText('Note 3')
  const url = `${editor.server.url}/api/levels/${editor.levelId}/notes.csv`
  const lines = (await (await fetch(url)).text()).trim().split('\r\n')
  expect(lines).toHaveLength(4)
  expect(lines[3]).toBe(`3,,Ada,2026-11-03T10:00:00.000Z,"Note 3, =1+1",no,,6,0,0`)
  expect((await (await fetch(`${url}?done=false`)).text()).trim().split('\r\n')).toHaveLength(3)
})

test('who may only write notes writes them, and changes nothing else', async ({ page, errors }) => {
  errors.allow(answered(401, 403))
  const KEY = 'the-writing-key-of-the-tests'
  const locked = await makeServer({ env: { HANDY_GRID_KEY: KEY } })
  const keeper = { 'content-type': 'application/json', 'authorization': `Bearer ${KEY}` }
  const ask = async (path: string, body: object) =>
    (await fetch(locked.url + path, { method: 'POST', headers: keeper, body: JSON.stringify(body) })).json()
  try {
    const { key } = (await ask('/api/people', { name: 'Nia', role: 'note' })) as { key: string }
    const editor = new Editor(page, locked)
    editor.levelId = levelSummarySchema.parse(await ask('/api/levels', { name: 'Night', from: 'demo' })).id
    await page.goto(`${locked.url}/enter?to=/levels/${editor.levelId}#key=${key}`)
    await editor.ready()
    const before = await editor.placements()
    await nudge(page, 'Stalls', 'Position Y', '0.1')
    await expect(page.getByTestId('notice')).toContainText('your role here is Noting')
    await editor.pick('Stalls')
    await page.getByTestId('notes').click()
    await sheet(page).getByRole('button', { name: 'Write a note' }).click()
    await write(page, 'A little more to the left.')
    await editor.saved()
    await expect
      .poll(async () => (await rowsOf(editor)).threads.map(({ by, text }) => [by, text]))
      .toContainEqual(['Nia', 'A little more to the left.'])
    expect(await editor.placements()).toEqual(before)
  } finally {
    await page.goto('about:blank')
    await locked.dispose()
  }
})
