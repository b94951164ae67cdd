import { v7 } from 'uuid'
import { RULES } from '../../core/arrange/rules'
import type { ArrangementOwn } from '../../core/arrange/arrangement'
import type { ScatterRule } from '../../core/arrange/scatter/rule'
import type { Vec3 } from '../../core/math/vectors'
import { palettes } from '../../app/stage/palette'
import type { Editor } from './support'
import { expect, test } from './support'

// What a designer's day by pointer and keys comes across, from small levels.

const BOX = v7()
const box = {
  do: 'put-block' as const,
  id: BOX,
  fields: { color: '#b9a58b', shape: { type: 'box' as const, width: 1, height: 1, depth: 1 } },
}
const rule = (own: object) => (own as ArrangementOwn).rule

/**
 * How many pixels of the stage have the colour of what is picked, farther than a margin from the places of some points,
 * and not under bars.
 */
async function strayPixels(editor: Editor, corners: Vec3[], panes: number): Promise<number> {
  const { page } = editor
  await page.evaluate(() => window.handyGrid!.rested())
  const boxes = await Promise.all(
    Array.from({ length: panes }, async (_, pane) => {
      const seen = await Promise.all(corners.map(corner => editor.at(corner, pane)))
      const [xs, ys] = [seen.map(({ x }) => x), seen.map(({ y }) => y)]
      return {
        left: Math.min(...xs) - 6,
        right: Math.max(...xs) + 6,
        top: Math.min(...ys) - 6,
        bottom: Math.max(...ys) + 6,
      }
    }),
  )
  const stage = (await page.getByTestId('stage').boundingBox())!
  const picture = (await page.screenshot({ clip: stage, scale: 'css' })).toString('base64')
  return page.evaluate(
    async ({ picture: png, stage: at, boxes: own, color }) => {
      const bitmap = await createImageBitmap(new Blob([Uint8Array.from(atob(png), letter => letter.charCodeAt(0))]))
      const context = new OffscreenCanvas(bitmap.width, bitmap.height).getContext('2d')!
      context.drawImage(bitmap, 0, 0)
      const { data, width } = context.getImageData(0, 0, bitmap.width, bitmap.height)
      const bars = [...document.querySelectorAll('[data-fixture]')]
        .map(bar => bar.getBoundingClientRect())
        .map(({ left, right, top, bottom }) => ({ left, right, top, bottom }))
      const wanted = [1, 3, 5].map(i => parseInt(color.slice(i, i + 2), 16))
      let count = 0
      for (let i = 0; i < data.length; i += 4) {
        if (wanted.some((value, k) => Math.abs(data[i + k]! - value) > 26)) continue
        const [x, y] = [((i / 4) % width) + at.x, Math.floor(i / 4 / width) + at.y]
        if (
          ![...own, ...bars].some(({ left, right, top, bottom }) => x >= left && x <= right && y >= top && y <= bottom)
        )
          count++
      }
      return count
    },
    { picture, stage, boxes, color: palettes.day.colors.picked },
  )
}

const cornersOf = (at: Vec3, [x, y, z]: Vec3): Vec3[] =>
  [-x / 2, x / 2].flatMap(a => [0, y].flatMap(b => [-z / 2, z / 2].map((c): Vec3 => [at[0] + a, at[1] + b, at[2] + c])))

test('the outline of what is picked is around it and nowhere else: in one pane and four, after an orbit, a drag and a resize', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Block', block: BOX }], [box])
  await editor.look([3, 3, 5], [0, 0.5, 0])
  await editor.pick('Block')
  await page.getByRole('button', { name: 'Pick', exact: true }).click()
  const strays = async (at: Vec3, panes: number) => strayPixels(editor, cornersOf(at, [1, 1, 1]), panes)
  // The picture has some where they belong, so that the test can see them at all.
  expect(await strayPixels(editor, [[40, 0, -40]], 1)).toBeGreaterThan(100)
  expect(await strays([0, 0, 0], 1)).toBe(0)
  await page.keyboard.down('Alt')
  const middle = await editor.at([0, 0.5, 0])
  await editor.pressAndMove({ x: middle.x + 150, y: middle.y + 90 }, { x: middle.x + 260, y: middle.y + 40 })
  await page.mouse.up()
  await page.keyboard.up('Alt')
  expect(await strays([0, 0, 0], 1)).toBe(0)
  await page.keyboard.press('5')
  expect(await strays([0, 0, 0], 4)).toBe(0)
  await page.getByLabel('Position X').fill('1.5')
  await page.keyboard.press('Enter')
  expect(await strays([1.5, 0, 0], 4)).toBe(0)
  await page.setViewportSize({ width: 1100, height: 720 })
  await expect.poll(() => strays([1.5, 0, 0], 4)).toBe(0)
})

test('numbers on the stage are typed, nothing is measured against itself, a tape is set level, and fields give back what was there', async ({
  page,
  editor,
}) => {
  const [LEFT, RIGHT] = [v7(), v7()]
  await editor.openWith(
    [
      { name: 'Left box', id: LEFT, block: BOX },
      { name: 'Right box', id: RIGHT, block: BOX, translation: [3, 0, 0] },
    ],
    [box],
  )
  await editor.look([1.5, 3.5, 6.5], [1.5, 0.5, 0])
  await page.getByRole('button', { name: 'Measure', exact: true }).click()
  await page.getByRole('button', { name: 'Clearance', exact: true }).click()
  await editor.clickOn([0, 0.6, 0.5])
  await editor.clickOn([3, 0.6, 0.5])
  // The pointer rests on what was clicked last: that begins the next, and is not measured against itself.
  await editor.clickOn([3, 0.6, 0.5])
  await expect.poll(() => editor.readout()).toContain('now point at the other')
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('modes')).toContainText('Dropped: the measure with 1 thing')
  await page.keyboard.press('Escape')
  const layout = await page.evaluate(() => window.handyGrid!.view(1)?.kind)

  // Keys are the number's while it is typed, wherever the focus has gone.
  const number = await editor.at([1.5, 0.5, 0.5])
  for (const y of [0, -14, 14, -28]) {
    if ((await page.getByTestId('typed-numbers').count()) === 0) await page.mouse.click(number.x, number.y + y)
  }
  await expect(page.getByTestId('typed-numbers')).toContainText('Right box moves level')
  await page.evaluate(() => (document.activeElement as HTMLElement).blur())
  await page.keyboard.press(',')
  await page.keyboard.press('5')
  await page.getByLabel('Type Length').fill('0.25')
  await page.keyboard.press('Enter')
  await editor.saved()
  expect((await editor.row(RIGHT))!).toMatchObject({ translation: [1.25, 0, 0], rotation: [0, 0, 0, 1] })
  expect(await page.evaluate(() => window.handyGrid!.view(1)?.kind)).toBe(layout)

  // A tape from a corner to one that is a little lower: what it moves stays at its height, unless the line is chosen.
  await editor.pick('Right box')
  await page.getByLabel('Position Y').fill('-0.2')
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  await page.keyboard.press('u')
  await editor.clickOn([0.5, 1, 0.5])
  await editor.clickOn([1.75, 0.8, 0.5])
  await page.keyboard.press('Escape')
  const tape = await editor.at([1.125, 0.9, 0.5])
  await page.mouse.click(tape.x, tape.y)
  await expect(page.getByTestId('typed-numbers')).toContainText('Right box moves level')
  await page.getByRole('button', { name: 'Along the line' }).click()
  await expect(page.getByTestId('typed-numbers')).toContainText('along the line')
  await page.getByRole('button', { name: 'Level', exact: true }).click()
  await page.getByLabel('Type Length').fill('2')
  await page.keyboard.press('Enter')
  await editor.saved()
  const moved = (await editor.row(RIGHT))!.translation
  // By Pythagoras: 0.2 down on 2 along the tape; its corner stands half a metre behind the box's middle.
  expect(moved[1]).toBe(-0.2)
  expect(moved[0]).toBeCloseTo(0.5 + Math.sqrt(4 - 0.04) - 0.5, 6)

  // The wheel over a field that was only entered by a key does nothing; after a click it steps, and Esc gives back what
  // was there.
  await editor.pick('Right box')
  const field = page.getByLabel('Position Z')
  await field.focus()
  const at = (await field.boundingBox())!
  await page.mouse.move(at.x + 20, at.y + 8)
  await page.mouse.wheel(0, -100)
  await expect(field).toHaveValue('0.000')
  await field.click()
  await page.mouse.wheel(0, -100)
  await page.mouse.wheel(0, -100)
  await expect(field).toHaveValue('0.500')
  await page.keyboard.press('Escape')
  await expect(field).toHaveValue('0.000')
  await editor.saved()
  expect((await editor.row(RIGHT))!.translation[2]).toBe(0)

  // What cannot be typed says why, where it was clicked.
  await page.getByRole('button', { name: 'Angle', exact: true }).click()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Area of a face' }).click()
  await editor.clickOn([0.1, 1, 0.1])
  await page.keyboard.press('Escape')
  const area = await editor.at([0, 1, 0])
  await page.mouse.click(area.x, area.y)
  await expect(page.getByTestId('typed-numbers')).toContainText('An area is not typed')
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('typed-numbers')).toHaveCount(0)
})

test('a drawn path is kept by Done and dropped by Drop, and comes back; the lit kind is what the form does, and is shown before', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Crate', part: 'Crate', translation: [0, 0, 0] },
    { name: 'Stall', part: 'Stall frame', translation: [0, 0, -5] },
    { name: 'Barrel', part: 'Barrel', translation: [0, 0, -9] },
  ])
  await editor.look([2, 9, 10], [2, 0, 0])
  await editor.pick('Crate')
  await editor.openRepeat('Path')
  await page.getByRole('button', { name: 'Draw the path …' }).click()
  await editor.clickAt([-2, 0, 2], [1, 0, 3], [4, 0, 2])
  const banner = page.getByTestId('modes')
  await expect(banner.getByRole('button')).toHaveText([/^\s*Done\s*Enter\s*$/, /^\s*Drop\s*Esc\s*$/])
  await page.keyboard.press('Escape')
  await expect(banner).toContainText('Dropped: the path of 3 points')
  // The tool is there still, and undo brings back what was dropped; nothing was written.
  await page.keyboard.press('Control+z')
  await expect(banner.getByRole('button', { name: 'Done' })).toBeVisible()
  expect(await editor.done()).toEqual([])
  await banner.getByRole('button', { name: 'Done' }).click()
  await editor.saved()
  const path = await editor.named('Path 1')
  expect(rule(path.own)).toMatchObject({
    type: 'path',
    points: [
      [0, 0, 0],
      [3, 0, 1],
      [6, 0, 0],
    ],
  })

  // Another kind says what it would do, and does it when asked; leaving it does nothing.
  await page.getByRole('button', { name: 'Ring', exact: true }).click()
  await expect(page.getByTestId('would-turn')).toContainText('Would make Path 1 a ring')
  await page.getByRole('button', { name: 'Path', exact: true }).click()
  expect(await editor.done()).toEqual(['Path of Crate'])
  await page.getByRole('button', { name: 'Ring', exact: true }).click()
  await page.getByLabel('Count', { exact: true }).fill('6')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Make it a ring' }).click()
  await editor.saved()
  expect((await editor.row(path.id))!.own).toMatchObject({ rule: { type: 'ring', count: 6 } })
  // Mirror is of the ring, as a whole, by a plane that is typed.
  await page.getByRole('button', { name: 'Mirror', exact: true }).click()
  await page.getByLabel('Plane at X').fill('6')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Mirror Ring 1' }).click()
  await editor.saved()
  const mirror = await editor.named('Mirror 1')
  expect([mirror.translation[0], (await editor.row(path.id))!.parentId]).toEqual([6, mirror.id])
  const stood = await page.evaluate(id => window.handyGrid!.worldMatrix(id), path.id)
  await page.getByLabel('Plane along its axis').fill('7')
  await page.keyboard.press('Enter')
  await editor.saved()
  expect((await editor.row(mirror.id))!.translation[0]).toBe(7)
  expect(await page.evaluate(id => window.handyGrid!.worldMatrix(id), path.id)).toEqual(stood)
  // Inside of it the ledger shows what Axes says.
  await page.locator('[role=treeitem]', { hasText: 'Mirror 1' }).locator('.twist').click()
  await editor.pick('Ring 1')
  await expect(page.getByLabel('Position X')).toHaveValue(stood[12]!.toFixed(3))

  // A line begins as far apart as its source is wide, and its gap is one of its measures.
  await editor.pick('Stall')
  await page.getByRole('button', { name: 'Line', exact: true }).click()
  const width = Number(await page.getByLabel('Spacing X').inputValue())
  expect(width).toBeGreaterThan(3)
  await page.keyboard.press('Shift+l')
  await editor.choose('By', 'gap')
  await expect(page.getByLabel('Gap', { exact: true })).toHaveValue('0.000')
  await page.getByLabel('Gap', { exact: true }).fill('0.4')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Keep live' }).click()
  await editor.saved()
  const line = await editor.named('Line 1')
  expect(rule(line.own)).toMatchObject({
    type: 'line',
    measure: 'gap',
    count: RULES.line.first.count,
    along: [expect.closeTo(width + 0.4, 6), 0, 0],
  })
  await expect(page.getByTestId('census')).toHaveCount(0)
  // One copy has no part of its own: it is released first, and that is done.
  await editor.pick('Barrel')
  await page.getByRole('button', { name: 'Keep live' }).click()
  await editor.saved()
  const barrels = await editor.named('Line 2')
  await editor.look([2, 3, -4], [2, 0.4, -9])
  await page.keyboard.press('Escape')
  const last = (await page.evaluate(id => window.handyGrid!.copies(id), barrels.id)).at(-1)!
  for (let i = 0; i < 2; i++) await editor.clickOn([last[12]!, 0.5, last[14]!])
  await expect(page.getByTestId('picked-copy')).toBeVisible()
  await page.getByRole('button', { name: 'Once', exact: true }).click()
  await page.getByRole('button', { name: 'Release and make independent' }).click()
  await expect.poll(async () => (await editor.done()).at(-1)).toMatch(/^Make independent: /)
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('census')).toContainText(/things, \d+ cop/)
})

test('a corner is caught and named before the drag, things face the middle of what is touched, and readouts are true', async ({
  page,
  editor,
}) => {
  const [ONE, OTHER] = [v7(), v7()]
  await editor.openWith(
    [
      { name: 'One', id: ONE, block: BOX },
      { name: 'Other', id: OTHER, block: BOX, translation: [4, 0, 4] },
    ],
    [box],
  )
  await editor.look([2, 6, 11], [2, 0.5, 2])
  await editor.pick('One')
  await page.keyboard.press('m')
  const corner = await editor.at([0.5, 1, 0.5])
  await page.mouse.move(corner.x - 4, corner.y + 3)
  await page.keyboard.down('n')
  await page.mouse.move(corner.x - 3, corner.y + 2)
  await expect.poll(() => editor.readout()).toContain('Vertex snap a corner of One')
  await page.keyboard.up('n')
  await page.mouse.move(corner.x + 200, corner.y - 150)

  // Touched off its middle, it is its middle that is faced: exactly 45 degrees.
  await page.keyboard.press('/')
  await page.getByRole('combobox', { name: 'Find or do' }).fill('Face a point')
  await page.keyboard.press('Enter')
  // Until it is gone it has the pointer.
  await expect(page.locator('.find')).toHaveCount(0)
  const spot = await editor.at([4.3, 0.8, 4.5])
  await page.mouse.move(spot.x, spot.y)
  await expect.poll(() => editor.readout()).toContain('the middle of Other')
  await page.mouse.click(spot.x, spot.y)
  await editor.saved()
  await expect(page.getByLabel('Turn Y')).toHaveValue('45.00')

  // On the grid is said of what is on it: lifted by hand it is not on the ground any more, and the ledger says so while
  // it is dragged.
  const peg = await editor.handle({ kind: 'axis', axis: 1 })
  await editor.pressAndMove(peg, { x: peg.x, y: peg.y - 60 })
  await expect.poll(() => editor.readout()).toContain('on the grid of 0.250 m')
  await expect(page.locator('.facts')).toContainText('above the ground plane')
  await page.mouse.up()
  await page.getByLabel('Position Y').fill('-0.022')
  await page.keyboard.press('Enter')
  await expect(page.locator('.facts')).toContainText('0.022 m below the ground plane')
  await page.getByLabel('Position Y').fill('0.0008')
  await page.keyboard.press('Enter')
  await expect(page.locator('.facts')).toContainText('Rests on the ground plane')

  // The number of a block that is picked is in its step, once.
  await page.getByRole('button', { name: 'Blocks', exact: true }).click()
  await expect(page.getByTestId('picked-block').getByLabel('Width', { exact: true })).toHaveValue('1.000')
  await expect(page.getByRole('button', { name: 'Numbers of the block' })).toHaveCount(0)
  // The bench keeps its width when it is put away by its lit step and opened again.
  const bench = page.locator('.bench')
  const wide = (await bench.boundingBox())!.width
  await page.getByRole('button', { name: 'Blocks', exact: true }).click()
  await expect(bench).toHaveCount(0)
  await page.getByRole('button', { name: 'Blocks', exact: true }).click()
  expect((await bench.boundingBox())!.width).toBe(wide)
  // By which light this level is seen is its own affair.
  await page.getByRole('button', { name: 'Cameras', exact: true }).first().click()
  await page.getByRole('button', { name: 'Lights', exact: true }).click()
  await page.getByRole('button', { name: 'Night', exact: true }).click()
  await page.keyboard.press('o')
  await expect(page.getByRole('region', { name: 'Picture strip' })).toBeVisible()
  await editor.openWith([{ name: 'One', block: BOX }], [box])
  await expect(page.getByRole('region', { name: 'Picture strip' })).toHaveCount(0)
  await page.getByRole('button', { name: 'Lights', exact: true }).click()
  await expect(page.getByRole('button', { name: 'As the board' })).toHaveAttribute('aria-pressed', 'true')
})

test('what is drawn on a surface goes where that goes, and what is picked is what a scatter begins with', async ({
  page,
  editor,
}) => {
  const SLAB = v7()
  await editor.openWith(
    [{ name: 'Ground', block: SLAB }],
    [
      {
        do: 'put-block',
        id: SLAB,
        fields: { color: '#8a8a7a', shape: { type: 'slab', width: 8, depth: 8, thickness: 0.2 } },
      },
    ],
  )
  await editor.look([0, 9, 9], [0, 0, 0])
  await editor.pick('Ground')
  await page.getByRole('button', { name: 'Scatter', exact: true }).click()
  await expect(page.getByRole('list', { name: 'Surfaces' })).toContainText('Ground')
  await page.getByRole('button', { name: 'Add from the kit …' }).click()
  const sheet = page.getByRole('group', { name: 'Parts of the kit' })
  await sheet.getByRole('button', { name: 'Field stone' }).click()
  // Esc closes the sheet and keeps what was chosen in it.
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Add from the kit … (1)' }).click()
  await page.getByRole('button', { name: 'Add 1 part', exact: true }).click()
  await page.getByRole('button', { name: 'A hole …' }).click()
  const corners: Vec3[] = [
    [-2, 0, -2],
    [2, 0, -2],
    [2, 0, 2],
    [-2, 0, 2],
  ]
  await editor.clickAt(...corners, corners[0]!)
  await expect(page.getByTestId('scatter-obtained')).toHaveAttribute('data-rough', 'false', { timeout: 30_000 })
  await page.getByRole('button', { name: 'Keep live' }).click()
  await editor.saved()
  const scatter = (await editor.rows()).find(({ kind }) => kind === 'arrangement')!
  expect((rule(scatter.own) as ScatterRule).areas).toMatchObject([{ hole: true, lies: { on: 1 } }])
  const places = async () =>
    (await page.evaluate(id => window.handyGrid!.copies(id), scatter.id)).map(matrix => matrix.slice(12, 15))
  const inHole = (x: number, z: number, by: number) => Math.abs(x - by) < 1.99 && Math.abs(z) < 1.99
  const dealt = () =>
    expect(page.getByTestId('scatter-obtained')).toHaveAttribute('data-rough', 'false', { timeout: 30_000 })
  await expect.poll(async () => (await places()).length).toBeGreaterThan(10)
  await dealt()
  const before = await places()
  expect(before.filter(([x, , z]) => inHole(x!, z!, 0))).toEqual([])
  await editor.pick('Ground')
  await page.getByLabel('Position X').fill('5')
  await page.keyboard.press('Enter')
  await editor.saved()
  await expect.poll(async () => (await places()).every(([x]) => x! > 0.9)).toBe(true)
  const after = await places()
  expect(after.length).toBe(before.length)
  expect(after.filter(([x, , z]) => inHole(x!, z!, 5))).toEqual([])
})
