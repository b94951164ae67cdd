import { validateBytes } from 'gltf-validator'
import type { RingRule } from '../../core/arrange/rules/ring'
import { expect, test } from './support'

test('the steps to the water become a spiral by one number; the rule is kept, not the copies; released they stand where they stood', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Step', part: 'Quay edge 4 m', translation: [0, 0, 0], scale: [0.3, 0.3, 0.35] }])
  await editor.look([6, 5, 9], [0, 1, -2])
  await editor.pick('Step')
  await page.getByRole('button', { name: 'Repeat', exact: true }).click()
  await page.getByRole('button', { name: 'Line', exact: true }).click()
  const field = (name: string) => page.getByLabel(name, { exact: true })
  const type = async (name: string, text: string) => {
    await field(name).fill(text)
    await page.keyboard.press('Enter')
  }
  // A tread and a riser a step, 15 of them (common practice).
  for (const [name, text] of [
    ['Count', '15'],
    ['Spacing X', '0'],
    ['Spacing Y', '17cm'],
    ['Spacing Z', '-28cm'],
  ] as const)
    await type(name, text)
  await editor.choose('Steps along', 'those of the copy before')
  await page.getByRole('button', { name: 'Keep live' }).click()
  await expect(page.getByTestId('live-count')).toHaveText('15 live')
  await expect(page.locator('[role=treeitem]').filter({ hasText: 'Line 1' })).toContainText('15 live')
  await type('Turn each Y', '10')
  await editor.saved()
  const rows = await editor.rows()
  expect(rows).toHaveLength(2)
  const line = rows.find(({ kind }) => kind === 'arrangement')!
  expect(line.own).toMatchObject({
    rule: { type: 'line', count: 15, along: [0, 0.17, -0.28], turn: [0, 10, 0], axes: 'local' },
  })
  expect(rows.find(({ kind }) => kind === 'part')!.parentId).toBe(line.id)

  // A click on any copy picks the whole; it is moved by its handle like anything else.
  await page.keyboard.press('Escape')
  expect(await editor.pickedNames()).toEqual([])
  const seventh = await page.evaluate(id => window.handyGrid!.copies(id)[6]!, line.id)
  const at = await editor.at([seventh[12]!, seventh[13]! + 0.1, seventh[14]!])
  await page.mouse.move(at.x, at.y)
  await page.mouse.click(at.x, at.y)
  expect(await editor.pickedNames()).toEqual(['Line 1'])
  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  await editor.pressAndMove(grip, { x: grip.x + 60, y: grip.y })
  await page.keyboard.press('=')
  await page.keyboard.type('1')
  await page.keyboard.press('Enter')
  await page.mouse.up()
  await editor.saved()
  expect((await editor.row(line.id))!.translation[0]).toBe(line.translation[0] + 1)

  // What does not fit is said in the field, and nothing changes.
  await field('Count').fill('2000000')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('at most a million')
  await page.keyboard.press('Escape')

  const live = await page.evaluate(id => window.handyGrid!.copies(id), line.id)
  const exported = async () =>
    new Uint8Array(await (await fetch(`${editor.server.url}/api/levels/${editor.levelId}/export.glb`)).arrayBuffer())
  const { issues } = await validateBytes(await exported())
  expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
  await page.getByRole('button', { name: 'Release' }).click()
  await editor.saved()
  const released = (await editor.rows()).filter(({ kind }) => kind === 'part')
  expect(released).toHaveLength(15)
  for (const [i, { id }] of released.sort((a, b) => a.order - b.order).entries()) {
    const matrix = await page.evaluate(which => window.handyGrid!.worldMatrix(which), id)
    matrix.forEach((value, k) => expect(value).toBeCloseTo(live[i]![k]!, 10))
  }
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect(await editor.rows()).toHaveLength(2)
})

test('a fan keeps its rise when its rows go from 4 to 7; a ring and a grid follow their numbers by keys, undone as one', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Planter', part: 'Planter', translation: [0, 0, 0] }])
  await editor.look([0, 9, 20], [0, 0, 6])
  await editor.pick('Planter')
  await page.getByRole('button', { name: 'Repeat', exact: true }).click()
  await page.getByRole('button', { name: 'Fan', exact: true }).click()
  await page.getByRole('button', { name: 'Keep live' }).click()
  await expect(page.getByTestId('live-count')).toHaveText('36 live')
  const id = (await editor.named('Fan 1')).id
  const heights = async () => [
    ...new Set(
      (await page.evaluate(which => window.handyGrid!.copies(which), id)).map(
        matrix => Math.round(matrix[13]! * 1000) / 1000,
      ),
    ),
  ]
  expect(await heights()).toEqual([0, 0.3, 0.6, 0.9])
  await page.getByLabel('Rows', { exact: true }).fill('7')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('live-count')).toHaveText('63 live')
  expect(await heights()).toEqual([0, 0.3, 0.6, 0.9, 1.2, 1.5, 1.8])

  await page.getByRole('button', { name: 'Ring', exact: true }).click()
  await page.getByRole('button', { name: 'Make it a ring' }).click()
  await expect(page.getByTestId('live-count')).toHaveText('8 live')
  await page.getByLabel('Count', { exact: true }).focus()
  for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowUp')
  await expect(page.getByTestId('live-count')).toHaveText('12 live')
  const places = (await page.evaluate(which => window.handyGrid!.copies(which), id)).map(matrix => [
    matrix[12]!,
    matrix[14]!,
  ])
  // Twelve on a circle: the chord is 2·r·sin(π/12).
  places.forEach(([x, z], i) => {
    const [nextX, nextZ] = places[(i + 1) % 12]!
    expect(Math.hypot(x! - nextX!, z! - nextZ!)).toBeCloseTo(2 * 3 * Math.sin(Math.PI / 12), 9)
  })
  await page.getByLabel('Radius', { exact: true }).focus()
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+z')
  await expect(page.getByTestId('live-count')).toHaveText('8 live')

  // As many as fit at what lies between them now; the ring's grip makes room for more of them.
  await editor.choose('By', 'as many as fit')
  await expect(page.getByTestId('live-count')).toHaveText('8 live')
  const grip = await editor.handle({ do: 'grip', index: 0 })
  const wider = await editor.at([0, 0, 6])
  await editor.pressAndMove(grip, wider)
  await page.mouse.up()
  await editor.saved()
  const ring = (await editor.row(id))!.own as { rule: RingRule }
  const spacing = 2 * 3 * Math.sin(Math.PI / 8)
  expect(ring.rule).toMatchObject({ measure: 'fit' })
  expect(ring.rule.spacing).toBeCloseTo(spacing, 6)
  // A chord of 2·r·sin(π/n) is at least the spacing.
  const fitting = Math.floor(Math.PI / Math.asin(spacing / 2 / ring.rule.radius))
  expect(fitting).toBeGreaterThan(12)
  await expect(page.getByTestId('live-count')).toHaveText(`${fitting} live`)

  await page.getByRole('button', { name: 'Grid', exact: true }).click()
  await page.getByRole('button', { name: 'Make it a grid' }).click()
  await expect(page.getByTestId('live-count')).toHaveText('12 live')
  await editor.saved()
  expect((await editor.row(id))!.own).toMatchObject({ rule: { type: 'grid', counts: [4, 1, 3] } })
})
