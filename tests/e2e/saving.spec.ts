import { answered, expect, NOBODY_ANSWERS, nudge, test } from './support'

test('while the server is away changes queue, survive a reload and go out when it is back', async ({
  errors,
  page,
  server,
  editor,
}) => {
  errors.allow(NOBODY_ANSWERS)
  await editor.openGoods()
  await nudge(page, 'Stalls', 'Position Y', '0.1')
  await editor.saved()
  await server.end('SIGKILL')
  await nudge(page, 'Lanterns', 'Position Y', '0.2')
  await nudge(page, 'Square', 'Position Y', '0.3')
  await expect(editor.saveState()).toHaveText('The server is away · 2 changes kept on this device')
  // Not a reload: the browser would try the failed page again by itself, just when the server is back.
  await page.goto('about:blank')
  await server.start()
  await page.goto(`${server.url}/levels/${editor.levelId}`)
  await editor.ready()
  for (const [name, y] of [
    ['Stalls', 0.1],
    ['Lanterns', 0.2],
    ['Square', 0.3],
  ] as const) {
    const placement = await editor.named(name)
    expect(placement.translation[1]).toBe(y)
    expect(await editor.row(placement.id)).toEqual(placement)
  }
  expect(await editor.journal()).toEqual(['Position Y of Stalls', 'Position Y of Lanterns', 'Position Y of Square'])
})

test('when the server comes back, what waits goes out by itself, once', async ({ errors, page, server, editor }) => {
  errors.allow(NOBODY_ANSWERS)
  await editor.openGoods()
  await server.end('SIGKILL')
  await nudge(page, 'Goods', 'Position X', '7')
  await expect(editor.saveState()).toContainText('1 change kept on this device')
  await server.start()
  await expect(editor.saveState()).toHaveText('Saved · change 1', { timeout: 60_000 })
  expect(await editor.journal()).toEqual(['Position X of Goods'])
})

test('when two windows change the same thing, it is said what happened to whose change, and it can be done again', async ({
  errors,
  page,
  server,
  editor,
  context,
}) => {
  errors.allow(answered(409))
  // It does not hear what the other does: so it is both that change it.
  await page.routeWebSocket(/\/live$/, () => {})
  await editor.openGoods()
  const other = await context.newPage()
  await other.goto(`${server.url}/levels/${editor.levelId}`)
  await other.waitForFunction(() => window.handyGrid?.level() && document.querySelector('[data-test=stats]'))
  await nudge(other, 'Goods', 'Position X', '3')
  await other.evaluate(() => window.handyGrid!.saved())

  await nudge(page, 'Stalls', 'Position X', '1')
  await editor.saved()
  // Another thing: both are kept, and what the other window did shows here.
  expect((await editor.named('Goods')).translation[0]).toBe(3)
  await nudge(other, 'Goods', 'Position X', '4')
  await other.evaluate(() => window.handyGrid!.saved())
  await nudge(page, 'Goods', 'Position X', '5')
  const notice = page.getByTestId('notice')
  await expect(notice).toContainText('Your "Position X of Goods" was taken back')
  await expect(notice).toContainText('did "Position X of Goods" on the same thing first (change 3), which was kept.')
  expect((await editor.named('Goods')).translation[0]).toBe(4)
  await notice.getByRole('button', { name: 'Do mine again' }).click()
  await editor.saved()
  const goods = await editor.named('Goods')
  expect(goods.translation[0]).toBe(5)
  expect(await editor.row(goods.id)).toEqual(goods)
})

test('what cannot be is said in the field, and nothing changes', async ({ page, editor }) => {
  await editor.openGoods()
  const before = await editor.placements()
  for (const [field, text, message] of [
    ['Size X', '0', 'A size of 0 would flatten the shape'],
    ['Position X', '3 parsec', '“parsec” is not understood here'],
    ['Position X', '1 +', 'That sum is not complete'],
    ['Position X', '1/0', 'not a finite number'],
  ] as const) {
    await nudge(page, 'Goods', field, text)
    await expect(page.getByRole('alert')).toContainText(message)
    await page.keyboard.press('Escape')
    await expect(page.getByRole('alert')).toHaveCount(0)
  }
  expect(await editor.placements()).toEqual(before)
  expect(await editor.storedRevision()).toBe(0)
})
