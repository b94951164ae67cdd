import { readFile } from 'node:fs/promises'
import { eq } from 'drizzle-orm'
import { v7 } from 'uuid'
import type { Vec3 } from '../../core/math/vectors'
import { exemptions, limits, measures } from '../../server/db/schema'
import type { Editor } from './support'
import { expect, test } from './support'

const [BOX, LEFT, RIGHT] = [v7(), v7(), v7()]
/** Two boxes of 1 m, the second three metres to the right. */
const boxes = [
  { name: 'Left box', id: LEFT, block: BOX },
  { name: 'Right box', id: RIGHT, block: BOX, translation: [3, 0, 0] as Vec3 },
]
const box = {
  do: 'put-block' as const,
  id: BOX,
  fields: { color: '#b9a58b', shape: { type: 'box' as const, width: 1, height: 1, depth: 1 } },
}

const stored = (editor: Editor) => editor.server.db.select().from(measures).where(eq(measures.levelId, editor.levelId))

test('a tape between two corners follows a box that is dragged, and typing its length moves the box; angles, areas and clearances are measured too', async ({
  page,
  editor,
}) => {
  await editor.openWith(boxes, [box])
  await editor.look([1.5, 3.5, 6.5], [1.5, 0.5, 0])
  await page.keyboard.press('u')
  await expect(page.getByTestId('modes')).toContainText('Measuring: tape')
  await editor.clickOn([0.5, 1, 0.5])
  const second = await editor.at([2.5, 1, 0.5])
  await page.mouse.move(second.x + 3, second.y + 2)
  await expect.poll(() => editor.readout()).toContain('2.000 m')
  await editor.clickOn([2.5, 1, 0.5])
  await page.keyboard.press('Escape')
  await editor.saved()
  const [tape] = await stored(editor)
  expect(tape).toMatchObject({
    name: 'Tape 1',
    kind: 'tape',
    ends: [
      { on: LEFT, point: [0.5, 1, 0.5] },
      { on: RIGHT, point: [-0.5, 1, 0.5] },
    ],
  })

  // The key has shown the form of its step.
  await expect(page.getByTestId('measure-Tape 1')).toHaveText('2.000 m')
  await editor.pick('Right box')
  const [from, to] = [await editor.handle({ kind: 'axis', axis: 0 }), await editor.at([4.6, 0, 0])]
  await editor.pressAndMove(from, to)
  // The number follows during the drag already.
  await expect(page.getByTestId('measure-Tape 1')).not.toHaveText('2.000 m')
  await page.mouse.up()
  await editor.saved()
  const moved = (await editor.row(RIGHT))!.translation[0]
  expect(moved).toBeGreaterThan(3)
  await expect(page.getByTestId('measure-Tape 1')).toHaveText(`${(moved - 1).toFixed(3)} m`)

  // A click on the number types another, and what is wrong is said and changes nothing.
  await page.keyboard.press('Escape')
  const number = await editor.at([moved / 2, 1, 0.5])
  await page.mouse.click(number.x, number.y)
  await page.getByLabel('Type Length').fill('0')
  await expect(page.getByTestId('typed-numbers')).toContainText('A length has to be more than 0.')
  await page.keyboard.press('Enter')
  await page.getByLabel('Type Length').fill('1.200')
  await page.keyboard.press('Enter')
  await editor.saved()
  expect((await editor.row(RIGHT))!.translation).toEqual([2.2, 0, 0])
  expect((await editor.done()).at(-1)).toBe('Set Tape 1')
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect((await editor.row(RIGHT))!.translation[0]).toBeCloseTo(moved, 9)

  // An end is dragged to another corner, and back by two clicks; Escape in between leaves it.
  const ends = async () => (await stored(editor))[0]!.ends.map(({ on, point }) => [on, ...point])
  const [corner, behind] = [await editor.at([0.5, 1, 0.5]), await editor.at([0.5, 1, -0.5])]
  await editor.pressAndMove(corner, { x: behind.x + 3, y: behind.y + 2 })
  await expect.poll(() => editor.readout()).toContain(`${Math.hypot(moved - 1, 1).toFixed(3)} m`)
  await page.mouse.up()
  await editor.saved()
  expect((await ends())[0]).toEqual([LEFT, 0.5, 1, -0.5])
  expect((await editor.done()).at(-1)).toBe('Move an end of Tape 1')
  await page.mouse.click(behind.x, behind.y)
  await expect(page.getByTestId('modes')).toContainText('Moving an end: Tape 1')
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('modes')).toBeHidden()
  await page.mouse.click(behind.x, behind.y)
  await page.mouse.click(corner.x + 2, corner.y + 3)
  await editor.saved()
  expect((await ends())[0]).toEqual([LEFT, 0.5, 1, 0.5])

  // By two clicks on things; live, and how deep once they overlap.
  await page.getByRole('button', { name: 'Clearance', exact: true }).click()
  await editor.clickOn([0, 0.6, 0.5])
  await editor.clickOn([moved, 0.6, 0.5])
  await page.getByRole('button', { name: 'Area of a face' }).click()
  await editor.clickOn([0.1, 1, 0.1])
  await page.getByRole('button', { name: 'Angle', exact: true }).click()
  for (const corner of [
    [-0.5, 1, 0.5],
    [0.5, 1, 0.5],
    [0.5, 1, -0.5],
  ] as Vec3[])
    await editor.clickOn(corner)
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('measure-Clearance 1')).toHaveText(`${(moved - 1).toFixed(3)} m`)
  await expect(page.getByTestId('measure-Area 1')).toHaveText('1.000 m²')
  await expect(page.getByTestId('measure-Angle 1')).toHaveText('90.00°')

  // What is deleted leaves the end where it was, and that is said.
  await editor.pick('Right box')
  await page.keyboard.press('Delete')
  await expect(page.getByText('A thing it was on is gone; that end stays where it was.').first()).toBeVisible()
  await editor.saved()
  expect((await stored(editor)).find(({ name }) => name === 'Tape 1')!.ends[1]!.at[0]).toBeCloseTo(moved - 0.5, 6)
  await page.getByRole('button', { name: 'Remove all measures' }).click()
  await editor.saved()
  expect(await stored(editor)).toEqual([])
})

test('sizes are drawn on the stage and typed there; every number goes by the units chosen', async ({
  page,
  editor,
}) => {
  await editor.openWith(boxes, [box])
  await editor.look([1.5, 3.5, 6.5], [1.5, 0.5, 0])
  await editor.pick('Left box')
  await page.keyboard.press('Shift+u')
  await editor.drawn()
  // Height is drawn at the lower corner that is nearest to the eye.
  const at = await editor.at([0.5, 0.5, 0.5])
  await page.mouse.click(at.x, at.y)
  await page.getByLabel('Type Length').fill('2.5')
  await page.keyboard.press('Enter')
  await editor.saved()
  expect((await editor.row(LEFT))!.scale).toEqual([1, 2.5, 1])
  await page
    .getByRole('button', { name: 'Show menu' })
    .or(page.getByRole('button', { name: 'Grid menu' }))
    .first()
    .click()
  await editor.choose('Units', 'ft and in')
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('local-size')).toHaveText('3\' 3 3/8" × 8\' 2 7/16" × 3\' 3 3/8"')
})

test('a floating lamp is found, looked at, set down, taken back and left with a reason; limits and the list are kept', async ({
  page,
  editor,
  server,
}) => {
  await editor.openWith(
    [
      { name: 'Paving', part: 'Quay slab 4 m', translation: [0, -0.4, 0] },
      { name: 'Lamp', part: 'Lantern post', translation: [0.5, 0.03, 0.5] },
      { name: 'Crate A', part: 'Crate', translation: [-1, 0, 0] },
      { name: 'Barrel B', part: 'Barrel', translation: [-0.5, 0, 0] },
    ],
    [
      { do: 'put-limit', id: v7(), fields: { of: 'unused-part', off: true, values: {} } },
      { do: 'put-limit', id: v7(), fields: { of: 'off-grid', off: true, values: {} } },
    ],
  )
  const lamp = await editor.named('Lamp')
  await expect(page.getByTestId('check-state')).toHaveAccessibleName('Level check: 1 error, 1 warning', {
    timeout: 60_000,
  })
  await page.getByTestId('check-state').click()
  await page.getByRole('button', { name: /^Lamp: 0\.030 m above/ }).click()
  expect(await editor.pickedNames()).toEqual(['Lamp'])
  await page.getByRole('button', { name: 'Set down', exact: true }).click()
  await expect(page.getByRole('group', { name: 'What would be mended' })).toContainText('1 finding would be mended')
  expect((await editor.row(lamp.id))!.translation[1]).toBe(0.03)
  await page.getByRole('button', { name: 'Do it' }).click()
  await expect(page.getByTestId('count-error')).toHaveText('0')
  await editor.saved()
  expect((await editor.row(lamp.id))!.translation[1]).toBeCloseTo(0, 5)
  await page.keyboard.press('Control+z')
  await expect(page.getByTestId('count-error')).toHaveText('1')
  await editor.saved()
  expect((await editor.row(lamp.id))!.translation[1]).toBe(0.03)

  // With the keyboard through the list: both partners are picked.
  await page.getByRole('button', { name: /^Lamp: 0\.030 m above/ }).click()
  await page.keyboard.press('ArrowDown')
  await expect.poll(() => editor.pickedNames()).toEqual(expect.arrayContaining(['Crate A', 'Barrel B']))
  await page.getByRole('button', { name: 'It may stay …' }).click()
  await page.getByRole('textbox', { name: 'Why' }).fill('pushed together by the band')
  await page.getByRole('button', { name: 'Let it stay', exact: true }).click()
  await expect(page.getByTestId('count-warning')).toHaveText('0')
  await expect(page.getByText('left: pushed together by the band')).toBeVisible()
  await page.getByRole('button', { name: 'Limits of Floating' }).click()
  await page.getByLabel('Gap of Floating').fill('5cm')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('count-error')).toHaveText('0')
  await editor.saved()
  expect((await server.db.select().from(exemptions).where(eq(exemptions.levelId, editor.levelId)))[0]).toMatchObject({
    of: 'overlapping',
    reason: 'pushed together by the band',
  })
  expect(
    (await server.db.select().from(limits).where(eq(limits.levelId, editor.levelId))).find(
      ({ of }) => of === 'floating',
    )!.values.gap,
  ).toBe(0.05)

  await page.getByRole('button', { name: 'Save the list' }).click()
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('menuitem', { name: 'As CSV' }).click(),
  ])
  const [head, first] = (await readFile(await download.path(), 'utf8')).split('\r\n')
  expect(head).toContain('kind,severity,says')
  expect(first).toContain('pushed together by the band')
  // The server finds the same.
  const answer = (await (await fetch(`${server.url}/api/levels/${editor.levelId}/check`)).json()) as { counts: object }
  expect(answer.counts).toEqual({ error: 0, warning: 0, note: 0, left: 1 })

  await page.getByRole('button', { name: 'Budgets' }).click()
  await page.getByLabel('Budget of placements').fill('3')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('progressbar', { name: 'Placements: 133 % of the budget' })).toBeVisible()
  await page.getByRole('button', { name: 'Pick Crate', exact: true }).click()
  expect(await editor.pickedNames()).toEqual(['Crate A'])
})
