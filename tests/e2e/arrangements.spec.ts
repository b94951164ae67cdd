import { validateBytes } from 'gltf-validator'
import type { ArrangementOwn } from '../../core/arrange/arrangement'
import { RULES } from '../../core/arrange/rules'
import type { Vec3 } from '../../core/math/vectors'
import type { Editor } from './support'
import { expect, test } from './support'

// Arrangements taken hold of on the stage: by the grips of their rules, by one copy, by the points of a path, by what a
// mirror mirrors.

const [fan, line, mirror] = [RULES.fan.first, RULES.line.first, RULES.mirror.first]

/** A level with one arrangement of planters, made by the API. */
async function openArrangement(editor: Editor, own: ArrangementOwn, at: Vec3 = [0, 0, 0]): Promise<string> {
  const id = '00000000-0000-7000-8000-0000000000aa'
  await editor.openWith(
    [{ name: 'Planter', part: 'Planter', parentId: id }],
    [
      {
        do: 'put',
        id,
        fields: {
          kind: 'arrangement',
          name: 'Planters',
          own,
          parentId: null,
          order: 0,
          partId: null,
          blockId: null,
          translation: at,
          rotation: [0, 0, 0, 1],
          scale: [1, 1, 1],
          pivot: [0, 0, 0],
          hidden: false,
          locked: false,
          layerId: null,
        },
      },
    ],
  )
  return id
}

const ownOf = async (editor: Editor, id: string) => {
  await editor.saved()
  return (await editor.row(id))!.own as ArrangementOwn
}
const placesOf = async (editor: Editor, id: string) =>
  (await editor.page.evaluate(which => window.handyGrid!.copies(which), id)).map(matrix => matrix.slice(12, 15))

async function clickCopy(editor: Editor, id: string, index: number): Promise<void> {
  const [x, y, z] = (await placesOf(editor, id))[index]!
  const at = await editor.at([x!, y! + 0.3, z!])
  await editor.page.mouse.move(at.x, at.y)
  await editor.page.mouse.click(at.x, at.y)
  await editor.drawn()
}

const picked = (editor: Editor) => editor.page.evaluate(() => window.handyGrid!.picked())

test('a line is dragged by its last copy and by its first, and the numbers follow', async ({ page, editor }) => {
  const id = await openArrangement(editor, { rule: { ...line, count: 4, along: [1.5, 0, 0] } })
  await editor.look([2, 8, 8], [2, 0, 0])
  await editor.setGrid('0.5 m')
  await editor.pick('Planters')
  await editor.openRepeat('Line')
  const last = await editor.handle({ do: 'grip', index: 1 })
  await editor.pressAndMove(last, { x: last.x + 70, y: last.y + 45 })
  // The bench runs along before the release; the database does not.
  const shown = page.getByLabel('Spacing X', { exact: true })
  await expect(shown).not.toHaveValue('1.500')
  expect((await editor.row(id))!.own).toMatchObject({ rule: { along: [1.5, 0, 0] } })
  await page.mouse.up()
  const { rule } = await ownOf(editor, id)
  const [first, , , fourth] = await placesOf(editor, id)
  expect(first).toEqual([0, 0, 0])
  expect(fourth![0]!).toBeGreaterThan(4.5)
  expect(fourth![0]! * 2).toBeCloseTo(Math.round(fourth![0]! * 2), 6)
  expect(fourth![2]!).toBeGreaterThan(0)
  expect(rule).toMatchObject({ along: [fourth![0]! / 3, 0, fourth![2]! / 3].map(value => expect.closeTo(value, 9)) })

  // Its first copy moves alone: the last one stays where it is.
  const start = await editor.handle({ do: 'grip', index: 0 })
  await editor.pressAndMove(start, { x: start.x - 60, y: start.y })
  await page.mouse.up()
  await editor.saved()
  const after = await placesOf(editor, id)
  expect(after[0]![0]!).toBeLessThan(-0.4)
  after[3]!.forEach((value, axis) => expect(value).toBeCloseTo(fourth![axis]!, 6))

  // Esc half-way leaves everything as it was, to the bit.
  const before = await ownOf(editor, id)
  const again = await editor.handle({ do: 'grip', index: 1 })
  await editor.pressAndMove(again, { x: again.x + 50, y: again.y })
  await page.keyboard.press('Escape')
  await page.mouse.up()
  expect(await placesOf(editor, id)).toEqual(after)
  expect(await ownOf(editor, id)).toEqual(before)
})

test('one copy of a fan is picked, raised and turned by its handles; it stays an exception when the rows grow; another is hidden and brought back', async ({
  page,
  editor,
}) => {
  const id = await openArrangement(editor, { rule: { ...fan, rows: 4, first: 3, radius: 4, arc: 60 } }, [0, 0, -4])
  await editor.look([0, 7, 9], [0, 0, 2])
  await editor.openRepeat('Once')
  await clickCopy(editor, id, 4)
  expect(await picked(editor)).toEqual([id])
  await clickCopy(editor, id, 4)
  expect(await picked(editor)).toEqual([`${id}#1,1`])
  await expect(page.getByTestId('picked-copy')).toContainText('row 2, column 2')
  const peg = await editor.handle({ kind: 'axis', axis: 1 })
  await editor.pressAndMove(peg, { x: peg.x, y: peg.y - 40 })
  await page.keyboard.press('=')
  await page.keyboard.type('0.8')
  await page.keyboard.press('Enter')
  await page.mouse.up()
  expect((await ownOf(editor, id)).exceptions).toEqual({ '1,1': { move: [0, expect.closeTo(0.8, 9), 0] } })
  const raised = (await placesOf(editor, id))[4]!
  expect(raised[1]).toBeCloseTo(0.3 + 0.8, 9)

  await page.keyboard.press('.')
  expect((await ownOf(editor, id)).exceptions!['1,1']!.turn).toBeDefined()
  await page.getByLabel('Rows', { exact: true }).fill('7')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('live-count')).toHaveText('21 live')
  const grown = await placesOf(editor, id)
  grown[4]!.forEach((value, axis) => expect(value).toBeCloseTo(raised[axis]!, 9))
  expect([...new Set(grown.filter((_, i) => i !== 4).map(([, y]) => Math.round(y! * 1000)))]).toEqual([
    0, 300, 600, 900, 1200, 1500, 1800,
  ])

  await clickCopy(editor, id, 3)
  expect(await picked(editor)).toEqual([`${id}#1,0`])
  await page.keyboard.press('Delete')
  expect((await ownOf(editor, id)).exceptions).toMatchObject({ '1,0': { hidden: true } })
  expect(await placesOf(editor, id)).toHaveLength(20)
  await page.getByRole('button', { name: 'Reset row 2, column 1' }).click()
  expect(await placesOf(editor, id)).toHaveLength(21)

  // Released, it is a thing beside the arrangement, which leaves it out.
  await page.getByRole('button', { name: 'row 2, column 2', exact: true }).click()
  await page.getByRole('button', { name: 'Release it' }).click()
  await editor.saved()
  const rows = await editor.rows()
  expect(rows).toHaveLength(3)
  const free = rows.find(row => row.kind === 'part' && row.parentId === null)!
  const stands = await page.evaluate(which => window.handyGrid!.worldMatrix(which).slice(12, 15), free.id)
  stands.forEach((value, axis) => expect(value).toBeCloseTo(raised[axis]!, 9))
  expect((await ownOf(editor, id)).exceptions).toEqual({ '1,1': { hidden: true } })
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect(await editor.rows()).toHaveLength(2)
})

test('a path is drawn on the stage, its points are moved, added and taken away, and railings stand end to end on it', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Railing', part: 'Railing 2 m', translation: [-5, 0, -3] }])
  await editor.look([0, 11, 8], [0, 0, 0])
  await editor.setGrid('0.5 m')
  await editor.pick('Railing')
  await editor.openRepeat('Path')
  await editor.choose('By', 'end to end')
  await page.getByRole('button', { name: 'Draw the path …' }).click()
  for (const point of [
    [-4, 0, 2],
    [0, 0, -1],
    [2, 0, 3],
    [4, 0, 2],
  ] as Vec3[]) {
    const at = await editor.at(point)
    await page.mouse.move(at.x, at.y)
    await page.mouse.click(at.x, at.y)
  }
  // The third was not meant.
  await page.keyboard.press('Backspace')
  await page.keyboard.press('Backspace')
  const end = await editor.at([4, 0, 2])
  await page.mouse.click(end.x, end.y)
  await page.keyboard.press('Enter')
  await editor.saved()
  const path = await editor.named('Path 1')
  expect(path.translation).toEqual([-4, 0, 2])
  expect(path.own).toMatchObject({
    rule: {
      type: 'path',
      points: [
        [0, 0, 0],
        [4, 0, -3],
        [8, 0, 0],
      ],
      measure: 'ends',
      spacing: expect.closeTo(2, 2),
    },
  })
  await expect(page.getByTestId('live-count')).toHaveText('5 live')
  const isEndToEnd = async () => {
    const copies = await page.evaluate(id => window.handyGrid!.copies(id), path.id)
    const ends = copies.map(m =>
      [-1, 1].map(side => [m[12]! + side * m[0]!, m[13]! + side * m[1]!, m[14]! + side * m[2]!]),
    )
    ends
      .slice(1)
      .forEach(([from], i) => from!.forEach((value, axis) => expect(value).toBeCloseTo(ends[i]![1]![axis]!, 2)))
    return [ends[0]![0]!, ends.at(-1)![1]!]
  }
  const [from, to] = await isEndToEnd()
  expect([from![0], from![2], to![0], to![2]].map(value => Math.round(value! * 10) / 10)).toEqual([-4, 2, 4, 2])

  const middle = await editor.handle({ do: 'grip', index: 1 })
  const there = await editor.at([0, 0, -3])
  await editor.pressAndMove(middle, there)
  await page.mouse.up()
  await editor.saved()
  expect((await editor.named('Path 1')).own).toMatchObject({
    rule: {
      points: [
        [0, 0, 0],
        [4, 0, -5],
        [8, 0, 0],
      ],
    },
  })
  await isEndToEnd()

  // From between two points a third one is drawn out, and taken away again under the pointer.
  const between = await editor.handle({ do: 'grip', index: 4 })
  const out = await editor.at([3, 0, 0])
  await editor.pressAndMove(between, out)
  await page.mouse.up()
  await editor.saved()
  expect((await editor.named('Path 1')).own).toMatchObject({
    rule: {
      points: [
        [0, 0, 0],
        [4, 0, -5],
        [7, 0, -2],
        [8, 0, 0],
      ],
    },
  })
  await isEndToEnd()
  const extra = await editor.handle({ do: 'grip', index: 2 })
  await page.mouse.move(extra.x + 1, extra.y)
  await page.mouse.move(extra.x, extra.y)
  await expect
    .poll(() => page.evaluate(() => document.querySelector<HTMLElement>('.stage-canvas')!.style.cursor))
    .toBe('grab')
  await page.keyboard.press('Delete')
  expect((await ownOf(editor, path.id)).rule).toMatchObject({
    points: [
      [0, 0, 0],
      [4, 0, -5],
      [8, 0, 0],
    ],
  })
  await page.getByLabel('Bend them along the path').check()
  await editor.saved()
  const glb = new Uint8Array(
    await (await fetch(`${editor.server.url}/api/levels/${editor.levelId}/export.glb`)).arrayBuffer(),
  )
  const { issues } = await validateBytes(glb)
  expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
})

test('a live mirror shows an edit on the other side at once, and its file winds the right way', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Bench', part: 'Bench', translation: [2, 0, 1] }])
  await editor.look([0, 7, 9], [0, 0, 0])
  await editor.setGrid('0.5 m')
  await editor.pick('Bench')
  await editor.openRepeat('Mirror')
  await editor.choose('Plane through', "the world's origin")
  await page.locator('.v-btn.main', { hasText: 'Mirror' }).click()
  await editor.saved()
  const made = await editor.named('Mirror 1')
  expect(made.own).toEqual({ rule: mirror })
  const image = async () => (await page.evaluate(id => window.handyGrid!.copies(id), made.id))[0]!
  const place = (matrix: number[]) => matrix.slice(12, 15)
  expect(place(await image()).map(value => Math.round(value * 1e9) / 1e9)).toEqual([-2, 0, 1])

  // A click means the bench itself, not the mirror around it.
  const at = await editor.at([2, 0.4, 1])
  await page.keyboard.press('Escape')
  await page.mouse.move(at.x, at.y)
  await page.mouse.click(at.x, at.y)
  expect(await editor.pickedNames()).toEqual(['Bench'])
  const peg = await editor.handle({ kind: 'axis', axis: 0 })
  await editor.pressAndMove(peg, { x: peg.x + 60, y: peg.y })
  await page.mouse.up()
  await editor.saved()
  const bench = await page.evaluate(id => window.handyGrid!.worldMatrix(id), (await editor.named('Bench')).id)
  expect(bench[12]!).toBeGreaterThan(2.4)
  const moved = await image()
  expect(moved[12]!).toBeCloseTo(-bench[12]!, 9)
  // The image is turned over: its determinant is -1.
  expect(moved[0]! * (moved[5]! * moved[10]! - moved[6]! * moved[9]!)).toBeCloseTo(-1, 6)
  const { issues } = await validateBytes(
    new Uint8Array(await (await fetch(`${editor.server.url}/api/levels/${editor.levelId}/export.glb`)).arrayBuffer()),
  )
  expect(issues.numErrors).toBe(0)
  expect(await editor.rows()).toHaveLength(2)
})

test('what a rule would make is shown before it is kept; sources, variation, presets and an expression with its error in place', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Crate', part: 'Crate', translation: [0, 0, 0] },
    { name: 'Barrel', part: 'Barrel', translation: [0, 0, 2] },
  ])
  await editor.look([4, 9, 12], [3, 0, 1])
  await editor.pick('Crate', 'Barrel')
  const triangles = async () => Number(/(\d+)k tris/.exec((await page.getByTestId('stats').textContent())!)![1])
  const two = await triangles()
  await editor.openRepeat('Grid')
  await expect.poll(triangles).toBeGreaterThan(2 * two)
  expect(await editor.done()).toEqual([])
  await page.getByRole('button', { name: 'Keep live' }).click()
  const { id } = await editor.named('Grid 1')
  await editor.choose('Sources taken', 'by a pattern')
  await page.getByLabel('Pattern', { exact: true }).fill('A A B')
  await page.keyboard.press('Enter')
  expect((await ownOf(editor, id)).sources).toEqual({ by: 'pattern', pattern: [0, 0, 1] })

  await editor.choose('Rise by', 'an expression')
  const field = page.getByLabel('Rise as an expression')
  await field.fill('0.2 * rowz')
  await expect(page.getByRole('alert')).toContainText('"rowz" is not known')
  const before = (await ownOf(editor, id)).rule
  await field.fill('0.2 * row')
  await page.keyboard.press('Enter')
  expect((await ownOf(editor, id)).rule).toMatchObject({ rise: { by: 'expression', text: '0.2 * row' } })
  expect(before).toMatchObject({ rise: { by: 'expression', text: expect.not.stringContaining('rowz') } })
  const heights = [...new Set((await placesOf(editor, id)).map(([, y]) => Math.round(y! * 100) / 100))].sort()
  expect(heights).toEqual([0, 0.2, 0.4])

  await page.getByText('Vary each copy').click()
  await page.getByLabel('Vary turn Y').fill('30')
  await page.keyboard.press('Enter')
  expect((await ownOf(editor, id)).vary).toEqual({ seed: 1, move: [0, 0, 0], turn: [0, 30, 0], size: [1, 1] })

  await page.getByRole('button', { name: 'Keep as …' }).first().click()
  await page.getByLabel('Name of what to keep').fill('Market goods')
  await page.keyboard.press('Enter')
  await editor.beginFrom('Hexagonal field')
  const hexagonal = await ownOf(editor, id)
  expect(hexagonal.rule).toMatchObject({ counts: [6, 1, 6], stagger: 0.5 })
  expect(hexagonal.vary).toBeUndefined()
  await editor.beginFrom('Market goods')
  expect(await ownOf(editor, id)).toMatchObject({
    rule: { counts: [4, 1, 3] },
    vary: { turn: [0, 30, 0] },
    sources: { by: 'pattern' },
  })

  // The profile's points are dragged in the bench.
  await editor.choose('Rise by', 'a profile')
  const point = (await page.getByRole('slider', { name: 'Profile point 2' }).boundingBox())!
  await editor.pressAndMove(
    { x: point.x + point.width / 2, y: point.y + point.height / 2 },
    { x: point.x - 40, y: point.y + 30 },
  )
  await page.mouse.up()
  const { rule } = await ownOf(editor, id)
  const profile = rule.type === 'grid' && rule.rise.by === 'profile' ? rule.rise.points : []
  // It stays at the last row, and comes down from two rows' rise of 0.3 m.
  expect(profile[1]![0]).toBe(1)
  expect(profile[1]![1]).toBeLessThan(0.6)

  const glb = new Uint8Array(
    await (await fetch(`${editor.server.url}/api/levels/${editor.levelId}/export.glb?instanced=true`)).arrayBuffer(),
  )
  const { issues, info } = await validateBytes(glb)
  expect(issues.numErrors).toBe(0)
  expect(info.extensionsUsed).toContain('EXT_mesh_gpu_instancing')
})
