// What each picture shows: a function that brings a fresh page there, with the demo's level.

async function openEditor(page, url, board = 'day', settings = {}) {
  await page.addInitScript(given => localStorage.setItem('handy-grid.settings', JSON.stringify(given)), {
    board,
    author: 'Guest 1001',
    ...settings,
  })
  await page.goto(url)
  await page.getByRole('link', { name: 'Open Lantern Quay' }).click()
  await page.waitForFunction(() => globalThis.handyGrid?.level() && document.querySelector('[data-test=stats]'), null, {
    timeout: 90_000,
  })
  if ((settings.bench ?? 'kit') === 'kit')
    await page.waitForFunction(() => document.querySelectorAll('.card img').length > 15)
  await settle(page)
}

async function settle(page) {
  await page.evaluate(() => globalThis.handyGrid.drawn())
  await page.waitForTimeout(600)
  await page.evaluate(() => globalThis.handyGrid.drawn())
}

const project = (page, point) => page.evaluate(at => globalThis.handyGrid.project(at), point)
const grip = (page, handle) => page.evaluate(which => globalThis.handyGrid.handle(which), handle)

/** Presses at one point of the screen and moves to the next ones; the button stays down. */
async function hold(page, from, ...to) {
  await page.mouse.move(from.x, from.y)
  await page.mouse.down()
  for (const point of to) await page.mouse.move(point.x, point.y, { steps: 4 })
  await settle(page)
}

const look = (page, eye, target) =>
  page.evaluate(([from, to]) => globalThis.handyGrid.lookFrom(from, to), [eye, target])
const row = (page, name) => page.locator('[role=treeitem]', { hasText: name }).first()

async function pick(page, group, name) {
  await row(page, group).locator('.twist').click()
  await row(page, name).click()
}

async function openArrangement(page, url, name) {
  await openEditor(page, url, 'day', { bench: 'repeat' })
  await pick(page, 'Round landing', name)
}

async function openScatter(page, url) {
  await openEditor(page, url, 'day', { bench: 'scatter' })
  await pick(page, 'Greenery', 'Growth on the bank')
  await look(page, [2, 7, -3.5], [1, 0.6, -12])
  await page.locator('[data-test=scatter-obtained][data-rough=false]').waitFor()
  await settle(page)
}

/** A small picture of a starting point, from where all of it is seen, for whoever begins a level. */
const beginning = (name, eye, target) => async (page, url) => {
  const made = await fetch(`${url}/api/levels`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name, from: name }),
  })
  const { id } = await made.json()
  await page.goto(`${url}/levels/${id}`)
  await page.waitForFunction(() => globalThis.handyGrid?.level() && document.querySelector('[data-test=stats]'), null, {
    timeout: 90_000,
  })
  await look(page, eye, target)
  await settle(page)
  const address = await page.evaluate(() => globalThis.handyGrid.picture(240, 150))
  await fetch(`${url}/api/levels/${id}`, { method: 'DELETE' })
  return { file: `demo/starting-points/${name}.webp`, data: address.split(',')[1] }
}

export const scenes = {
  'bridge-square': beginning('bridge-square', [16, 13, 20], [0, 0, 0]),
  'warehouse-passage': beginning('warehouse-passage', [9, 9, 16], [0, 1, 0]),
  'reed-bank': beginning('reed-bank', [9, 8, 14], [0, 0, 0]),
  'boathouse-yard': beginning('boathouse-yard', [10, 10, 16], [0, 0, 0]),
  // First, so that the list shows it.
  'demo-picture': async (page, url) => {
    await openEditor(page, url)
    await look(page, [8.5, 9, 15.5], [-0.5, 0, -1.8])
    await settle(page)
    const address = await page.evaluate(() => globalThis.handyGrid.picture(640, 400))
    return { file: 'demo/lantern-quay.webp', data: address.split(',')[1] }
  },
  'levels': async (page, url) => {
    const ask = async (path, method, body) =>
      (
        await fetch(url + path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
      ).json()
    const { levels } = await (await fetch(`${url}/api/levels`)).json()
    const { id } = levels.find(({ name }) => name === 'Lantern Quay')
    for (const name of ['Two bridges', 'Without the bandstand'])
      await ask('/api/levels', 'POST', { name, from: id, variant: true })
    await ask(`/api/levels/${id}`, 'PATCH', { tags: ['night', 'water'] })
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
  'blocks': async (page, url) => {
    await openEditor(page, url)
    await page.getByRole('button', { name: 'Blocks', exact: true }).click()
    await row(page, 'Ferry kiosk').locator('.twist').click()
    await row(page, 'Kiosk steps').click()
    await look(page, [12.6, 3.4, 8.2], [8.6, 0.7, 12.9])
    await page.locator('[data-value=tube]').click()
    await settle(page)
    await hold(page, await project(page, [9.5, 0.32, 12.25]), await project(page, [9.75, 0.32, 12.25]))
    await page.mouse.up()
    const up = await project(page, [9.5, 1.1, 12.25])
    await page.mouse.move(up.x, up.y, { steps: 4 })
    await settle(page)
  },
  'repeat-path': async (page, url) => {
    await openArrangement(page, url, 'Railings on the curve')
    await look(page, [-21.5, 6.4, 13.4], [-18.4, -0.4, 2.4])
    const middle = await grip(page, { do: 'grip', index: 3 })
    await hold(page, middle, { x: middle.x - 20, y: middle.y - 40 })
  },
  'check': async (page, url) => {
    await openEditor(page, url, 'day', { bench: 'check' })
    await page.getByRole('button', { name: /^Planter that floats/ }).click()
    await page.waitForTimeout(800)
    await page.getByRole('button', { name: 'Set down', exact: true }).click()
    await page.getByText('would be mended').waitFor()
    await settle(page)
  },
  'two-people': async (page, url) => {
    const there = await (await page.context().browser().newContext({ reducedMotion: 'reduce' })).newPage()
    await Promise.all([
      openEditor(page, url, 'day', { author: 'Ada', isNamed: true }),
      openEditor(there, url, 'day', { author: 'Ben', isNamed: true }),
    ])
    await look(there, [4, 3.5, 6], [-3, 0.5, -2])
    await pick(there, 'Goods', 'Crate')
    const from = await grip(there, { do: 'move', kind: 'axis', axis: 0 })
    await hold(there, from, { x: from.x + 60, y: from.y - 10 })
    await page.locator('[data-test=people]').click()
    await page.waitForFunction(() => globalThis.handyGrid.others()[0]?.dragging.length > 0)
    await settle(page)
  },
  'hand-over': async (page, url) => {
    await openEditor(page, url)
    await page.getByRole('button', { name: 'Hand over' }).click()
    await page.locator('[data-format=pdf]').click()
    await page.locator('[data-test=plan-preview]').waitFor()
    await page.waitForTimeout(1000)
  },
  'edit-part': async (page, url) => {
    await openEditor(page, url, 'day', { bench: 'kit' })
    await pick(page, 'Stalls', 'Fruit stall')
    await page.keyboard.press('Control+Alt+p')
    await page.getByLabel('Name of the part').fill('Fruit stall')
    await page.getByRole('button', { name: 'Save', exact: true }).click()
    await page.getByRole('dialog').waitFor({ state: 'hidden' })
    await look(page, [-3.5, 5.2, 4.5], [-6, 0.8, -3])
    await page.keyboard.press('Control+Alt+e')
    await page.locator('[data-test=workshop]').waitFor()
    await page.waitForFunction(
      () => window.handyGrid?.level()?.placements.length === 3 && document.querySelector('[data-test=stats]'),
    )
    await settle(page)
    await pick(page, 'Fruit stall', 'Fruit stall: awning')
    await settle(page)
  },
  'exercise': async (page, url) => {
    await page.goto(url)
    await page.getByRole('button', { name: 'First steps' }).click()
    await page.waitForFunction(
      () => globalThis.handyGrid?.level() && document.querySelector('[data-test=first-steps]'),
      null,
      { timeout: 90_000 },
    )
    await page.getByRole('button', { name: '1 of 16' }).click()
    await page.getByRole('menuitem', { name: 'Move along one axis' }).click()
    await look(page, [-1, 5, 11], [-3, 0, 1])
    await page.waitForTimeout(1500)
    const crate = await project(page, [-6, 0.4, 2])
    await page.mouse.move(crate.x - 3, crate.y)
    await page.mouse.move(crate.x, crate.y)
    await page.mouse.click(crate.x, crate.y)
    await settle(page)
    const peg = await grip(page, { do: 'move', kind: 'axis', axis: 0 })
    const [from, to] = [await project(page, [-6, 0, 2]), await project(page, [-4, 0, 2])]
    await hold(page, peg, { x: peg.x + to.x - from.x, y: peg.y + to.y - from.y })
  },
  'handbook': async (page, url) => {
    await openEditor(page, url, 'day', { bench: 'kit' })
    await look(page, [2, 4, 8], [0, 0.6, -3])
    await page.keyboard.press('F1')
    await page.locator('[data-test=handbook] [data-page=turning-and-pivots]').first().click()
    await page.locator('[data-test=handbook] img').first().waitFor()
    await page.waitForTimeout(800)
    await settle(page)
  },
  'compare': async (page, url) => {
    await openEditor(page, url, 'day', { bench: 'kit', author: 'Mara', isNamed: true })
    await page.keyboard.press('Control+s')
    await page.getByLabel('Name of the milestone').fill('Goods are laid out')
    await page.keyboard.press('Enter')
    await page.locator('[data-milestone="Goods are laid out"]').waitFor()
    await page.getByRole('dialog').getByRole('button', { name: 'Close' }).click()
    await row(page, 'Goods').locator('.twist').click()
    const type = async (name, field, text) => {
      await row(page, name).click()
      await page.getByLabel(field, { exact: true }).fill(text)
      await page.keyboard.press('Enter')
    }
    await type('Barrel 2', 'Position X', '+1.5')
    await row(page, 'Spare crate').click()
    await page.keyboard.press('Delete')
    await row(page, 'Heaped crate 3').click()
    await page.keyboard.press('Control+d')
    await type('Heaped crate 4', 'Position X', '+4')
    await page.keyboard.press('Control+s')
    await page
      .locator('[data-milestone="Goods are laid out"]')
      .getByRole('button', { name: 'Compare', exact: true })
      .click()
    await page.locator('[data-test=compare] h3').first().waitFor()
    await look(page, [3.5, 4.5, 4.5], [3.5, 0.3, -2])
    await page.keyboard.press('Alt+ArrowUp')
    await page.waitForTimeout(1500)
    await look(page, [3.5, 4.5, 4.5], [3.2, 0.3, -2])
    await settle(page)
  },
  'scatter': async (page, url) => {
    await openScatter(page, url)
    await page.getByLabel('Show all limits and paint on the stage').click()
    await page.locator('[data-limit=slope]').scrollIntoViewIfNeeded()
    await page.waitForTimeout(1500)
    await settle(page)
  },
  'camera': async (page, url) => {
    await openEditor(page, url, 'day', { bench: 'cameras', guides: { thirds: true, height: true } })
    await page.keyboard.press('o')
    await pick(page, 'Cameras and lights', 'Over the market')
    await page.getByRole('button', { name: 'Look through it' }).click()
    await page.waitForFunction(() => document.querySelectorAll('.strip img').length > 5, null, { timeout: 60_000 })
    await settle(page)
  },
  'keep': async (page, url) => {
    await openEditor(page, url, 'day', { bench: 'line-up' })
    await pick(page, 'Lanterns', 'Lantern post 5')
    await look(page, [1.2, 5.4, 10.5], [1.2, 0.8, 0])
    await page.locator('[data-test=keep]').evaluate(element => element.scrollIntoView(true))
    await settle(page)
    // While the last of the row is dragged, and what is kept between goes along.
    const from = await grip(page, { do: 'move', kind: 'axis', axis: 0 })
    await hold(page, from, { x: from.x - 40, y: from.y + 2 }, { x: from.x - 110, y: from.y + 4 })
    await page.waitForTimeout(1500)
  },
  // Last, since what is measured stays in the level.
  'measure': async (page, url) => {
    await openEditor(page, url, 'day', { bench: 'measure', show: { sizes: 'box' } })
    await page.keyboard.press('7')
    await look(page, [1, 14, -0.7], [1, 0, -0.7])
    await settle(page)
    const middle = await project(page, [1, 0, -0.7])
    await page.mouse.move(middle.x, middle.y)
    for (let i = 0; i < 5; i++) await page.mouse.wheel(0, -180)
    await settle(page)
    const click = async (...points) => {
      for (const point of points) {
        const at = await project(page, point)
        await page.mouse.move(at.x + 2, at.y + 2)
        await page.mouse.move(at.x, at.y)
        await page.waitForTimeout(200)
        await page.mouse.click(at.x, at.y)
      }
    }
    await page.getByRole('button', { name: 'Tape', exact: true }).click()
    await click([-3.4, 0.8, 1.2], [5.8, 0.8, 1.2], [-4, 0.8, -2.6], [-3.4, 0.8, 1.2])
    await page.getByRole('button', { name: 'Clearance', exact: true }).click()
    await click([4.2, 0.9, -2.7], [5.9, 0.5, -0.6])
    await page.getByRole('button', { name: 'Angle', exact: true }).click()
    await click([-4, 0.8, -2.6], [-3.4, 0.8, 1.2], [5.8, 0.8, 1.2])
    await page.keyboard.press('Escape')
    await click([-3.1, 0.7, 1.1])
    await settle(page)
  },
  'menu': async (page, url) => {
    await openEditor(page, url, 'day', {
      favouriteActions: ['Duplicate', 'Set down', 'Look at what is picked'],
      lastActions: ['Group', 'Look at everything'],
    })
    await pick(page, 'Goods', 'Crate 1')
    await look(page, [-1.6, 2.6, 1.6], [-4.2, 0.6, -2.6])
    await settle(page)
    await page.keyboard.press('/')
    await page.getByRole('combobox', { name: 'Find or do' }).fill('Recipes …')
    await page.getByRole('option', { name: 'Recipes …' }).first().click()
    await page.locator('[data-test=recipes]').getByText('Stack another').click()
    await settle(page)
    const crate = await page.evaluate(() => {
      const { placements } = globalThis.handyGrid.level()
      return placements.find(({ name }) => name === 'Crate 1').translation
    })
    const at = await project(page, [crate[0], crate[1] + 0.3, crate[2]])
    await page.mouse.move(at.x + 30, at.y)
    await page.mouse.click(at.x, at.y, { button: 'right' })
    const menu = page.locator('.v-overlay--active [role=menu]')
    await menu.waitFor()
    // Without a graphics card the browser leaves out what of the stage is above something opaque.
    await menu.evaluate(of => (of.closest('.v-overlay__content').style.opacity = '0.999'))
    await settle(page)
  },
  'settings': async (page, url) => {
    await openEditor(page, url, 'day', { decimalMark: 'comma' })
    await page.keyboard.press('Control+,')
    await page.locator('[data-setting]').first().waitFor()
    await settle(page)
  },
  'keys': async (page, url) => {
    await openEditor(page, url)
    await page.keyboard.press('Control+k')
    await page.getByLabel('Look for an action').fill('dupl')
    await settle(page)
  },
}
