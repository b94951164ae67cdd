import { validateBytes } from 'gltf-validator'
import { RULES } from '../../core/arrange/rules'
import type { Operation } from '../../core/level/schema'
import { createPlacement, lightOwn } from '../../core/level/create'
import { expect, test } from './support'

// Paths of straight lines with parts of their own at the corners, bent pieces that are released, and what has no shape
// among copies.

test('a fence round a yard has whole railings between posts at its corners, and follows when a corner is dragged', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Railing', part: 'Railing 2 m', translation: [-6, 0, -5] },
    { name: 'Post', part: 'Barrel', translation: [-7, 0, -5] },
  ])
  await editor.look([0, 14, 9], [0, 0, 0])
  await editor.setGrid('0.5 m')
  await editor.pick('Railing', 'Post')
  await editor.openRepeat('Path')
  await editor.choose('By', 'end to end')
  await page.getByLabel('Smooth').uncheck()
  await page.getByLabel('A part at each corner').check()
  await expect(page.getByLabel('Corner source')).toHaveValue('Post')
  await page.getByRole('button', { name: 'Draw the path …' }).click()
  await editor.clickAt([-4, 0, -2], [4, 0, -2], [4, 0, 4], [-4, 0, 4], [-4, 0, -2])
  await editor.saved()
  const { id, own } = await editor.named('Path 1')
  expect(own).toMatchObject({
    rule: {
      type: 'path',
      closed: true,
      smooth: false,
      points: [
        [0, 0, 0],
        [8, 0, 0],
        [8, 0, 6],
        [0, 0, 6],
      ],
      corners: { room: 0, ends: false },
    },
    sources: { by: 'ends', first: 0, middle: 0, last: 0, corner: 1 },
  })
  expect((await editor.row(id))!.own).toEqual(own)
  // 8 m and 6 m of railings of 2 m, twice, and four posts.
  await expect(page.getByTestId('live-count')).toHaveText('18 live')

  await page.getByLabel('Room at corners', { exact: true }).fill('0.5')
  await page.keyboard.press('Enter')
  await editor.saved()
  const places = await page.evaluate(
    which =>
      window
        .handyGrid!.copies(which)
        .map(matrix => [matrix[12]!, matrix[14]!].map(value => Math.round(value * 100) / 100)),
    id,
  )
  for (const corner of [
    [-4, -2],
    [4, -2],
    [4, 4],
    [-4, 4],
  ])
    expect(places).toContainEqual(corner)

  // A corner is dragged out; its post goes along, and the railings of the longer side become more.
  const corner = await editor.handle({ do: 'grip', index: 1 })
  await editor.pressAndMove(corner, await editor.at([6, 0, -2]))
  await page.mouse.up()
  await editor.saved()
  expect((await editor.row(id))!.own).toMatchObject({
    rule: {
      points: [
        [0, 0, 0],
        [10, 0, 0],
        [8, 0, 6],
        [0, 0, 6],
      ],
      corners: { room: 0.5 },
    },
  })
  await expect(page.getByTestId('live-count')).toHaveText('19 live')

  // Without them the rule is as it was.
  await page.getByLabel('A part at each corner').uncheck()
  await editor.saved()
  expect(((await editor.row(id))!.own as { rule: object }).rule).not.toHaveProperty('corners')
})

test('a lamp among the copies is repeated with its light; a click on its mark picks the arrangement, the next one the copy', async ({
  page,
  editor,
}) => {
  const [line, lamp] = ['00000000-0000-7000-8000-0000000000aa', '00000000-0000-7000-8000-0000000000ab']
  const put = (placement: Parameters<typeof createPlacement>[0]): Operation => {
    const { id, ...fields } = createPlacement(placement)
    return { do: 'put', id, fields }
  }
  await editor.openWith(
    [{ name: 'Foot', part: 'Crate', parentId: lamp }],
    [
      put({
        id: line,
        name: 'Lamps',
        kind: 'arrangement',
        own: { rule: { ...RULES.line.first, count: 3, along: [3, 0, 0] } },
      }),
      put({ id: lamp, name: 'Lamp', kind: 'group', parentId: line }),
      put({
        id: '00000000-0000-7000-8000-0000000000ac',
        name: 'Glow',
        kind: 'light',
        parentId: lamp,
        translation: [0, 2, 0],
        own: lightOwn({ light: 'point', color: '#ffd77a', intensity: 12, range: 6 }),
      }),
    ],
  )
  await editor.look([3, 4, 11], [3, 1, 0])
  await page.getByRole('button', { name: 'Show', exact: true }).click()
  await page.getByLabel('Marks can be picked on the stage').check()
  await page.keyboard.press('Escape')
  await expect(page.getByLabel('Marks can be picked on the stage')).toHaveCount(0)
  // Beside the middle copy's crate, on its mark.
  const mark = await editor.at([3, 2, 0])
  const click = async () => {
    await page.mouse.move(mark.x + 4, mark.y + 3)
    await page.mouse.click(mark.x + 4, mark.y + 3)
    await editor.drawn()
    return page.evaluate(() => window.handyGrid!.picked())
  }
  expect(await click()).toEqual([line])
  expect(await click()).toEqual([`${line}#1`])
  // The copy with its light goes up by key, as an exception.
  await page.keyboard.press('PageUp')
  await editor.saved()
  expect((await editor.row(line))!.own).toMatchObject({ exceptions: { 1: { move: [0, expect.any(Number), 0] } } })
  const raised = ((await editor.row(line))!.own as { exceptions: Record<string, { move: number[] }> }).exceptions['1']!
    .move[1]!
  expect(raised).toBeGreaterThan(0)
  // Duplicated, it is a thing beside the arrangement with a light of its own, and the arrangement is as it was.
  const before = (await editor.row(line))!.own
  await page.keyboard.press('Control+d')
  await editor.saved()
  const made = await editor.named('Lamp 1')
  expect(made).toMatchObject({ parentId: null, kind: 'group', translation: [3, raised, 0] })
  expect(
    (await editor.placements())
      .filter(({ parentId }) => parentId === made.id)
      .map(({ kind }) => kind)
      .sort(),
  ).toEqual(['light', 'part'])
  expect((await editor.row(line))!.own).toEqual(before)
  await page.keyboard.press('Control+z')
  const higher = await editor.at([3, 2 + raised, 0])
  await page.keyboard.press('Escape')
  await page.mouse.click(higher.x + 4, higher.y + 3)
  expect(await page.evaluate(() => window.handyGrid!.picked())).toEqual([line])
})

test('a kerb bent along a curve is released as pieces with their own bent meshes, which stay where they were', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Kerb', part: 'Railing 2 m', translation: [-5, 0, -3] }])
  await editor.look([0, 11, 8], [0, 0, 0])
  await editor.setGrid('0.5 m')
  await editor.pick('Kerb')
  await editor.openRepeat('Path')
  await editor.choose('By', 'end to end')
  await page.getByLabel('Bend them along the path').check()
  await page.getByRole('button', { name: 'Draw the path …' }).click()
  await editor.clickAt([-4, 0, 1], [0, 0, -2], [4, 0, 1])
  await page.keyboard.press('Enter')
  await editor.saved()
  const { id } = await editor.named('Path 1')
  const before = await page.evaluate(which => window.handyGrid!.copies(which), id)
  await page.getByRole('button', { name: 'Release', exact: true }).click()
  await expect.poll(async () => (await editor.named('Path 1')).kind, { timeout: 60_000 }).toBe('group')
  await editor.saved()
  const pieces = (await editor.placements()).filter(({ parentId }) => parentId === id).sort((a, b) => a.order - b.order)
  expect(pieces.map(({ kind }) => kind)).toEqual(before.map(() => 'part'))
  expect(new Set(pieces.map(({ partId }) => partId)).size).toBe(before.length)
  for (const [i, piece] of pieces.entries()) {
    const matrix = await page.evaluate(which => window.handyGrid!.worldMatrix(which), piece.id)
    matrix.forEach((value, k) => expect(value).toBeCloseTo(before[i]![k]!, 9))
    // The stage shows something there.
    expect(await page.evaluate(which => window.handyGrid!.copies(which).length, piece.id)).toBe(1)
  }
  const glb = new Uint8Array(
    await (await fetch(`${editor.server.url}/api/levels/${editor.levelId}/export.glb`)).arrayBuffer(),
  )
  const { issues } = await validateBytes(glb)
  expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect((await editor.named('Path 1')).kind).toBe('arrangement')
})
