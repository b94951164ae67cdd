import { writeFile } from 'node:fs/promises'
import { eq } from 'drizzle-orm'
import { levels, milestones } from '../../server/db/schema'
import type { Editor } from './support'
import { expect, test } from './support'

const stored = (editor: Editor) =>
  editor.server.db
    .select({ id: milestones.id, name: milestones.name, revision: milestones.revision, by: milestones.by })
    .from(milestones)
    .where(eq(milestones.levelId, editor.levelId))

/** Drags a thing along X by its handle. */
async function dragAlongX(editor: Editor, name: string, metres: number): Promise<void> {
  await editor.pick(name)
  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  const way = (await editor.at([metres, 0, 0])).x - (await editor.at([0, 0, 0])).x
  await editor.pressAndMove(grip, { x: grip.x + way, y: grip.y })
  await editor.page.mouse.up()
  await editor.saved()
}

test('a milestone is set, what became of it since is seen on the stage, gone through, taken back in part and whole', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Crate', part: 'Crate', translation: [0, 0, 0] },
    { name: 'Barrel', part: 'Barrel', translation: [-2, 0, 0] },
    { name: 'Bench', part: 'Bench', translation: [2.5, 0, 0] },
  ])
  await page.keyboard.press('8')
  const before = await editor.rows()
  await page.keyboard.press('Control+s')
  const sheet = page.getByRole('dialog', { name: 'Milestones' })
  await expect(sheet.getByText('There is none yet')).toBeVisible()
  await sheet.getByLabel('Name of the milestone').fill('Three stand')
  await sheet.getByLabel('About it').fill('Before the crate was moved')
  await sheet.getByRole('button', { name: 'Set a milestone' }).click()
  await expect(sheet.locator('[data-milestone="Three stand"]')).toContainText('Before the crate was moved')
  const [milestone] = await stored(editor)
  expect(milestone).toMatchObject({ name: 'Three stand', revision: await editor.storedRevision() })
  await sheet.getByRole('button', { name: 'Close' }).click()

  await dragAlongX(editor, 'Crate', 1)
  await editor.pick('Barrel')
  await page.keyboard.press('Delete')
  await editor.pick('Bench')
  await page.keyboard.press('Control+d')
  await editor.saved()
  const moved = (await editor.rows()).find(({ name }) => name === 'Crate')!

  await page.keyboard.press('Control+s')
  const bare = await page.locator('.stage-canvas').screenshot()
  await sheet.locator('[data-milestone="Three stand"]').getByRole('button', { name: 'Compare', exact: true }).click()
  const bench = page.getByTestId('compare')
  await expect(bench.getByRole('heading', { level: 3 })).toHaveText([/added\s*1/, /gone\s*1/, /moved\s*1/])
  // What is gone, new and elsewhere is on the stage.
  await expect.poll(async () => (await page.locator('.stage-canvas').screenshot()).equals(bare)).toBe(false)
  await page.keyboard.press('Alt+ArrowDown')
  await page.keyboard.press('Alt+ArrowDown')
  await expect(bench.locator('.current')).toContainText('Barrel')
  await page.keyboard.press('Alt+ArrowDown')
  await expect(bench.locator('.current')).toContainText('moved by')
  await expect(bench.locator('.current').getByRole('row').nth(1)).toContainText('position')

  // One of them as it was: the others stay as they are.
  await bench.locator('.current').getByRole('button', { name: 'As it was' }).click()
  await expect.poll(async () => (await editor.row(moved.id))!.translation).toEqual([0, 0, 0])
  expect((await editor.rows()).map(({ name }) => name).toSorted()).toEqual(['Bench', 'Bench 1', 'Crate'])
  await expect(bench.getByRole('heading', { level: 3 })).toHaveText([/added/, /gone/])
  // And all: to the last digit, as one step that is undone as one.
  await bench.getByRole('button', { name: 'All of it as it was' }).click()
  await expect(bench.getByText('Nothing is otherwise')).toBeVisible()
  await editor.saved()
  const sorted = (rows: typeof before) => rows.toSorted((a, b) => (a.id < b.id ? -1 : 1))
  expect(sorted(await editor.rows())).toEqual(sorted(before))
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect((await editor.rows()).map(({ name }) => name).toSorted()).toEqual(['Bench', 'Bench 1', 'Crate'])
  await page.keyboard.press('Escape')
  await expect(bench).toBeHidden()
})

test('only what is picked comes back from a milestone, and going back to it is a step like any other', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Crate', part: 'Crate', translation: [0, 0, 0] },
    { name: 'Barrel', part: 'Barrel', translation: [-2, 0, 0] },
  ])
  await page.keyboard.press('8')
  await page.keyboard.press('Control+s')
  const sheet = page.getByRole('dialog', { name: 'Milestones' })
  await sheet.getByLabel('Name of the milestone').fill('Both at rest')
  await page.keyboard.press('Enter')
  await expect(sheet.locator('[data-milestone="Both at rest"]')).toBeVisible()
  await sheet.getByRole('button', { name: 'Close' }).click()
  await dragAlongX(editor, 'Crate', 1)
  await dragAlongX(editor, 'Barrel', -1)
  // A state from the list of changes gets a name as well.
  await page.getByRole('button', { name: 'List of changes' }).click()
  const before = (await editor.storedRevision()) - 1
  await page.getByRole('menuitem', { name: `Name the level as it was after change ${before}` }).click()
  await expect(sheet).toContainText(`as it was after change ${before}`)
  await sheet.getByLabel('Name of the milestone').fill('Crate moved alone')
  await page.keyboard.press('Enter')
  await expect(sheet.locator('[data-milestone="Crate moved alone"]')).toBeVisible()
  await sheet.getByRole('button', { name: 'Close' }).click()
  expect(await stored(editor)).toContainEqual(
    expect.objectContaining({ name: 'Crate moved alone', revision: before }) as object,
  )
  const more = async (item: string) => {
    await page.keyboard.press('Control+s')
    await sheet.getByRole('button', { name: 'More for Both at rest' }).click()
    await page.getByRole('menuitem', { name: item }).click()
    await expect(sheet).toBeHidden()
    await editor.saved()
  }
  await editor.pick('Crate')
  await more('Bring back only what is picked')
  const [crate, barrel] = [await editor.named('Crate'), await editor.named('Barrel')]
  expect((await editor.row(crate.id))!.translation).toEqual([0, 0, 0])
  expect((await editor.row(barrel.id))!.translation[0]).toBeLessThan(-2.5)
  await more('Go back to it')
  expect((await editor.row(barrel.id))!.translation).toEqual([-2, 0, 0])
  expect((await editor.journal()).at(-1)).toBe('Back to “Both at rest”')
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect((await editor.row(barrel.id))!.translation[0]).toBeLessThan(-2.5)
})

test('a variant lives beside its level; what is better there is brought over, and what both changed is said', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Crate', part: 'Crate', translation: [0, 0, 0] },
    { name: 'Barrel', part: 'Barrel', translation: [-2, 0, 0] },
    { name: 'Bench', part: 'Bench', translation: [2.5, 0, 0] },
  ])
  const root = editor.levelId
  await page.getByRole('button', { name: 'Yard' }).click()
  await page.getByRole('menuitem', { name: 'Begin a variant' }).click()
  await page.getByRole('dialog').getByLabel('Name', { exact: true }).fill('Crate to the east')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: 'Crate to the east' })).toBeVisible()
  editor.levelId = page.url().split('/').at(-1)!
  expect(editor.levelId).not.toBe(root)
  await editor.ready()
  await page.keyboard.press('8')
  await dragAlongX(editor, 'Crate', 1)
  await dragAlongX(editor, 'Bench', 0.5)
  const variant = editor.levelId
  const theirs = await editor.named('Crate')

  // Meanwhile something else happens to the level itself, and the bench is moved there too.
  await page.getByRole('button', { name: 'Crate to the east' }).click()
  await page.getByRole('menuitem', { name: 'The level it began from' }).click()
  await expect(page.getByRole('button', { name: 'Yard' })).toBeVisible()
  editor.levelId = root
  await editor.ready()
  await page.keyboard.press('8')
  await dragAlongX(editor, 'Barrel', -1)
  await dragAlongX(editor, 'Bench', -0.5)
  const [barrel, bench] = [await editor.named('Barrel'), await editor.named('Bench')]

  await page.getByRole('button', { name: 'Yard' }).click()
  await page.getByRole('menuitem', { name: 'Compare with' }).click()
  await page.getByRole('menuitem', { name: /a variant of this level/ }).click()
  const panel = page.getByTestId('compare')
  await expect(panel.getByText('changed on both').first()).toBeVisible()
  await panel.getByRole('button', { name: 'Bench' }).click()
  await panel.getByRole('button', { name: 'Keep mine' }).click()
  await panel.getByRole('button', { name: 'Take all of it' }).click()
  await expect.poll(async () => (await editor.row(theirs.id))!.translation).toEqual(theirs.translation)
  expect((await editor.row(barrel.id))!.translation).toEqual(barrel.translation)
  expect((await editor.row(bench.id))!.translation).toEqual(bench.translation)
  const [row] = await editor.server.db.select().from(levels).where(eq(levels.id, variant))
  expect(row).toMatchObject({ variantOf: root })
})

test('a level is compared with a file of it that came back otherwise', async ({ page, editor }, info) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  const file = info.outputPath('yard.handygrid')
  const answer = await fetch(`${editor.server.url}/api/levels/${editor.levelId}/export.handygrid`)
  await writeFile(file, Buffer.from(await answer.arrayBuffer()))
  await page.keyboard.press('8')
  await dragAlongX(editor, 'Crate', 1)
  await page.keyboard.press('/')
  await page.getByRole('combobox', { name: 'Find or do' }).fill('compare with')
  await page.keyboard.press('Enter')
  const choosing = page.waitForEvent('filechooser')
  await page.getByRole('dialog', { name: 'Compare with' }).getByRole('button', { name: 'A file' }).click()
  await (await choosing).setFiles(file)
  const panel = page.getByTestId('compare')
  await expect(panel.getByRole('heading', { level: 3 })).toHaveText([/moved\s*1/])
  await panel.getByRole('button', { name: 'Take all of it' }).click()
  await expect.poll(async () => (await editor.named('Crate')).translation).toEqual([0, 0, 0])
})
