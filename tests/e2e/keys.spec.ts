import { readFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import type { Placement } from '../../core/level/schema'
import type { Editor } from './support'
import { expect, test } from './support'

/** A key of a keyboard that writes something else in that place, as the browser's protocol tells it. */
async function pressPlace(page: Page, code: string, key: string): Promise<void> {
  const session = await page.context().newCDPSession(page)
  const modifiers = 2
  for (const type of ['rawKeyDown', 'keyUp'] as const)
    await session.send('Input.dispatchKeyEvent', {
      type,
      code,
      key,
      modifiers,
      windowsVirtualKeyCode: key.toUpperCase().charCodeAt(0),
    })
  await session.detach()
}

const crate = async (editor: Editor): Promise<Placement> => (await editor.rows()).find(({ name }) => name === 'Crate')!

test('any key can be another: one that is taken is swapped, the stage follows, and all is there after a reload', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  const sheet = page.getByTestId('keys')
  const row = (name: string) => sheet.locator(`[data-use="${name}"]`)
  const find = async (text: string) => sheet.getByLabel('Look for an action').fill(text)
  const give = async (name: string, key: string) => {
    await find(name)
    await row(name)
      .getByRole('button', { name: `Another key for ${name}` })
      .click()
    await expect(row(name)).toContainText('Press a key')
    await page.keyboard.press(key)
  }
  await page.keyboard.press('Control+k')
  // What has a key already is named, and swapped: Undo by G, and Set down by Ctrl Z.
  await give('Undo', 'g')
  await expect(row('Undo').getByRole('alert')).toContainText('G does “Set down” already.')
  await row('Undo').getByRole('button', { name: 'Swap them' }).click()
  await expect(row('Undo')).toContainText('G')
  await find('Set down')
  await expect(row('Set down')).toContainText('Ctrl Z')
  // What the browser keeps is said to be so, and not taken.
  await give('Redo', 'Control+t')
  await expect(row('Redo').getByRole('alert')).toContainText('The browser keeps Ctrl T for itself')
  await row('Redo').getByRole('button', { name: 'Leave it' }).click()
  await expect(row('Redo').getByRole('alert')).toHaveCount(0)
  // A second key, and one for the stage.
  await give('Look at everything', 'F9')
  await give('Lock to X', 'y')
  await find('')
  await sheet.getByRole('button', { name: 'By key' }).click()
  await page.keyboard.press('F9')
  await expect(sheet.locator('[data-use]')).toHaveCount(1)
  await expect(sheet.locator('[data-use]')).toContainText('Look at everything')
  await sheet.getByRole('button', { name: 'Done' }).click()
  await expect(sheet).toBeHidden()

  // On the stage: along X alone by the new key, wherever the pointer goes.
  await editor.pick('Crate')
  await editor.look([0, 9, 5], [0, 0, 0])
  await page.keyboard.press('y')
  const [from, to] = [await editor.at([0, 0.4, 0]), await editor.at([2, 0.4, 1.5])]
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  await page.mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2, { steps: 4 })
  await page.mouse.move(to.x, to.y, { steps: 4 })
  await page.mouse.up()
  await expect.poll(async () => (await crate(editor)).translation[0]).toBeGreaterThan(1)
  const moved = (await crate(editor)).translation
  expect([moved[1], moved[2]]).toEqual([0, 0])
  // Ctrl Z is not undo any more, G is; buttons and the handbook say so.
  await page.getByRole('button', { name: 'Undo', exact: true }).hover()
  await expect(page.getByRole('tooltip').filter({ hasText: 'Undo' })).toContainText('G')
  await page.mouse.move(1, 1)
  await page.keyboard.press('g')
  await expect.poll(async () => (await crate(editor)).translation).toEqual([0, 0, 0])
  await page.keyboard.press('F1')
  const book = page.getByTestId('handbook')
  await book.getByRole('link', { name: 'Moving exactly' }).first().click()
  await expect(book.getByRole('row', { name: 'Undo G', exact: true })).toBeVisible()
  await page.keyboard.press('F1')

  await page.reload()
  await editor.ready()
  await page.keyboard.press('Control+k')
  await find('Undo')
  await expect(row('Undo')).toContainText('G')
  await row('Undo').getByRole('button', { name: 'Ours again for Undo' }).click()
  // Ours is what Set down has now: both are named.
  await expect(row('Undo')).toContainText('has a key that does something else too')
  await sheet.getByRole('button', { name: 'Ours again, all' }).click()
  await expect(row('Undo')).not.toContainText('something else too')
  await expect(row('Undo')).toContainText('Ctrl Z')
})

test('keys are taken along as a file, mean letters or places, and are printed', async ({ page, editor }) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  const sheet = page.getByTestId('keys')
  const isUndone = async () => (await crate(editor)).translation[0] === 0
  const move = async () => {
    await editor.pick('Crate')
    await page.getByLabel('Position X', { exact: true }).fill('3')
    await page.keyboard.press('Enter')
    await expect.poll(async () => (await crate(editor)).translation[0]).toBe(3)
    await page.getByRole('button', { name: 'Pick', exact: true }).focus()
  }
  // A French keyboard has Z where W is on an English one: the letter is meant.
  await move()
  await pressPlace(page, 'KeyW', 'z')
  await expect.poll(isUndone).toBe(true)
  // By place it is the other way round.
  await page.keyboard.press('Control+k')
  await sheet.getByRole('button', { name: 'by where they lie' }).click()
  await sheet.getByRole('button', { name: 'Done' }).click()
  await expect(sheet).toBeHidden()
  await move()
  await pressPlace(page, 'KeyW', 'z')
  await pressPlace(page, 'KeyZ', 'w')
  await expect.poll(isUndone).toBe(true)

  // Out, and in again after all was changed.
  await page.keyboard.press('Control+k')
  const download = page.waitForEvent('download')
  await sheet.getByRole('button', { name: 'As a file', exact: true }).click()
  const path = (await (await download).path())!
  expect(JSON.parse(readFileSync(path, 'utf8'))).toEqual({
    format: 'handy-grid keys',
    version: 1,
    by: 'place',
    keys: {},
  })
  const takeFile = async (text: string) => {
    const chooser = page.waitForEvent('filechooser')
    await sheet.getByRole('button', { name: 'From a file …' }).click()
    await (await chooser).setFiles({ name: 'keys.json', mimeType: 'application/json', buffer: Buffer.from(text) })
  }
  await takeFile('{\n "format": "handy-grid keys",\n oops }')
  await expect(sheet.getByRole('alert')).toContainText('line 3')
  await expect(sheet.getByRole('button', { name: 'by where they lie' })).toHaveAttribute('aria-pressed', 'true')
  await takeFile(
    JSON.stringify({
      format: 'handy-grid keys',
      version: 1,
      by: 'letter',
      keys: { 'Undo': ['F8'], 'Find or do': ['g'], 'Fly to the moon': ['m'] },
    }),
  )
  await expect(sheet.getByRole('status')).toContainText(
    '2 are set by the file. Nothing here is called Fly to the moon.',
  )
  // What clashes by it is listed, with both names.
  await expect(sheet.locator('[data-use="Find or do"]')).toBeVisible()
  await expect(sheet.locator('[data-use="Set down"]')).toBeVisible()
  await expect(sheet.locator('[data-use]')).toHaveCount(2)
  await sheet.getByRole('button', { name: 'Print' }).click()
  const paper = page.frameLocator('iframe[title="Keys, to print"]')
  await expect(paper.locator('p', { hasText: 'Undo' }).first()).toContainText('F8')
  await sheet.getByRole('button', { name: 'Done' }).click()
  await move()
  await page.keyboard.press('F8')
  await expect.poll(isUndone).toBe(true)
})

test('the view is steered by the device one has: a trackpad pans by two fingers, and another button orbits', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  await editor.look([0, 4, 8], [0, 0, 0])
  const sheet = page.getByTestId('pointing')
  const open = async () => {
    await page.keyboard.press('/')
    await page.getByRole('combobox', { name: 'Find or do' }).fill('trackpad')
    await page.getByRole('option', { name: 'Pointing device …' }).click()
    await expect(sheet).toBeVisible()
  }
  const close = async () => {
    await sheet.getByRole('button', { name: 'Done' }).click()
    await expect(sheet).toBeHidden()
  }
  const away = async () => {
    const { eye, target } = await editor.view()
    return Math.hypot(...eye.map((value, axis) => value - target[axis]!))
  }
  await open()
  await editor.choose('Begin with', 'trackpad')
  // Another button for Orbit; the plain left one is for picking, and stays so.
  const orbit = sheet.locator('[data-gesture=orbit]')
  await orbit.getByRole('button', { name: 'Another button for Orbit' }).click()
  const field = sheet.getByTestId('press-here')
  await field.click()
  await expect(sheet.getByRole('alert')).toContainText('The left button picks and drags')
  await field.click({ button: 'middle' })
  await expect(orbit).toContainText('middle button')
  await expect(sheet.getByRole('alert')).toHaveCount(0)
  await close()

  const at = await editor.at([0, 0.4, 0])
  await page.mouse.move(at.x + 60, at.y + 40)
  const [before, distance] = [await editor.view(), await away()]
  await page.mouse.wheel(120, 0)
  await expect.poll(async () => (await editor.view()).target[0] - before.target[0]).toBeGreaterThan(0.3)
  expect(await away()).toBeCloseTo(distance, 6)
  await page.keyboard.down('Control')
  await page.mouse.wheel(0, -40)
  await page.keyboard.up('Control')
  await expect.poll(away).toBeLessThan(distance - 0.5)
  // By the button that was given: round what is under it, no nearer and no farther.
  const [height, near] = [(await editor.view()).eye[1], await away()]
  await page.mouse.down({ button: 'middle' })
  await page.mouse.move(at.x + 60, at.y - 40, { steps: 4 })
  await page.mouse.up({ button: 'middle' })
  await expect.poll(async () => Math.abs((await editor.view()).eye[1] - height)).toBeGreaterThan(0.3)
  expect(await away()).toBeCloseTo(near, 3)
  await editor.look([0, 4, 8], [0, 0, 0])
  const crate = await editor.at([0, 0.4, 0.4])
  await page.mouse.click(crate.x, crate.y)
  expect(await editor.pickedNames()).toEqual(['Crate'])

  await page.reload()
  await editor.ready()
  await open()
  await expect(orbit).toContainText('middle button')
  await expect(sheet).toContainText('as set below')
})
