import { AxeBuilder } from '@axe-core/playwright'
import type { Page } from '@playwright/test'
import { once } from 'node:events'
import { WebSocket } from 'ws'
import { LIVE_PATH } from '../../core/api/live'
import { dropFile, expect, test } from './support'

/** The form of a step: all around it has been looked at when nothing was picked. */
const FORM = '.bench'

/**
 * What the checker finds wrong with the page as it is. A menu stands in a layer over the page, which is rightly no
 * region of it. By night only the colours are asked for: the rest is the same.
 *
 * @param within a sheet that lies over the rest
 */
async function wrong(page: Page, within?: string): Promise<string[]> {
  const isOverlaid = (await page.locator('.v-overlay--active').count()) > 0
  const isNight = (await page.locator('.v-theme--night').count()) > 0
  const checker = within ? new AxeBuilder({ page }).include(within) : new AxeBuilder({ page })
  const { violations } = await (
    isNight ? checker.withRules(['color-contrast']) : checker.disableRules(isOverlaid ? ['region'] : [])
  ).analyze()
  return violations.map(
    violation =>
      `${violation.id}: ${violation.nodes
        .map(node => node.html)
        .join(' ')
        .slice(0, 400)}`,
  )
}

/** Opens something by its button, has it checked, and closes it again. */
async function check(page: Page, name: string, what = page.getByRole('button', { name, exact: true })): Promise<void> {
  await what.click()
  await expect(page.locator('.v-overlay--active')).not.toHaveCount(0)
  expect.soft(await wrong(page, '.v-overlay--active'), name).toEqual([])
  await page.keyboard.press('Escape')
  // What is said of a button goes when the pointer does.
  await page.mouse.move(1, 1)
  await expect(page.locator('.v-overlay--active')).toHaveCount(0)
}

/** Somebody who has a level open, without a page. */
async function somebodyElse(url: string, level: string): Promise<WebSocket> {
  const socket = new WebSocket(url.replace('http', 'ws') + LIVE_PATH.replace(':id', level))
  await once(socket, 'open')
  socket.send(JSON.stringify({ here: { name: 'Ada', mark: 3 } }))
  return socket
}

for (const board of ['day', 'night'] as const) {
  test(`both screens, every menu, dialog and form are accessible on the ${board} board`, async ({
    page,
    server,
    editor,
  }) => {
    test.setTimeout(600_000)
    await page.addInitScript(
      name => localStorage.setItem('handy-grid.settings', JSON.stringify({ board: name })),
      board,
    )
    await page.goto(server.url)
    await expect(page.getByRole('link', { name: 'Open Lantern Quay', exact: true })).toBeVisible()
    expect.soft(await wrong(page)).toEqual([])
    await check(page, 'More for Lantern Quay')
    await check(page, 'New level')

    await editor.open()
    expect.soft(await wrong(page), 'nothing picked').toEqual([])
    const guest = await somebodyElse(server.url, editor.levelId)
    await expect(page.getByTestId('people')).toHaveAttribute('aria-label', 'People: Ada')
    await check(page, 'people', page.getByTestId('people'))
    expect.soft(await wrong(page), 'somebody else is here').toEqual([])
    // Who has no name is asked for one as long as there is somebody to tell it to.
    await expect(page.getByTestId('notice')).toContainText('You are not alone here')
    guest.close()
    await expect(page.getByTestId('notice')).toHaveCount(0)
    // Menus have the colours of the bench, which are looked at by night as well.
    if (board === 'day')
      for (const menu of [
        'Night work',
        'List of changes',
        'Hand over',
        'How the roster is shown',
        'View',
        'Show',
        'Stations',
      ])
        await check(page, menu)
    if (board === 'day')
      for (const pill of ['Axes', 'Around', 'Grid', 'Turn', 'Size', 'Hug', 'Abut', 'Vertex'])
        await check(page, `${pill} menu`)

    await editor.rosterRow('Goods').locator('.twist').click()
    await editor.rosterRow('Goods').click()
    expect.soft(await wrong(page), 'a group picked').toEqual([])
    await check(page, 'Pivot menu')
    await check(page, 'More for what is picked')
    await editor.doMore('Reset turn')
    await expect(page.getByRole('heading', { name: 'Reset turn' })).toBeVisible()
    expect.soft(await wrong(page, '.v-overlay--active'), 'the question before baking').toEqual([])
    await page.keyboard.press('Escape')
    await page.keyboard.press('Control+Alt+p')
    await expect(page.getByRole('heading', { name: 'Save as a part' })).toBeVisible()
    expect.soft(await wrong(page, '.v-overlay--active'), 'saving a part').toEqual([])
    await page.keyboard.press('Escape')
    await page.keyboard.press('Control+Alt+s')
    expect.soft(await wrong(page, '[data-test=swap]'), 'swapping').toEqual([])
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: 'Hand over' }).click()
    await page.locator('[data-format=pdf]').click()
    await expect(page.getByTestId('plan-preview')).toBeVisible()
    expect.soft(await wrong(page, '.v-overlay--active'), 'a plan handed over').toEqual([])
    await page.keyboard.press('Escape')
    await dropFile(page, 'tests/samples/stools.csv')
    await expect(page.getByTestId('receive-told')).toBeVisible()
    expect.soft(await wrong(page, '.v-overlay--active'), 'a table brought in').toEqual([])
    await page.getByRole('button', { name: 'Cancel' }).click()
    await expect(page.getByTestId('receive')).toBeHidden()
    await check(page, 'Bring in')
    await page.getByRole('button', { name: 'Bring in' }).click()
    await page.getByText('A market sign').click()
    await expect(page.getByTestId('import-told')).toContainText('The validator finds nothing against it.')
    expect.soft(await wrong(page, '.v-overlay--active'), 'bringing in').toEqual([])
    await page.keyboard.press('Escape')
    await page.locator('[data-part="Railing 2 m"]').click({ button: 'right' })
    await page.getByText('Details').click()
    await expect(page.getByRole('list', { name: 'Where it is used' })).toBeVisible()
    expect.soft(await wrong(page, '.v-overlay--active'), 'the sheet of a part').toEqual([])
    await page.keyboard.press('Escape')
    await editor.rosterRow('Goods').click()
    await page.getByRole('button', { name: 'Find or do' }).click()
    await page.getByRole('combobox', { name: 'Find or do' }).fill('crate')
    await page.keyboard.press('ArrowDown')
    // The entry that Enter would take is the one a screen reader is told of.
    const active = await page.getByRole('combobox', { name: 'Find or do' }).getAttribute('aria-activedescendant')
    await expect(page.locator(`#${active}`)).toHaveAttribute('aria-selected', 'true')
    expect.soft(await wrong(page, '.v-overlay--active'), 'find or do').toEqual([])
    await page.getByRole('option', { name: /^Pick all \d+ found$/ }).click()
    await page.keyboard.press('F2')
    expect.soft(await wrong(page, '.v-overlay--active'), 'rename many').toEqual([])
    await page.keyboard.press('Escape')
    // While the sheet fades it would take the click.
    await expect(page.locator('.v-overlay__scrim')).toHaveCount(0)

    // At a point, and by its keys: down to the second thing, and taken.
    const box = (await page.getByTestId('stage').boundingBox())!
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2, { button: 'right' })
    const things = page.getByRole('menu', { name: 'Under the pointer' })
    await expect(things).toBeVisible()
    expect.soft(await wrong(page, '.v-overlay--active'), 'the things under the pointer').toEqual([])
    await page.keyboard.press('ArrowDown')
    await expect(things.getByRole('menuitem').first()).toBeFocused()
    await page.keyboard.press('ArrowDown')
    await expect(things.getByRole('menuitem').nth(1)).toBeFocused()
    await page.keyboard.press('Escape')
    await expect(things).toHaveCount(0)

    await editor.rosterRow('Crate 1').click()
    for (const step of ['Blocks', 'Line up', 'Repeat']) {
      await page.getByRole('button', { name: step, exact: true }).click()
      expect.soft(await wrong(page, FORM), step).toEqual([])
    }
    for (const kind of ['Once', 'Line', 'Grid', 'Ring', 'Fan', 'Mirror', 'Path']) {
      await page.getByRole('button', { name: kind, exact: true }).click()
      expect.soft(await wrong(page, FORM), kind).toEqual([])
    }
    await page.getByRole('button', { name: 'Measure', exact: true }).click()
    await page.getByRole('button', { name: 'Own axes' }).click()
    expect.soft(await wrong(page, FORM), 'measuring').toEqual([])
    await page.getByRole('button', { name: 'Check', exact: true }).click()
    await page.getByRole('button', { name: /^Planter that floats/ }).click()
    await page.getByRole('button', { name: 'Limits of Floating' }).click()
    await page.getByRole('button', { name: 'Set down', exact: true }).click()
    await expect(page.getByRole('group', { name: 'What would be mended' })).toBeVisible()
    expect.soft(await wrong(page, FORM), 'the check').toEqual([])
    await page.getByRole('button', { name: 'Do not mend', exact: true }).click()
    await page.getByRole('button', { name: 'Budgets' }).click()
    await expect(page.locator('.budgets canvas').first()).toBeVisible()
    expect.soft(await wrong(page, '.budgets'), 'budgets').toEqual([])
    await page.getByRole('button', { name: 'Close', exact: true }).click()
    await page.getByRole('button', { name: 'Cameras', exact: true }).first().click()
    await editor.rosterRow('Cameras and lights').locator('.twist').click()
    for (const [row, what] of [
      ['Over the market', 'a camera'],
      ['Light on the bandstand', 'a light'],
      ['Boats land here', 'a marker'],
    ] as const) {
      await editor.rosterRow(row).click()
      expect.soft(await wrong(page, FORM), what).toEqual([])
    }
    await page.getByRole('button', { name: 'Settle', exact: true }).click()
    expect.soft(await wrong(page, FORM), 'settling').toEqual([])
    await page.getByRole('button', { name: 'Scatter', exact: true }).click()
    expect.soft(await wrong(page, FORM), 'a new scatter').toEqual([])
    await check(page, 'Add from the kit …')
    await editor.rosterRow('Greenery').locator('.twist').click()
    await editor.rosterRow('Growth on the bank').click()
    await page.getByRole('button', { name: 'Details of Grass tuft' }).click()
    await expect(page.getByTestId('scatter-obtained')).toHaveAttribute('data-rough', 'false')
    // Away from the button, which says what it does while it is pointed at.
    await page.mouse.move(box.x + 20, box.y + box.height / 2)
    await expect(page.locator('.v-overlay__content:visible')).toHaveCount(0)
    expect.soft(await wrong(page, FORM), 'a scatter').toEqual([])
    await page.getByRole('button', { name: 'Charts …' }).click()
    await expect(page.locator('.charts canvas')).toBeVisible()
    expect.soft(await wrong(page, '.charts'), 'its charts').toEqual([])
  })
}

test('who is let in and what is talked about are accessible on both boards', async ({ page, server, editor }) => {
  const otherBoard = () => page.getByRole('button', { name: / board$/ }).click()
  await page.goto(`${server.url}/people`)
  await page.getByLabel('Name of the new person').fill('Ada')
  await page.getByRole('button', { name: 'Let in' }).click()
  await expect(page.getByTestId('key-link')).toBeVisible()
  expect.soft(await wrong(page, '.v-overlay--active'), 'a key').toEqual([])
  await page.getByRole('button', { name: 'Done' }).click()
  await page.locator('[data-person=Ada]').getByRole('button', { name: 'the same in all levels' }).click()
  await expect(page.getByRole('dialog')).toContainText('Lantern Quay')
  expect.soft(await wrong(page, '.v-overlay--active'), 'roles in single levels').toEqual([])
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toHaveCount(0)
  await check(page, 'who am I', page.getByTestId('who-am-i'))
  expect.soft(await wrong(page), 'people').toEqual([])
  await otherBoard()
  expect.soft(await wrong(page), 'people by night').toEqual([])
  await otherBoard()

  const at = { at: [0, 0, 0] as [number, number, number], on: null, point: [0, 0, 0] as [number, number, number] }
  const note = { text: 'Here?', by: 'Ada', when: '2026-11-01T10:00:00.000Z', done: false, at }
  await editor.openWith(
    [{ name: 'Stall', part: 'Crate' }],
    [{ do: 'put-thread', id: '00000001-0000-7000-8000-00000000abcd', fields: note }],
  )
  for (const board of ['day', 'night']) {
    await page.getByTestId('notes').click()
    await expect(page.getByTestId('notes-sheet')).toContainText('Here?')
    expect.soft(await wrong(page, '.v-overlay--active'), `notes by ${board}`).toEqual([])
    await page.getByTestId('notes-sheet').getByText('Here?').click()
    await page.getByTestId('notes-sheet').getByRole('button', { name: 'Answer' }).click()
    expect.soft(await wrong(page, '.v-overlay--active'), `an answer by ${board}`).toEqual([])
    expect.soft(await wrong(page), `notes on the stage by ${board}`).toEqual([])
    await page.getByTestId('notes').click()
    await expect(page.getByTestId('notes-sheet')).toHaveCount(0)
    await otherBoard()
  }
})

test('the way back, the handbook and the first steps are accessible on both boards', async ({
  page,
  server,
  editor,
}) => {
  const otherBoard = () => page.getByRole('button', { name: / board$/ }).click()
  /** On the board that is on, and on the other; by night the colours alone are asked for. */
  const onBoth = async (what: string, within?: string) => {
    await page.mouse.move(1, 1)
    expect.soft(await wrong(page, within), what).toEqual([])
    await otherBoard()
    await page.mouse.move(1, 1)
    expect.soft(await wrong(page, within), `${what} by night`).toEqual([])
    await otherBoard()
  }
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  await page.keyboard.press('Control+s')
  await page.getByLabel('Name of the milestone').fill('As it began')
  await page.keyboard.press('Enter')
  const milestones = page.getByTestId('milestones')
  await expect(milestones).toContainText('As it began')
  expect.soft(await wrong(page, '.v-overlay--active'), 'milestones').toEqual([])
  await milestones.getByRole('button', { name: 'Close', exact: true }).click()
  await expect(milestones).toBeHidden()

  await editor.pick('Crate')
  await page.getByLabel('Position X', { exact: true }).fill('2')
  await page.keyboard.press('Enter')
  await page.keyboard.press('Control+s')
  await milestones.getByRole('button', { name: 'Compare', exact: true }).first().click()
  await expect(page.getByTestId('compare').getByRole('heading', { level: 3 }).first()).toBeVisible()
  await onBoth('comparing', FORM)
  await page.getByTestId('compare').getByRole('button', { name: 'End comparing' }).click()

  await page.keyboard.press('Control+k')
  const keys = page.getByTestId('keys')
  await keys.getByRole('button', { name: 'View', exact: true }).click()
  await keys.getByRole('button', { name: 'Another key for Plan' }).click()
  await page.keyboard.press('l')
  await expect(keys.getByRole('alert')).toBeVisible()
  expect.soft(await wrong(page, '.v-overlay--active'), 'keys').toEqual([])
  await page.keyboard.press('Escape')
  await expect(keys).toBeHidden()

  await page.getByRole('button', { name: 'Handbook', exact: true }).click()
  const book = page.getByTestId('handbook')
  await book.getByRole('link', { name: 'What every number means' }).click()
  await expect(book.getByRole('heading', { level: 1 })).toHaveText('What every number means')
  await onBoth('the handbook', '[data-test=handbook]')
  await page.locator('.ledger').getByRole('button', { name: 'What is this?' }).click()
  await expect(page.getByTestId('what-is-this')).toBeVisible()
  expect.soft(await wrong(page, '.what-is-this'), 'what is this').toEqual([])
  await page.keyboard.press('Escape')

  await page.goto(server.url)
  await page.getByRole('button', { name: 'First steps' }).click()
  await expect(page.getByTestId('first-steps')).toBeVisible()
  editor.levelId = page.url().split('/').at(-1)!
  await editor.ready()
  await onBoth('an exercise', '[data-test=first-steps]')
})
