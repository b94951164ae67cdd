import { AxeBuilder } from '@axe-core/playwright'
import { readFileSync } from 'node:fs'
import type { Page } from '@playwright/test'
import { expect, test } from './support'

const wrong = async (page: Page) =>
  (await new AxeBuilder({ page }).analyze()).violations.map(({ id, nodes }) => `${id}: ${nodes[0]?.html.slice(0, 120)}`)

test('what is set is kept, changes what is shown and typed, and goes along as a file; a broken one changes nothing', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  const sheet = page.getByTestId('settings')
  const row = (name: string) => sheet.locator(`[data-setting="${name}"]`)
  const open = () => page.keyboard.press('Control+,')
  const done = async () => {
    await sheet.getByRole('button', { name: 'Done' }).click()
    await expect(page.locator('.v-overlay__scrim')).toHaveCount(0)
  }
  await open()
  await sheet.getByLabel('Look for a setting').fill('comma')
  await expect(sheet.locator('[data-setting]')).toHaveCount(1)
  await row('Decimals after').getByRole('button', { name: 'Comma 1,5' }).click()
  await sheet.getByLabel('Look for a setting').fill('')
  await row('Size of text').getByLabel('Size of text').fill('400')
  await page.keyboard.press('Enter')
  await expect(row('Size of text').getByRole('alert')).toContainText('at most 150')
  await row('Size of text').getByLabel('Size of text').fill('120')
  await page.keyboard.press('Enter')
  await done()

  // Both marks are understood; three digits behind the one that is not ours are said to be decimals.
  await editor.pick('Crate')
  const x = page.getByLabel('Position X', { exact: true })
  const taken = async (text: string) => {
    await x.fill(text)
    await page.keyboard.press('Enter')
    await editor.saved()
    return (await editor.rows())[0]!.translation[0]
  }
  expect(await taken('1,25')).toBe(1.25)
  await expect(x).toHaveValue('1,250')
  expect(await taken('1.500')).toBe(1.5)
  await expect(
    page.getByRole('status').filter({ hasText: 'Taken as 1,500. For 1500 leave the mark out.' }),
  ).toBeVisible()
  expect(await taken('0,75 + 1/4')).toBe(1)

  // Out, and in after a reload that keeps all; a broken file is refused with its line.
  await page.reload()
  await editor.ready()
  expect(await page.evaluate(() => getComputedStyle(document.documentElement).getPropertyValue('--scale'))).toBe('1.2')
  await open()
  const waits = page.waitForEvent('download')
  await sheet.getByRole('button', { name: 'As a file', exact: true }).click()
  const text = readFileSync(await (await waits).path(), 'utf8')
  expect(JSON.parse(text)).toMatchObject({ version: 2, settings: { textSize: 120, decimalMark: 'comma' } })
  const take = async (body: string) => {
    const chooser = page.waitForEvent('filechooser')
    await sheet.getByRole('button', { name: 'From a file …' }).click()
    await (await chooser).setFiles({ name: 'settings.json', mimeType: 'application/json', buffer: Buffer.from(body) })
  }
  await take(text.replace('"textSize": 120', '"textSize": 12'))
  await expect(sheet.getByRole('alert').first()).toContainText(
    /nothing was changed. “textSize” makes no sense. \(line \d+\)/,
  )
  await take(
    text.replace('"textSize": 120', '"textSize": 90').replaceAll('"benchSide": "left"', '"benchSide": "right"'),
  )
  await expect(sheet.getByRole('status').first()).toContainText('settings are as the file says')
  await sheet.getByRole('button', { name: 'Numbers: as it was at first' }).click()
  await expect(row('Decimals after').getByRole('button', { name: 'As here' })).toHaveAttribute('aria-pressed', 'true')
  await done()
  const [bench, stage] = [
    await page.getByRole('heading', { name: 'Kit', exact: true }).boundingBox(),
    await page.getByTestId('stage').boundingBox(),
  ]
  expect(bench!.x).toBeGreaterThan(stage!.x + stage!.width)
})

test('with height along Z letters, fields, handles, locks, the compass and tables follow, and what is kept stays', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [1, 0, 2] }])
  await editor.setGrid('0.5')
  await editor.look([1, 3, 9], [1, 0, 2])
  const before = await editor.named('Crate')
  await page.keyboard.press('Control+,')
  const sheet = page.getByTestId('settings')
  await sheet.locator('[data-setting="Height along"]').getByRole('button', { name: 'Z', exact: true }).click()
  await sheet.getByRole('button', { name: 'Done' }).click()
  await editor.saved()
  expect(await editor.row(before.id)).toEqual(before)

  // The fields stand in the order of their letters, and say and take what is written.
  await editor.pick('Crate')
  const position = page.locator('.ledger').getByRole('group', { name: 'Position', exact: true }).getByRole('textbox')
  const says = () => position.evaluateAll(all => all.map(each => (each as HTMLInputElement).value))
  expect(await position.evaluateAll(all => all.map(each => each.getAttribute('aria-label')))).toEqual([
    'Position X',
    'Position Y',
    'Position Z',
  ])
  expect(await says()).toEqual(['1.000', '-2.000', '0.000'])
  const type = async (field: string, text: string) => {
    await page.getByLabel(field, { exact: true }).fill(text)
    await page.keyboard.press('Enter')
    await editor.saved()
    return (await editor.row(before.id))!
  }
  expect((await type('Position Z', '1.5')).translation).toEqual([1, 1.5, 2])
  expect((await type('Position Y', '-= 0.5')).translation).toEqual([1, 1.5, 2.5])
  expect((await type('Position Y', '-3')).translation).toEqual([1, 1.5, 3])
  await page.getByLabel('Position Y', { exact: true }).press('ArrowUp')
  await editor.saved()
  expect((await editor.row(before.id))!.translation).toEqual([1, 1.5, 2.5])

  // What is dragged upwards is Z; its key locks to what is written so, and what is typed is meant so.
  const up = await editor.handle({ kind: 'axis', axis: 1 })
  await editor.pressAndMove(up, { x: up.x, y: up.y - 40 })
  expect(await editor.readout()).toContain('Move along Z')
  await page.keyboard.press('2')
  await page.mouse.move(up.x + 10, up.y - 30)
  expect(await editor.readout()).toContain('Move along Y')
  await page.keyboard.press('=')
  await page.getByLabel('Type Y').fill('2')
  await page.keyboard.press('Enter')
  await page.mouse.up()
  await editor.saved()
  expect((await editor.row(before.id))!.translation).toEqual([1, 1.5, 0.5])
  await type('Turn Z', '30')
  await type('Turn Y', '20')
  await type('Size Z', '2')
  const turned = (await editor.row(before.id))!
  expect(turned.scale).toEqual([1, 2, 1])
  const rose = page.getByRole('group', { name: /^Compass rose/ })
  await expect(rose.getByRole('button', { name: 'Look from −Y' })).toBeVisible()
  await rose.getByRole('button', { name: 'Look from −Y' }).click()
  await editor.drawn()
  expect((await editor.view()).eye[2]).toBeGreaterThan(2)

  // A table says the same numbers as the ledger.
  await page.getByRole('button', { name: 'Hand over', exact: true }).click()
  await page.locator('[data-format=table]').click()
  const coming = page.waitForEvent('download')
  await page.getByTestId('hand-over-make').click()
  const lines = readFileSync(await (await coming).path(), 'utf8').split(/\r?\n/)
  const head = lines.find(line => line.includes('rx'))!.split(',')
  const row = lines.find(line => line.includes('Crate'))!.split(',')
  const column = (name: string) => Number(row[head.indexOf(name)])
  await page.getByRole('button', { name: 'Close' }).click()
  const ledger = async (name: string) =>
    (
      await page
        .locator('.ledger')
        .getByRole('group', { name, exact: true })
        .getByRole('textbox')
        .evaluateAll(all => all.map(each => Number((each as HTMLInputElement).value)))
    ).map(each => expect.closeTo(each, 2))
  expect(['x', 'y', 'z'].map(column)).toEqual(await ledger('Position'))
  expect(['rx', 'ry', 'rz'].map(column)).toEqual(await ledger('Turn'))
  expect(['sx', 'sy', 'sz'].map(column)).toEqual(await ledger('Size'))
})

test('nothing is wrong for assistive technology with panels on other sides, more contrast and other sizes of text', async ({
  page,
  editor,
}) => {
  test.slow()
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  await editor.pick('Crate')
  for (const some of [
    { board: 'day', contrast: 'more', textSize: 150, benchSide: 'right', rosterSide: 'left' },
    { board: 'night', contrast: 'more', textSize: 80, railSide: 'above', ledgerSide: 'above' },
    { board: 'night', contrast: 'ordinary', textSize: 150 },
  ]) {
    await page.evaluate(given => {
      const kept = JSON.parse(localStorage.getItem('handy-grid.settings') ?? '{}') as object
      localStorage.setItem('handy-grid.settings', JSON.stringify({ ...kept, ...given }))
    }, some)
    await page.reload()
    await editor.ready()
    await editor.pick('Crate')
    expect.soft(await wrong(page), JSON.stringify(some)).toEqual([])
  }
})
