import type { Browser } from '@playwright/test'
import { Editor, expect, nudge, test } from './support'

const YARD = [
  { name: 'Stall', part: 'Crate', translation: [0, 0, 0] as [number, number, number] },
  { name: 'Barrel stack', part: 'Barrel', translation: [4, 0, 0] as [number, number, number] },
]

/** Somebody else, on another computer, who has the same level open. */
async function another(browser: Browser, editor: Editor): Promise<Editor> {
  const page = await (await browser.newContext({ reducedMotion: 'reduce' })).newPage()
  const other = new Editor(page, editor.server)
  await page.goto(`${editor.server.url}/levels/${editor.levelId}`)
  await other.ready()
  return other
}

const moved = (editor: Editor, name: string) =>
  expect.poll(async () => (await editor.placements()).find(each => each.name === name)?.translation[0])

test('what one does, the other sees without reloading, also while that one drags; both are kept', async ({
  page,
  editor,
  browser,
}) => {
  await editor.openWith(YARD)
  await editor.look([2, 6, 9], [2, 0, 0])
  const other = await another(browser, editor)
  await editor.pick('Stall')
  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  await editor.pressAndMove(grip, { x: grip.x + 40, y: grip.y })
  // Held meanwhile.
  await nudge(other.page, 'Barrel stack', 'Position X', '7')
  await other.saved()
  await moved(editor, 'Barrel stack').toBe(7)
  expect((await editor.named('Stall')).translation[0]).toBe(0)
  await page.keyboard.press('=')
  await page.keyboard.type('2')
  await page.keyboard.press('Enter')
  await page.mouse.up()
  await editor.saved()
  await moved(other, 'Stall').toBe(2)
  for (const name of ['Stall', 'Barrel stack']) {
    const here = await editor.named(name)
    expect(await other.named(name)).toEqual(here)
    expect(await editor.row(here.id)).toEqual(here)
  }
  // Undone here, it goes back there as well; what was done there stays.
  await page.keyboard.press('Control+z')
  await moved(other, 'Stall').toBe(0)
  await editor.saved()
  expect((await editor.named('Barrel stack')).translation[0]).toBe(7)
  expect(await editor.done()).toEqual([
    'Position X of Barrel stack',
    expect.stringContaining('Move'),
    expect.stringContaining('Undo'),
  ])
  await other.page.context().close()
})

test('a number that is being typed stays while another changes the same thing, and both are kept', async ({
  page,
  editor,
  browser,
}) => {
  await editor.openWith(YARD)
  const other = await another(browser, editor)
  await editor.pick('Stall')
  const field = page.getByLabel('Position Z', { exact: true })
  await field.fill('3')
  await nudge(other.page, 'Stall', 'Position Y', '1')
  await other.saved()
  await expect.poll(async () => (await editor.named('Stall')).translation[1]).toBe(1)
  await expect(field).toHaveValue('3')
  await expect(field).toBeFocused()
  await page.keyboard.press('Enter')
  await editor.saved()
  const stall = await editor.named('Stall')
  expect(stall.translation).toEqual([0, 1, 3])
  await expect.poll(() => other.named('Stall')).toEqual(stall)
  expect(await editor.row(stall.id)).toEqual(stall)
  await other.page.context().close()
})

test('a drag that holds what another deletes ends with a word, and nothing of it is done', async ({
  page,
  editor,
  browser,
}) => {
  await editor.openWith(YARD)
  await editor.look([2, 6, 9], [2, 0, 0])
  const other = await another(browser, editor)
  await editor.pick('Stall')
  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  await editor.pressAndMove(grip, { x: grip.x + 40, y: grip.y })
  await other.pick('Stall')
  await other.page.keyboard.press('Delete')
  await other.saved()
  await expect(page.getByTestId('notice')).toContainText('What you held is gone')
  await page.mouse.move(grip.x + 80, grip.y)
  await page.mouse.up()
  await editor.drawn()
  await editor.saved()
  expect((await editor.placements()).map(({ name }) => name)).toEqual(['Barrel stack'])
  expect((await editor.rows()).map(({ name }) => name)).toEqual(['Barrel stack'])
  expect(await editor.done()).toEqual(['Remove Stall'])
  await other.page.context().close()
})

test('a page that no socket reaches asks by itself', async ({ page, editor, browser }) => {
  // Somebody between page and server who knows nothing of sockets.
  await page.routeWebSocket(/\/live$/, socket => socket.close({ code: 1011 }))
  await editor.openWith(YARD)
  const other = await another(browser, editor)
  await nudge(other.page, 'Stall', 'Position X', '5')
  await other.saved()
  await moved(editor, 'Stall').toBe(5)
  await other.page.context().close()
})
