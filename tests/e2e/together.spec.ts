import { spawn } from 'node:child_process'
import { once } from 'node:events'
import type { Browser, WebSocketRoute } from '@playwright/test'
import { answered, difference, Editor, expect, nudge, test } from './support'

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

/** Says who is before a page. */
async function named(editor: Editor, name: string): Promise<void> {
  await editor.page.getByTestId('people').click()
  await editor.page.getByLabel('Your name').fill(name)
  await editor.page.keyboard.press('Enter')
  await editor.page.keyboard.press('Escape')
  await expect(editor.page.getByTestId('people-here')).toHaveCount(0)
}

/** Ada has the yard open here, and Ben somewhere else. @returns Ben's */
async function adaAndBen(editor: Editor, browser: Browser): Promise<Editor> {
  await editor.openWith(YARD)
  const other = await another(browser, editor)
  await named(editor, 'Ada')
  await named(other, 'Ben')
  return other
}

const othersOf = ({ page }: Editor) => page.evaluate(() => window.handyGrid!.others())

const stageOf = async ({ page }: Editor) =>
  Buffer.from((await page.evaluate(() => window.handyGrid!.picture(400, 300))).split(',')[1]!, 'base64')

test('what somebody drags is seen while they drag it, and whose hand is on it; what they have picked as well', async ({
  page,
  editor,
  browser,
}) => {
  const other = await adaAndBen(editor, browser)
  for (const each of [editor, other]) await each.look([2, 6, 9], [2, 0, 0])
  const stall = await editor.named('Stall')
  await editor.pick('Stall')
  await expect
    .poll(() => othersOf(other))
    .toEqual([expect.objectContaining({ name: 'Ada', role: 'keep', picked: [stall.id], dragging: [] })])
  await expect(other.page.locator('[role=treeitem]', { hasText: 'Stall' })).toContainText('Ada has picked this')
  const before = await stageOf(other)
  const shots = async () => other.page.locator('.stage-canvas').screenshot()
  const unheld = await shots()

  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  await editor.pressAndMove(grip, { x: grip.x - 90, y: grip.y })
  await expect.poll(async () => (await othersOf(other))[0]?.dragging).toEqual([stall.id])
  await expect.poll(async () => difference(before, await stageOf(other))).toBeGreaterThan(0.005)
  const held = await stageOf(other)
  // It is seen, and nothing is done: neither there nor in the database.
  expect((await other.named('Stall')).translation).toEqual([0, 0, 0])
  expect((await editor.row(stall.id))!.translation).toEqual([0, 0, 0])
  expect(difference(unheld, await shots())).not.toBe(0)
  // Who points at it is told whose hand is on it.
  const place = await other.page.evaluate(id => {
    const [thing] = window.handyGrid!.others()
    return thing!.dragging.includes(id) ? window.handyGrid!.project([0.2, 0.4, 0.2]) : null
  }, stall.id)
  await other.page.mouse.move(place!.x, place!.y)
  await expect.poll(() => other.readout()).toContain('Ada moves this')
  await other.page.mouse.move(place!.x, place!.y - 200)

  await page.mouse.up()
  await editor.saved()
  const there = (await editor.named('Stall')).translation
  expect(there[0]).toBeLessThan(-0.5)
  await moved(other, 'Stall').toBe(there[0])
  expect((await editor.row(stall.id))!.translation).toEqual(there)
  await expect.poll(async () => (await othersOf(other))[0]?.dragging).toEqual([])
  // What was seen while it was held is what is there now.
  expect(await difference(held, await stageOf(other))).toBeLessThan(0.002)

  // Given up, it goes back there as well.
  const again = await editor.handle({ kind: 'axis', axis: 0 })
  await editor.pressAndMove(again, { x: again.x + 120, y: again.y })
  await expect.poll(async () => difference(held, await stageOf(other))).toBeGreaterThan(0.005)
  await page.keyboard.press('Escape')
  await page.mouse.up()
  await expect.poll(async () => difference(held, await stageOf(other)), { timeout: 20_000 }).toBeLessThan(0.002)
  // Who leaves is not seen any more.
  await other.page.context().close()
  await expect.poll(() => othersOf(editor)).toEqual([])
})

test('one goes to another, goes along until the view is moved by hand, and comes when called', async ({
  page,
  editor,
  browser,
}) => {
  const other = await adaAndBen(editor, browser)
  const at = async (each: Editor) => (await each.view()).eye.map(value => Math.round(value * 100) / 100)
  const person = other.page.locator('[data-person="Ada"]')
  await editor.look([3, 5, 8], [1, 0, 0])
  await expect.poll(async () => (await othersOf(other))[0]?.eye).toEqual([3, 5, 8])
  await other.page.getByTestId('people').click()
  await person.getByRole('button', { name: 'Go there' }).click()
  await expect.poll(() => at(other)).toEqual([3, 5, 8])
  await person.getByRole('button', { name: 'Follow' }).click()
  await other.page.keyboard.press('Escape')
  await editor.look([-6, 4, 7], [0, 0, 0])
  await expect.poll(() => at(other)).toEqual([-6, 4, 7])
  // By hand.
  const middle = await other.at([0, 0.5, 0])
  await other.page.mouse.move(middle.x, middle.y)
  await other.page.mouse.wheel(0, -300)
  await expect.poll(() => at(other)).not.toEqual([-6, 4, 7])
  const own = await at(other)
  await editor.look([9, 9, 9], [0, 0, 0])
  await expect.poll(async () => (await othersOf(other))[0]?.eye).toEqual([9, 9, 9])
  expect(await at(other)).toEqual(own)

  await page.keyboard.press('Shift+h')
  await expect(other.page.getByTestId('notice')).toContainText('Ada calls: look here')
  await other.page.getByRole('button', { name: 'Go there' }).click()
  await expect.poll(() => at(other)).toEqual([9, 9, 9])
  // In the list of levels it is said who is where.
  await page.goto(editor.server.url)
  await expect(page.locator('.card', { hasText: 'Ben' })).toContainText('Yard')
  await other.page.context().close()
})

test("undo is of one's own; where another changed the same since, it asks, and the list says by whom all was", async ({
  page,
  editor,
  browser,
}) => {
  const other = await adaAndBen(editor, browser)
  await nudge(page, 'Stall', 'Position X', '1')
  await nudge(page, 'Stall', 'Position Z', '2')
  await editor.saved()
  await moved(other, 'Stall').toBe(1)
  await nudge(other.page, 'Stall', 'Position X', '7')
  await nudge(other.page, 'Barrel stack', 'Position X', '9')
  await other.saved()
  await moved(editor, 'Barrel stack').toBe(9)
  // What Ben has done is not hers to undo: hers is asked about, as it would take back his as well.
  const asked = page.getByRole('dialog')
  await page.keyboard.press('Control+z')
  await expect(asked).toContainText('position of Stall: now 7, 0, 2 by Ben, would be 1, 0, 0')
  await asked.getByRole('button', { name: 'Leave all as it is' }).click()
  await expect(asked).toHaveCount(0)
  expect((await editor.named('Stall')).translation).toEqual([7, 0, 2])
  await page.keyboard.press('Control+z')
  await asked.getByRole('button', { name: 'Put it back all the same' }).click()
  await editor.saved()
  const stall = await editor.named('Stall')
  expect(stall.translation).toEqual([1, 0, 0])
  expect(await editor.row(stall.id)).toEqual(stall)
  expect((await editor.named('Barrel stack')).translation[0]).toBe(9)
  // From here on nobody else had a hand in it.
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect((await editor.row(stall.id))!.translation).toEqual([0, 0, 0])
  await page.getByRole('button', { name: 'List of changes' }).click()
  const list = page.getByTestId('history')
  // And the beginning.
  await expect(list.locator('[data-revision]')).toHaveCount(8)
  await editor.choose('By', 'Ben')
  await expect(list.locator('[data-revision]')).toHaveCount(2)
  await expect(list).toContainText('Position X of Barrel stack')
  await other.page.context().close()
})

test('a part that one makes and edits is in the kit and on the stage of the other, who goes on meanwhile', async ({
  page,
  editor,
  browser,
  errors,
}) => {
  // What a page asks of a level at the moment when that is deleted.
  errors.allow(answered(404))
  await editor.openWith(YARD)
  const yard = `${editor.server.url}/api/levels/${editor.levelId}`
  await editor.look([2, 6, 9], [2, 0, 0])
  const other = await another(browser, editor)
  await other.look([2, 6, 9], [2, 0, 0])
  await editor.pick('Stall')
  await editor.doMore('Save as a part')
  await page.getByLabel('Name of the part').fill('Heap')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await editor.saved()
  await expect(other.page.locator('[data-part="Heap"]')).toBeVisible()
  await expect.poll(async () => (await other.placements()).map(({ name }) => name)).toContain('Heap 1')
  await other.pick('Barrel stack')
  await other.page.evaluate(() => window.handyGrid!.rested())
  const before = await stageOf(other)

  await editor.pick('Heap 1')
  await editor.doMore('Edit the part')
  await editor.ready()
  await nudge(page, 'Stall', 'Position Y', '0.5')
  await page.getByRole('button', { name: 'Done' }).click()
  // As long as it is there, the workshop is still open.
  await expect(page.getByRole('button', { name: 'Done' })).toHaveCount(0)
  await editor.ready()
  await expect.poll(async () => difference(before, await stageOf(other))).toBeGreaterThan(0.005)
  expect(await other.pickedNames()).toEqual(['Barrel stack'])
  // It is the part that is other, not where it stands.
  expect(await other.named('Heap 1')).toEqual(await editor.named('Heap 1'))
  // Named otherwise, it is so there.
  await page.getByRole('button', { name: 'Yard', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Rename level' }).click()
  await page.getByLabel('Name', { exact: true }).fill('Lantern yard')
  await page.keyboard.press('Enter')
  await expect(other.page.getByRole('button', { name: 'Lantern yard' })).toBeVisible()
  // Deleted, that is said, and it can be brought back from there.
  expect((await fetch(yard, { method: 'DELETE' })).status).toBe(204)
  await expect(other.page.getByTestId('notice')).toContainText('This level was deleted')
  await other.page.getByRole('button', { name: 'Bring it back' }).click()
  await expect.poll(async () => (await fetch(yard)).status).toBe(200)
  await other.page.context().close()
})

test('a connection that is cut while another drags comes back by itself, and shows what is there then', async ({
  page,
  editor,
  browser,
}) => {
  const sockets: WebSocketRoute[][] = []
  await page.routeWebSocket(/\/live$/, socket => {
    sockets.push([socket, socket.connectToServer()])
  })
  await editor.openWith(YARD)
  const other = await another(browser, editor)
  await other.look([2, 6, 9], [2, 0, 0])
  const stall = await editor.named('Stall')
  await other.pick('Stall')
  const grip = await other.handle({ kind: 'axis', axis: 0 })
  await other.pressAndMove(grip, { x: grip.x - 90, y: grip.y })
  const dragging = async () => (await othersOf(editor)).map(each => each.dragging)
  await expect.poll(dragging).toEqual([[stall.id]])
  const before = sockets.length
  for (const end of sockets.at(-1)!) await end.close({ code: 3000 })
  await expect.poll(() => sockets.length).toBeGreaterThan(before)
  await expect.poll(dragging).toEqual([[stall.id]])
  await other.page.mouse.up()
  await other.saved()
  const there = await other.named('Stall')
  expect(there.translation[0]).toBeLessThan(-0.5)
  await expect.poll(() => editor.named('Stall')).toEqual(there)
  expect(await editor.row(stall.id)).toEqual(there)
  await other.page.context().close()
})

test('another program shows what is dragged while it is, and where it is left, by the live feed', async ({
  editor,
  browser,
}) => {
  await editor.openWith([{ ...YARD[0]!, pivot: [0.5, 0, 0], rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2] }, YARD[1]!])
  await editor.look([2, 6, 9], [2, 0, 0])
  const program = spawn(process.execPath, [
    'examples/live-viewer/serve.mjs',
    '--server',
    editor.server.url,
    '--port',
    '0',
  ])
  try {
    const [said] = (await once(program.stdout, 'data')) as [Buffer]
    const address = /http:\S+/.exec(said.toString())![0]
    const viewer = await (await browser.newContext({ viewport: { width: 400, height: 300 } })).newPage()
    await viewer.goto(`${address}/?level=${editor.levelId}`)
    const stall = await editor.named('Stall')
    const shown = () =>
      viewer.evaluate(
        id => (window as unknown as { viewer?: { at: (id: string) => number[] | null } }).viewer?.at(id),
        stall.id,
      )
    // A node stands where its thing does, less its pivot: half a metre along what was X before the turn.
    const near = (x: number) =>
      expect.poll(async () => (await shown())?.map(value => Math.round(value * 1000) / 1000)).toEqual([x, 0, 0.5])
    await near(0)
    await editor.pick('Stall')
    const grip = await editor.handle({ kind: 'axis', axis: 0 })
    await editor.pressAndMove(grip, { x: grip.x + 60, y: grip.y })
    await editor.page.keyboard.press('=')
    await editor.page.keyboard.type('3')
    await near(3)
    // Held: nothing of it is in the database yet.
    expect((await editor.row(stall.id))!.translation).toEqual([0, 0, 0])
    // Given up, it is where it was; let go of, it stays.
    await editor.page.keyboard.press('Escape')
    await editor.page.keyboard.press('Escape')
    await editor.page.mouse.up()
    await near(0)
    await nudge(editor.page, 'Stall', 'Position X', '2')
    await editor.saved()
    await near(2)
    expect((await editor.row(stall.id))!.translation).toEqual([2, 0, 0])
    await expect(viewer.getByRole('status')).toContainText('Position X of Stall')
    await viewer.close()
  } finally {
    program.kill()
  }
})

test('who is overruled right after they did something is told so, with one click back', async ({ editor, browser }) => {
  await editor.openWith(YARD)
  await editor.look([2, 6, 9], [2, 0, 0])
  const other = await another(browser, editor)
  await nudge(editor.page, 'Stall', 'Position X', '1')
  await editor.saved()
  await moved(other, 'Stall').toBe(1)
  // By the pointer, of the same field.
  await other.look([2, 6, 9], [2, 0, 0])
  await other.pick('Stall')
  const grip = await other.handle({ kind: 'axis', axis: 0 })
  await other.pressAndMove(grip, { x: grip.x + 60, y: grip.y })
  await other.page.mouse.up()
  await other.saved()
  const notice = editor.page.getByTestId('notice')
  await expect(notice).toContainText('did otherwise right after you')
  const theirs = (await other.named('Stall')).translation[0]
  expect((await editor.named('Stall')).translation[0]).toBe(theirs)
  await notice.getByRole('button', { name: 'Put mine back' }).click()
  await editor.saved()
  await moved(other, 'Stall').toBe(1)
  expect((await editor.row((await editor.named('Stall')).id))!.translation).toEqual([1, 0, 0])
  // What is another field is nobody's loss.
  await nudge(other.page, 'Stall', 'Turn Y', '30')
  await other.saved()
  await expect.poll(async () => (await editor.named('Stall')).rotation[1]).not.toBe(0)
  await expect(notice).toHaveCount(0)
  await other.page.context().close()
})

test('what one has reserved another is asked about, by drag and by key, may leave alone or take over, also when that one is away', async ({
  editor,
  browser,
}) => {
  const other = await adaAndBen(editor, browser)
  for (const each of [editor, other]) await each.look([2, 6, 9], [2, 0, 0])
  const [stall, stack] = [await editor.named('Stall'), await editor.named('Barrel stack')]
  await editor.pick('Stall')
  await editor.page.keyboard.press('Shift+R')
  await expect(editor.page.getByTestId('notice')).toContainText('Stall reserved for you')
  const row = other.page.locator('[role=treeitem]', { hasText: 'Stall' })
  await expect(row).toContainText('Ada has reserved this')
  const place = await other.page.evaluate(() => window.handyGrid!.project([0.2, 0.4, 0.2]))
  await other.page.mouse.move(place!.x, place!.y)
  await expect.poll(() => other.readout()).toContain('Ada has reserved this')

  // Dragged all the same: it is asked, and nothing is done as long as it is not answered, nor when it is left alone.
  const question = other.page.getByRole('dialog', { name: 'Somebody has reserved this' })
  const drag = async () => {
    const grip = await other.handle({ kind: 'axis', axis: 0 })
    await other.pressAndMove(grip, { x: grip.x + 90, y: grip.y })
    await other.page.mouse.up()
    await expect(question).toContainText('Ada has reserved Stall')
  }
  await other.pick('Stall')
  await drag()
  expect((await other.named('Stall')).translation).toEqual([0, 0, 0])
  await question.getByRole('button', { name: 'Leave it alone' }).click()
  await expect(question).toBeHidden()
  await other.page.keyboard.press('Delete')
  await expect(question).toBeVisible()
  await question.getByRole('button', { name: 'Leave it alone' }).click()
  await expect(question).toBeHidden()
  expect(await editor.done()).toEqual([])
  expect(await editor.row(stall.id)).toEqual(stall)

  // Taken over, it is done, and said to who had it; that one is asked from now on.
  await drag()
  await question.getByRole('button', { name: 'Take it over' }).click()
  await other.saved()
  const there = (await other.named('Stall')).translation
  expect(there[0]).toBeGreaterThan(0.5)
  expect((await editor.row(stall.id))!.translation).toEqual(there)
  await expect(editor.page.getByTestId('notice')).toContainText('Ben has taken over Stall')
  await expect.poll(async () => (await othersOf(editor))[0]?.reserved).toEqual([stall.id])
  await expect.poll(async () => (await othersOf(other))[0]?.reserved).toEqual([])
  await nudge(editor.page, 'Stall', 'Position X', '9')
  const asked = editor.page.getByRole('dialog', { name: 'Somebody has reserved this' })
  await expect(asked).toContainText('Ben has reserved Stall')
  await asked.getByRole('button', { name: 'Leave it alone' }).click()
  await expect(asked).toBeHidden()

  // What nobody has reserved is changed as ever.
  await nudge(editor.page, 'Barrel stack', 'Position X', '7')
  await editor.saved()
  expect((await editor.row(stack.id))!.translation[0]).toBe(7)

  // Who has left keeps it for a while, and has it again when they come back.
  await other.page.goto('about:blank')
  await expect.poll(() => othersOf(editor)).toEqual([])
  await expect(editor.page.locator('[role=treeitem]', { hasText: 'Stall' })).toContainText(
    'Ben, who has left, has reserved this',
  )
  await other.page.goto(`${editor.server.url}/levels/${editor.levelId}`)
  await other.ready()
  await expect.poll(async () => (await othersOf(editor))[0]?.reserved).toEqual([stall.id])
  await other.pick('Stall')
  await other.page.keyboard.press('Shift+R')
  await expect.poll(async () => (await othersOf(editor))[0]?.reserved).toEqual([])
  await nudge(editor.page, 'Stall', 'Position X', '9')
  await editor.saved()
  expect((await editor.row(stall.id))!.translation[0]).toBe(9)
  await other.page.context().close()
})
