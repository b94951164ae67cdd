// What each picture shows: a function that brings a fresh page there, with the demo's level.

async function openEditor(page, url, board = 'day') {
  await page.addInitScript(name => localStorage.setItem('handy-grid.settings', JSON.stringify({ board: name, author: 'Guest 1001' })), board)
  await page.goto(url)
  await page.getByRole('link', { name: 'Open Lantern Quay' }).click()
  await page.waitForFunction(() => globalThis.handyGrid?.level() && document.querySelector('[data-test=stats]'), null, { timeout: 90_000 })
  await page.waitForFunction(() => document.querySelectorAll('.card img').length > 15)
  await settle(page)
}

async function settle(page) {
  await page.evaluate(() => globalThis.handyGrid.drawn())
  await page.waitForTimeout(600)
  await page.evaluate(() => globalThis.handyGrid.drawn())
}

const look = (page, eye, target) => page.evaluate(([from, to]) => globalThis.handyGrid.lookFrom(from, to), [eye, target])
const row = (page, name) => page.locator('[role=treeitem]', { hasText: name }).first()

async function pick(page, group, name) {
  await row(page, group).locator('.twist').click()
  await row(page, name).click()
}

export const scenes = {
  // First, so that the list shows it.
  'demo-picture': async (page, url) => {
    await openEditor(page, url)
    await look(page, [8.5, 9, 15.5], [-0.5, 0, -1.8])
    await settle(page)
    const address = await page.evaluate(() => globalThis.handyGrid.picture(640, 400))
    return { file: 'demo/lantern-quay.webp', data: address.split(',')[1] }
  },
  'levels': async (page, url) => {
    await page.goto(url)
    await page.getByRole('link', { name: 'Open Lantern Quay' }).waitFor()
    await page.waitForFunction(() => document.querySelector('img')?.complete)
  },
  'editor-day': async (page, url) => {
    await openEditor(page, url)
    await look(page, [7.5, 8.2, 13.5], [-0.4, 0.2, -2])
    await pick(page, 'Goods', 'Crate 1')
    await settle(page)
  },
  'editor-night': async (page, url) => {
    await openEditor(page, url, 'night')
    await look(page, [-7.5, 5.2, 8.5], [0.5, 0.6, -2])
    await pick(page, 'Stalls', 'Tea stall')
    await settle(page)
  },
  'dragging': async (page, url) => {
    await openEditor(page, url)
    await look(page, [2.5, 4.2, 4.5], [-3.2, 0.4, -2.6])
    await pick(page, 'Goods', 'Crate 2')
    await settle(page)
    const peg = await page.evaluate(() => globalThis.handyGrid.handle({ kind: 'axis', axis: 0 }))
    await page.mouse.move(peg.x, peg.y)
    await page.mouse.down()
    await page.mouse.move(peg.x + 60, peg.y + 14, { steps: 4 })
    await page.mouse.move(peg.x + 120, peg.y + 26, { steps: 4 })
    await settle(page)
  },
  'four-panes': async (page, url) => {
    await openEditor(page, url)
    await look(page, [6.5, 6.2, 10.5], [-1, 0.4, -2])
    await pick(page, 'Goods', 'Crate 3')
    const box = await page.locator('[data-test=stage]').boundingBox()
    await page.mouse.move(box.x + 200, box.y + 250)
    await page.keyboard.press('5')
    await settle(page)
  },
  'frame-picking': async (page, url) => {
    await openEditor(page, url)
    await look(page, [6.5, 7.2, 11.5], [-0.8, 0.2, -1.6])
    await settle(page)
    const [from, to] = await page.evaluate(() => [globalThis.handyGrid.project([-6.5, 2.2, -3.5]), globalThis.handyGrid.project([3.6, 0, 0.6])])
    await page.mouse.move(from.x, from.y)
    await page.mouse.down()
    await page.mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2, { steps: 4 })
    await page.mouse.move(to.x, to.y, { steps: 4 })
    await settle(page)
  },
  'find-or-do': async (page, url) => {
    await openEditor(page, url)
    await page.locator('[data-test=stage]').hover()
    await page.keyboard.press('/')
    await page.getByRole('combobox', { name: 'Find or do' }).fill('lan')
    await settle(page)
  },
}
