import type { Editor } from './support'
import { expect, nudge, test } from './support'

// What got in a designer's way once without anybody being told.

const crates = (...names: string[]) =>
  names.map((name, i) => ({ name, part: 'Crate', translation: [i * 3, 0, 0] as [number, number, number] }))
/** Told by a page to the server's log. */
const told = (editor: Editor) => editor.page.waitForResponse(response => response.url().endsWith('/api/page-errors'))

test('an error that nobody expected is told to the person, the log and the tests, and the level goes on', async ({
  page,
  editor,
  errors,
}) => {
  errors.allow(/put in on purpose/)
  await editor.openWith(crates('Crate 1'))
  for (const [how, throws] of [
    [
      'an event',
      () =>
        void setTimeout(() => {
          throw new TypeError('put in on purpose: one')
        }),
    ],
    ['a promise', () => void Promise.reject(new Error('put in on purpose: two'))],
    [
      'the console, where watchers outside of components end',
      () => console.error(new RangeError('put in on purpose: three')),
    ],
  ] as const) {
    const answer = told(editor)
    await page.evaluate(throws)
    await expect(page.getByTestId('error-notice'), how).toContainText('Something went wrong here; your work is kept')
    expect((await answer).status(), how).toBe(204)
    // Nothing of what somebody works on leaves with it.
    expect((await answer).request().postData()).not.toContain('Crate 1')
    await page.getByTestId('error-notice').getByRole('button', { name: 'Close' }).click()
  }
  await nudge(page, 'Crate 1', 'Position X', '2')
  await editor.saved()
  expect((await editor.row((await editor.named('Crate 1')).id))!.translation[0]).toBe(2)
  expect(errors.seen).toEqual([])
})

test('what is picked on the stage is seen in the roster, also in groups that were closed', async ({ page, editor }) => {
  await editor.openWith(crates('Crate 1', 'Crate 2'))
  await editor.look([1.5, 4, 9], [1.5, 0.5, 0])
  await editor.pick('Crate 1', 'Crate 2')
  await page.keyboard.press('Control+g')
  await editor.saved()
  await page.keyboard.press('Escape')
  // Closed by its arrow, if it stands open.
  const twist = editor.rosterRow('Group').locator('.twist')
  if ((await page.getByRole('treeitem').filter({ hasText: 'Crate 2' }).count()) > 0) await twist.click()
  await expect(page.getByRole('treeitem').filter({ hasText: 'Crate 2' })).toHaveCount(0)
  const spot = await editor.at([3, 0.4, 0.4])
  await page.mouse.click(spot.x, spot.y)
  expect(await editor.pickedNames()).toEqual(['Group 1'])
  await page.mouse.click(spot.x, spot.y)
  expect(await editor.pickedNames()).toEqual(['Crate 2'])
  await expect(page.getByRole('treeitem').filter({ hasText: 'Crate 2' })).toBeVisible()
})

test('a pan with the middle button pastes nothing, whatever was marked last; the key pastes', async ({
  page,
  editor,
}) => {
  await editor.openWith(crates('Crate 1'))
  await editor.look([0, 4, 9], [0, 0.5, 0])
  await editor.pick('Crate 1')
  await page.mouse.move(600, 400)
  // As the system does on some machines when the middle button is let go.
  const paste = (text: string) =>
    page.evaluate(said => {
      const data = new DataTransfer()
      data.setData('text/plain', said)
      document.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))
    }, text)
  const copied = await page.evaluate(() => {
    const data = new DataTransfer()
    document.dispatchEvent(new ClipboardEvent('copy', { clipboardData: data, bubbles: true, cancelable: true }))
    return data.getData('text/plain')
  })
  expect(copied).toContain('Crate 1')
  const before = (await editor.view()).target
  await page.mouse.down({ button: 'middle' })
  await page.mouse.move(680, 440, { steps: 4 })
  await page.mouse.up({ button: 'middle' })
  await paste(copied)
  await paste('nothing of ours')
  expect((await editor.view()).target).not.toEqual(before)
  await expect(page.getByTestId('notice')).toHaveCount(0)
  expect(await editor.done()).toEqual([])
  await page.keyboard.press('Control+c')
  await page.keyboard.down('Control')
  await paste(copied)
  await page.keyboard.up('Control')
  await expect.poll(async () => (await editor.placements()).length).toBe(2)
  await editor.saved()
  expect(await editor.rows()).toHaveLength(2)
})

test('a second crate clicked onto the side of the first stands beside it, or hangs where it was pointed at', async ({
  page,
  editor,
}) => {
  await editor.openWith(crates('Crate 1'))
  await editor.look([4, 2, 4], [0.4, 0.4, 0])
  await page.locator('[data-part="Crate"]').click()
  const side = await editor.at([0.4, 0.5, 0])
  await page.mouse.move(side.x, side.y, { steps: 2 })
  await expect.poll(() => editor.readout()).toContain('stands on the ground plane, against Crate 1')
  await page.mouse.click(side.x, side.y)
  await editor.choose('On walls', 'hang there')
  const other = await editor.at([0.15, 0.5, 0.4])
  await page.mouse.move(other.x, other.y, { steps: 2 })
  await expect.poll(() => editor.readout()).toContain('hangs on Crate 1')
  await page.mouse.click(other.x, other.y)
  await page.keyboard.press('Escape')
  await editor.saved()
  const [, stood, hung] = await editor.rows()
  expect(stood!.translation).toEqual([expect.closeTo(0.8, 2), 0, expect.closeTo(0, 1)])
  expect([hung!.translation[1], hung!.translation[2]]).toEqual([expect.closeTo(0.5, 1), expect.closeTo(0.8, 2)])
})

test('the stage gives way while it moves, and is whole again when it rests; the strip takes its pictures then', async ({
  page,
  editor,
}) => {
  await editor.open()
  // Scatters come last, and change what cameras see.
  await expect(page.getByTestId('stats')).toContainText('1,296 copies', { timeout: 60_000 })
  await page.evaluate(() => window.handyGrid!.rested())
  await page.getByTestId('stage').hover()
  await page.keyboard.press('o')
  const shots = page.getByRole('region', { name: 'Picture strip' }).getByRole('img')
  await expect(shots).toHaveCount(6, { timeout: 60_000 })
  const first = await shots.evaluateAll(all => all.map(each => (each as HTMLImageElement).src))
  // An orbit changes no camera: no picture is taken again, and the view has turned.
  const before = (await editor.view()).eye
  await page.keyboard.down('Alt')
  await page.mouse.move(600, 300)
  await page.mouse.down()
  await page.mouse.move(760, 320, { steps: 12 })
  await page.mouse.up()
  await page.keyboard.up('Alt')
  await page.evaluate(() => window.handyGrid!.rested())
  expect((await editor.view()).eye).not.toEqual(before)
  expect(await shots.evaluateAll(all => all.map(each => (each as HTMLImageElement).src))).toEqual(first)
  // The number says how long frames take, not how many were asked for.
  const stats = await page.getByTestId('stats').innerText()
  expect(Number(/(\d+) fps/.exec(stats)![1])).toBeGreaterThan(0)
})
