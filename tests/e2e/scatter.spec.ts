import type { Matrix4Tuple } from 'three'
import { v7 } from 'uuid'
import type { ArrangementOwn } from '../../core/arrange/arrangement'
import type { ScatterRule } from '../../core/arrange/scatter/rule'
import type { Vec3 } from '../../core/math/vectors'
import { nodeMatrices } from './glb-nodes'
import type { Editor } from './support'
import { difference, expect, test } from './support'

/** A slab of 8 by 8 m whose top lies at height 0, looked at from above. */
async function openLawn(editor: Editor): Promise<void> {
  const block = v7()
  await editor.openWith(
    [{ name: 'Lawn', block, translation: [0, 0, 0] }],
    [
      {
        do: 'put-block',
        id: block,
        fields: { shape: { type: 'slab', width: 8, depth: 8, thickness: 0.4 }, color: '#8c9a63' },
      },
    ],
  )
  await editor.look([0, 9, 6], [0, 0, 0.5])
}

const placeOf = (matrix: readonly number[]) => [matrix[12]!, matrix[13]!, matrix[14]!] as Vec3
const places = async (editor: Editor, id: string) =>
  (await editor.page.evaluate(which => window.handyGrid!.copies(which), id)).map(placeOf)

async function dealt(editor: Editor, asked?: string): Promise<void> {
  const { page } = editor
  if (asked) await expect(page.getByTestId('scatter-asked')).toHaveText(asked)
  await expect(page.getByTestId('scatter-obtained')).toHaveAttribute('data-rough', 'false')
  await editor.drawn()
}

async function type(editor: Editor, name: string, text: string): Promise<void> {
  await editor.page.getByLabel(name, { exact: true }).fill(text)
  await editor.page.keyboard.press('Enter')
}

async function drag(editor: Editor, points: readonly Vec3[], modifier?: 'Shift'): Promise<void> {
  const { mouse, keyboard } = editor.page
  const [first, ...others] = await Promise.all(points.map(point => editor.at(point)))
  await mouse.move(first!.x, first!.y)
  if (modifier) await keyboard.down(modifier)
  await mouse.down()
  for (const to of others) await mouse.move(to.x, to.y, { steps: 5 })
  await mouse.up()
  if (modifier) await keyboard.up(modifier)
  await editor.drawn()
}

test('a lawn is covered, a path painted clear, one stone put down and one moved by hand; twice as many leave all of that where it was', async ({
  page,
  editor,
}) => {
  await openLawn(editor)
  await page.getByRole('button', { name: 'Scatter', exact: true }).click()
  await expect(page.getByRole('alert')).toContainText('Choose a surface')
  await editor.pick('Lawn')
  await page.getByRole('button', { name: 'Add what is picked as surface' }).click()
  await page.getByRole('button', { name: 'Add from the kit …' }).click()
  for (const name of ['Grass tuft', 'Field stone'])
    await page.getByRole('group', { name: 'Parts of the kit' }).getByRole('button', { name, exact: true }).click()
  await page.getByRole('button', { name: 'Add 2 parts' }).click()
  await page.getByLabel('No two overlap').click()
  await type(editor, 'Smallest distance', '30cm')
  await type(editor, 'Per m²', '2')
  await dealt(editor, '128')
  // What it would make is shown, and nothing is changed yet.
  expect(await editor.done()).toEqual([])

  // An area is drawn by its corners, a click on the first one closing it.
  await page.getByRole('button', { name: 'Draw an area …' }).click()
  const corners: Vec3[] = [
    [-3, 0, -3],
    [3, 0, -3],
    [3, 0, 3],
    [-3, 0, 3],
  ]
  await editor.clickAt(...corners, corners[0]!)
  await dealt(editor, '72')
  expect(await page.getByTestId('scatter-area').innerText()).toBe('36 m²')
  await page.getByRole('button', { name: 'Keep live' }).click()
  await editor.saved()
  const scatter = (await editor.rows()).find(({ kind }) => kind === 'arrangement')!
  const rule = (row: { own: object } | undefined) => (row!.own as ArrangementOwn).rule as ScatterRule
  const own = async () => (await editor.row(scatter.id))!.own as ArrangementOwn
  expect(
    (await editor.rows())
      .filter(({ parentId }) => parentId === scatter.id)
      .map(({ name }) => name)
      .sort(),
  ).toEqual(['Field stone', 'Grass tuft'])
  expect(rule(scatter)).toMatchObject({
    density: 2,
    apart: 0.3,
    on: [{ stream: 1 }],
    areas: [{ type: 'loop', hole: false }],
  })
  await dealt(editor)
  const first = await places(editor, scatter.id)
  expect(first.length).toBeGreaterThan(50)
  for (const [x, y, z] of first) expect(Math.abs(x) <= 3 && Math.abs(z) <= 3 && Math.abs(y) < 0.05).toBe(true)

  // A path is painted clear with the brush; its stroke is one change, and lies in the database in the slab's own axes.
  await page.getByRole('button', { name: 'Away', exact: true }).click()
  await drag(editor, [
    [-2.5, 0, 0],
    [0, 0, 0.2],
    [2.5, 0, 0],
  ])
  await editor.saved()
  const { strokes } = rule(await editor.row(scatter.id)).paint
  expect(strokes).toHaveLength(1)
  expect(strokes[0]).toMatchObject({ on: 1, does: 'remove', radius: 0.5, strength: 1 })
  expect(strokes[0]!.points.every(([, y]) => Math.abs(y) < 0.001)).toBe(true)
  await dealt(editor)
  const cleared = await places(editor, scatter.id)
  expect(cleared.length).toBeLessThan(first.length)
  expect(cleared.filter(([x, , z]) => Math.abs(x) < 2.2 && Math.abs(z - 0.1) < 0.15)).toEqual([])
  // Outside of the stroke nothing changed.
  expect(cleared.filter(([, , z]) => Math.abs(z) > 0.8)).toEqual(first.filter(([, , z]) => Math.abs(z) > 0.8))

  // One is put down by hand in the middle of the path, another taken away.
  await page.getByRole('button', { name: 'Put one', exact: true }).click()
  await editor.choose('Source put down', 'Field stone')
  await editor.clickAt([1, 0, 0.1])
  await editor.saved()
  expect(Object.keys((await own()).exceptions!)).toEqual(['0,1,0'])
  await dealt(editor)
  const put = (await places(editor, scatter.id)).at(-1)!
  expect(Math.hypot(put[0] - 1, put[2] - 0.1)).toBeLessThan(0.02)
  await page.keyboard.press('Escape')

  // A copy is picked alone and moved by its handle: an exception by its name, which stays.
  await editor.pick('Scatter 1')
  // Blades of grass are thin: a click on the first stone counts.
  for (const [x, y, z] of await places(editor, scatter.id)) {
    const on = await editor.at([x, y + 0.1, z])
    await page.mouse.move(on.x, on.y)
    await page.mouse.click(on.x, on.y)
    await editor.drawn()
    await page.mouse.click(on.x, on.y)
    await editor.drawn()
    if (await page.getByTestId('picked-copy').isVisible()) break
    await editor.pick('Scatter 1')
  }
  await expect(page.getByTestId('picked-copy')).toBeVisible()
  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  await editor.pressAndMove(grip, { x: grip.x + 40, y: grip.y })
  await page.keyboard.press('=')
  await page.keyboard.type('0.4')
  await page.keyboard.press('Enter')
  await page.mouse.up()
  await editor.saved()
  const moved = Object.entries((await own()).exceptions!).find(([, { move }]) => move)!
  expect(moved[1].move!.map(value => Math.round(value * 1000) / 1000 + 0)[1]).toBe(0)

  // Twice as many: all that stood is still there.
  const stood = await places(editor, scatter.id)
  await editor.pick('Scatter 1')
  await type(editor, 'Per m²', '4')
  await dealt(editor, '144')
  const twice = await places(editor, scatter.id)
  const have = new Set(twice.map(String))
  expect(twice.length).toBeGreaterThan(1.4 * stood.length)
  for (const place of stood) expect(have.has(String(place)), String(place)).toBe(true)
  expect(have.has(String(put))).toBe(true)
  expect((await own()).exceptions![moved[0]]).toEqual(moved[1])
  const onPath = (all: Vec3[]) =>
    all
      .filter(([x, , z]) => Math.abs(x) < 2.2 && Math.abs(z - 0.1) < 0.15)
      .map(String)
      .sort()
  expect(onPath(twice)).toEqual(onPath(stood))
  await editor.saved()
  expect((await editor.done()).length).toBe(5)

  // After a reload the page shows the same, and the server hands over the same, to the last bit that a file has.
  const before = await page.evaluate(which => window.handyGrid!.copies(which), scatter.id)
  await page.reload()
  await editor.ready()
  await expect
    .poll(async () => (await page.evaluate(which => window.handyGrid!.copies(which), scatter.id)).length)
    .toBe(before.length)
  expect(await page.evaluate(which => window.handyGrid!.copies(which), scatter.id)).toEqual(before)
  const exported = new Uint8Array(
    await (await fetch(`${editor.server.url}/api/levels/${editor.levelId}/export.glb`)).arrayBuffer(),
  )
  const found = nodeMatrices(exported).filter(({ name }) => name === 'Grass tuft' || name === 'Field stone')
  expect(found).toHaveLength(before.length)
  const sorted = (all: readonly (readonly number[])[]) =>
    all
      .map(matrix =>
        placeOf(matrix)
          .map(value => value.toFixed(6))
          .join(),
      )
      .sort()
  expect(sorted(found.map(({ matrix }) => matrix as Matrix4Tuple))).toEqual(sorted(before))
})

test('a limit is seen on the surface, single copies are taken away with a drag, charts pick copies, and the slab takes all along', async ({
  page,
  editor,
}) => {
  await openLawn(editor)
  await page.getByRole('button', { name: 'Scatter', exact: true }).click()
  await editor.pick('Lawn')
  await page.getByRole('button', { name: 'Add what is picked as surface' }).click()
  await page.getByRole('button', { name: 'Add from the kit …' }).click()
  await page
    .getByRole('group', { name: 'Parts of the kit' })
    .getByRole('button', { name: 'Field stone', exact: true })
    .click()
  await page.getByRole('button', { name: 'Add 1 part' }).click()
  await editor.choose('Measured by', 'a count')
  await type(editor, 'Count', '60')
  await dealt(editor, '60')
  await page.getByRole('button', { name: 'Keep live' }).click()
  await editor.saved()
  const id = (await editor.rows()).find(({ kind }) => kind === 'arrangement')!.id
  await editor.choose('Add a limit', 'From the edge')
  await type(editor, 'From', '1')
  await dealt(editor)
  await editor.saved()
  const lost = Number((await page.getByTestId('scatter-report').innerText()).match(/(\d+) left out: from the edge/)![1])
  expect(lost).toBeGreaterThan(5)
  expect(await places(editor, id)).toHaveLength(60 - lost)
  await page.getByRole('button', { name: 'Show From the edge on the stage' }).click()
  await editor.drawn()
  // What is wrong is said where it is typed, and nothing is lost.
  await page.getByLabel('From', { exact: true }).fill('200km')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('at most')
  await page.keyboard.press('Escape')

  await page.getByRole('button', { name: 'Take one', exact: true }).click()
  const [a] = await places(editor, id)
  const at = await editor.at([a![0], a![1] + 0.1, a![2]])
  await page.mouse.move(at.x, at.y)
  await page.mouse.down()
  await page.mouse.move(at.x + 2, at.y, { steps: 2 })
  await page.mouse.up()
  await editor.saved()
  const { exceptions } = (await editor.row(id))!.own as ArrangementOwn
  expect(Object.values(exceptions!).every(({ hidden }) => hidden)).toBe(true)
  expect(Object.keys(exceptions!).length).toBeGreaterThanOrEqual(1)
  await page.keyboard.press('Escape')

  await editor.pick('Scatter 1')
  await page.getByRole('button', { name: 'Charts …' }).click()
  await page.getByRole('button', { name: 'Neighbours', exact: true }).click()
  const rows = page.locator('.charts tbody tr')
  await expect(rows).toHaveCount(16)
  const counts = (await rows.locator('td:nth-child(2)').allInnerTexts()).map(Number)
  expect(counts.reduce((sum, count) => sum + count, 0)).toBe(60 - lost)
  const most = counts.indexOf(Math.max(...counts))
  await rows.nth(most).getByRole('button').click()
  expect((await page.evaluate(() => window.handyGrid!.picked())).length).toBeGreaterThan(0)
  expect((await page.evaluate(() => window.handyGrid!.picked())).every(picked => picked.startsWith(`${id}#`))).toBe(
    true,
  )
  await page.getByRole('button', { name: 'Close', exact: true }).click()

  // The slab is dragged: its copies go along.
  await page.keyboard.press('Escape')
  const before = await places(editor, id)
  const picture = async () =>
    Buffer.from((await page.evaluate(() => window.handyGrid!.picture(400, 300))).split(',')[1]!, 'base64')
  const still = await picture()
  await editor.pick('Lawn')
  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  await editor.pressAndMove(grip, { x: grip.x + 40, y: grip.y })
  await page.keyboard.press('=')
  await page.keyboard.type('2')
  // Not only when it is let go: while it is held they are seen where they will be.
  const held = await picture()
  await page.keyboard.press('Enter')
  await page.mouse.up()
  await editor.saved()
  await expect.poll(async () => (await places(editor, id))[0]![0]).toBeCloseTo(before[0]![0] + 2, 9)
  expect(await difference(still, held)).toBeGreaterThan(0.05)
  expect(await difference(held, await picture())).toBeLessThan(0.001)
  expect(await places(editor, id)).toHaveLength(before.length)
})
