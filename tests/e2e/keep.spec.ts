import { eq } from 'drizzle-orm'
import { v7 } from 'uuid'
import type { Vec3 } from '../../core/math/vectors'
import { relations } from '../../server/db/schema'
import type { Editor } from './support'
import { expect, nudge, test } from './support'

const kept = (editor: Editor) => editor.server.db.select().from(relations).where(eq(relations.levelId, editor.levelId))

/** Boxes of one block, by name and place. */
async function openBoxes(
  editor: Editor,
  [width, height, depth]: Vec3,
  places: Readonly<Record<string, Vec3>>,
): Promise<void> {
  const block = v7()
  await editor.openWith(
    Object.entries(places).map(([name, translation]) => ({ name, block, translation })),
    [
      {
        do: 'put-block',
        id: block,
        fields: { shape: { type: 'box', width, height, depth }, color: '#b07850' },
      },
    ],
  )
}

test('what a drag has caught is kept by one key, follows while its wall is dragged, and is let go of', async ({
  page,
  editor,
}) => {
  await openBoxes(editor, [1, 0.5, 0.3], {
    Wall: [0, 0, 0],
    Box: [1.4, 0, 0],
  })
  await page.keyboard.press('8')
  await page.keyboard.press('a')
  await editor.pick('Box')
  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  const goal = await editor.at([1.03, 0, 0])
  const start = await editor.at([1.4, 0, 0])
  await editor.pressAndMove(grip, { x: grip.x + goal.x - start.x, y: grip.y })
  await expect.poll(() => editor.readout()).toContain('abuts Wall')
  expect(await editor.readout()).toContain('K keeps it')
  await page.keyboard.press('k')
  await expect.poll(() => editor.readout()).toContain('stays so')
  await page.mouse.up()
  await editor.saved()
  const [wall, box] = [await editor.named('Wall'), await editor.named('Box')]
  expect(box.translation).toEqual([1, 0, 0])
  expect(await kept(editor)).toMatchObject([{ held: box.id, rule: { kind: 'flush', opposite: true, gap: 0 } }])
  await expect(page.getByTestId('kept')).toHaveText('Kept face to face with Wall')

  // The wall is dragged: what it holds goes along in the picture, and stands there in the database afterwards.
  await editor.pick('Wall')
  const at = await editor.handle({ kind: 'axis', axis: 0 })
  const away = (await editor.at([-1, 0, 0])).x - (await editor.at([0, 0, 0])).x
  const before = await page.locator('.stage-canvas').screenshot()
  await editor.pressAndMove(at, { x: at.x + away, y: at.y })
  await expect.poll(async () => (await page.locator('.stage-canvas').screenshot()).equals(before)).toBe(false)
  expect((await editor.row(box.id))!.translation).toEqual([1, 0, 0])
  await page.mouse.up()
  await editor.saved()
  const to = (await editor.row(wall.id))!.translation[0]
  expect(to).toBeLessThan(-0.5)
  expect((await editor.row(box.id))!.translation).toEqual([expect.closeTo(to + 1, 9), 0, 0])
  // One step back takes both back, to the last bit.
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect((await editor.row(box.id))!.translation).toEqual([1, 0, 0])

  // Moved off along what is held, it is that far off from now on.
  await editor.pick('Box')
  await nudge(page, 'Box', 'Position X', '1.25')
  await editor.saved()
  expect(await kept(editor)).toMatchObject([{ rule: { gap: 0.25 } }])
  await nudge(page, 'Wall', 'Position X', '-2')
  await editor.saved()
  expect((await editor.row(box.id))!.translation[0]).toBeCloseTo(-0.75, 9)

  // Let go of at the bench, it stays where it is.
  await editor.pick('Box')
  await page.getByRole('button', { name: 'Line up', exact: true }).click()
  await page.getByRole('button', { name: /^Let go: face to face with Wall/ }).click()
  await editor.saved()
  expect(await kept(editor)).toEqual([])
  await nudge(page, 'Wall', 'Position X', '0')
  await editor.saved()
  expect((await editor.row(box.id))!.translation[0]).toBeCloseTo(-0.75, 9)
})

test('what stands is kept from a list; lifting the slab lifts all on it; a circle is refused, and so is the same twice', async ({
  page,
  editor,
}) => {
  const crates = Array.from({ length: 6 }, (_, i) => ({
    name: `Crate ${i + 1}`,
    part: 'Crate',
    translation: [(i % 3) - 1, 0.4, Math.floor(i / 3) - 0.5] as Vec3,
  }))
  await editor.openWith([
    { name: 'Slab', part: 'Quay slab 4 m', translation: [0, 0, 0] as Vec3 },
    ...crates,
    { name: 'Loose', part: 'Barrel', translation: [1.5, 2, 1.5] as Vec3 },
  ])
  await editor.pick(...crates.map(({ name }) => name))
  await page.getByRole('button', { name: 'Line up', exact: true }).click()
  await page.getByRole('button', { name: 'Keep each on what is below' }).click()
  await editor.saved()
  expect(await kept(editor)).toHaveLength(6)
  const heights = async () => {
    const rows = await editor.rows()
    return crates.map(({ name }) => rows.find(row => row.name === name)!.translation[1])
  }
  const before = await heights()
  await nudge(page, 'Slab', 'Position Y', '1.5')
  await editor.saved()
  const after = await heights()
  for (const [i, height] of after.entries()) expect(height).toBeCloseTo(before[i]! + 1.5, 9)
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect(await heights()).toEqual(before)

  // Set down and kept in one step, which one step takes back.
  await editor.pick('Loose')
  await page.getByLabel('and keep it on what is below').check()
  await page.keyboard.press('g')
  await editor.saved()
  expect(await kept(editor)).toHaveLength(7)
  expect((await editor.rows()).find(({ name }) => name === 'Loose')!.translation[1]).toBeLessThan(1)
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect(await kept(editor)).toHaveLength(6)
  expect((await editor.rows()).find(({ name }) => name === 'Loose')!.translation[1]).toBe(2)

  // The slab, kept to a crate that stands on it, would follow itself.
  await editor.pick('Crate 1', 'Slab')
  await page.getByRole('button', { name: /^Keep facing Crate 1/ }).click()
  await expect(page.getByTestId('notice')).toContainText('in a circle')
  expect(await kept(editor)).toHaveLength(6)
  // What takes the same of a thing is said.
  await editor.pick('Crate 2', 'Crate 1')
  await page.getByRole('button', { name: /^Keep in line with Crate 2 along Y/ }).click()
  await expect(page.getByTestId('notice')).toContainText('takes the same of it')
  await page.getByRole('button', { name: /^Keep .* from Crate 2 along X/ }).click()
  await editor.saved()
  await nudge(page, 'Crate 2', 'Position X', '3')
  await editor.saved()
  const rows = await editor.rows()
  expect(rows.find(({ name }) => name === 'Crate 1')!.translation[0]).toBeCloseTo(2, 9)
})

test('what is kept on a block stands on it when that is edited, and as before when it is undone', async ({
  page,
  editor,
}) => {
  const block = v7()
  await editor.openWith(
    [
      { name: 'Podium', block, translation: [0, 0, 0] as Vec3 },
      { name: 'Barrel', part: 'Barrel', translation: [0, 0.5, 0] as Vec3 },
    ],
    [
      {
        do: 'put-block',
        id: block,
        fields: { shape: { type: 'box', width: 2, height: 0.5, depth: 2 }, color: '#b07850' },
      },
    ],
  )
  await editor.pick('Barrel')
  await page.getByRole('button', { name: 'Line up', exact: true }).click()
  await page.getByRole('button', { name: /^Keep on Podium/ }).click()
  await editor.saved()
  await editor.pick('Podium')
  await page.getByRole('button', { name: 'Blocks', exact: true }).click()
  await page.getByLabel('Height', { exact: true }).fill('1.25')
  await page.keyboard.press('Enter')
  await editor.saved()
  const { id } = await editor.named('Barrel')
  await expect.poll(async () => (await editor.row(id))!.translation[1]).toBeCloseTo(1.25, 6)
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect((await editor.row(id))!.translation).toEqual([0, 0.5, 0])
})

test('what is put down from the kit is kept by itself where that is wanted, in the same step', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Slab', part: 'Quay slab 4 m', translation: [0, 0, 0] as Vec3 }])
  await editor.look([0, 5, 6], [0, 0, 0])
  await page.getByLabel('Keep on what it is put on').check()
  await page.locator('[data-part="Barrel"]').click()
  const at = await editor.at([0.5, 0.4, 0.5])
  await page.mouse.move(at.x, at.y)
  await page.mouse.click(at.x, at.y)
  await page.keyboard.press('Escape')
  await editor.saved()
  const [slab, barrel] = [
    await editor.named('Slab'),
    (await editor.rows()).find(({ name }) => name.startsWith('Barrel'))!,
  ]
  expect(await kept(editor)).toMatchObject([{ held: barrel.id, rule: { kind: 'on' }, holders: [{ on: slab.id }] }])
  await nudge(page, 'Slab', 'Position Y', '2')
  await editor.saved()
  expect((await editor.row(barrel.id))!.translation[1]).toBeCloseTo(barrel.translation[1] + 2, 9)
})

test('a drag along what is held changes its number, with J held it lets go, and a link is clicked, typed and deleted', async ({
  page,
  editor,
}) => {
  await openBoxes(editor, [0.4, 0.4, 0.4], {
    Post: [0, 0, 0],
    Box: [1, 0, 0],
    // So that the whole way is on the stage.
    Far: [4, 0, 0],
  })
  await page.keyboard.press('8')
  await editor.pick('Post', 'Box')
  await page.getByRole('button', { name: 'Line up', exact: true }).click()
  await page.getByRole('button', { name: 'Keep 1.000 m from Post along X' }).click()
  await editor.saved()
  await editor.pick('Box')
  const { id } = await editor.named('Box')
  const metre = (await editor.at([1, 0, 0])).x - (await editor.at([0, 0, 0])).x
  const drag = async (metres: number) => {
    const grip = await editor.handle({ kind: 'axis', axis: 0 })
    await editor.pressAndMove(grip, { x: grip.x + metres * metre, y: grip.y })
  }

  // Along what is held: its number is another, said meanwhile.
  await drag(0.25)
  await expect.poll(() => editor.readout()).toContain('now 1.250 m from Post along X')
  expect(await editor.readout()).toContain('J lets go')
  await page.mouse.up()
  await editor.saved()
  expect(await kept(editor)).toMatchObject([{ rule: { distance: 1.25 } }])

  // Let go of for a while, it is held again when the key is.
  await drag(-0.5)
  await page.keyboard.down('j')
  await expect.poll(() => editor.readout()).toContain('lets go of 1 link')
  await page.keyboard.up('j')
  await expect.poll(() => editor.readout()).toContain('now 0.750 m from Post')
  // Put elsewhere with it, it is not kept any more; one step back it is, where it was.
  await page.keyboard.down('j')
  await expect.poll(() => editor.readout()).toContain('lets go of 1 link')
  await page.mouse.up()
  await page.keyboard.up('j')
  await editor.saved()
  expect(await kept(editor)).toEqual([])
  expect((await editor.row(id))!.translation[0]).toBeCloseTo(0.75, 9)
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect(await kept(editor)).toMatchObject([{ rule: { distance: 1.25 } }])

  // Its link, clicked once and again: its number is typed.
  const link = await editor.at([0.5, 0, 0])
  await page.mouse.move(link.x, link.y)
  await page.mouse.click(link.x, link.y)
  await expect.poll(() => editor.readout()).toContain('1.250 m from Post along X')
  await page.mouse.click(link.x, link.y)
  await page.getByLabel('Type Distance').fill('1.5')
  await page.keyboard.press('Enter')
  await editor.saved()
  expect((await editor.row(id))!.translation).toEqual([1.5, 0, 0])
  expect(await kept(editor)).toMatchObject([{ rule: { distance: 1.5 } }])
  // Delete means the link that was clicked, not the thing.
  await page.mouse.click(link.x, link.y)
  await expect.poll(() => editor.readout()).toContain('Delete lets go')
  await page.keyboard.press('Delete')
  await editor.saved()
  expect(await kept(editor)).toEqual([])
  expect((await editor.row(id))!.translation).toEqual([1.5, 0, 0])
})

test('two hundred props are set down on a bank and kept there in one step; the bank is lifted by its handle and all of them with it', async ({
  page,
  editor,
}) => {
  const block = v7()
  const props = Array.from({ length: 200 }, (_, i) => ({
    name: `Barrel ${i + 1}`,
    part: 'Barrel',
    translation: [(i % 20) - 9.5, 5, Math.floor(i / 20) - 4.5] as Vec3,
  }))
  await editor.openWith(
    [{ name: 'Bank', block, translation: [0, 0, 0] as Vec3 }, ...props],
    [
      {
        do: 'put-block',
        id: block,
        fields: { shape: { type: 'wedge', width: 24, height: 3, depth: 14 }, color: '#5f8a4c' },
      },
    ],
  )
  await page.getByRole('button', { name: 'Line up', exact: true }).click()
  await page.getByLabel('and keep it on what is below').check()
  await page.keyboard.press('/')
  await page.getByRole('combobox', { name: 'Find or do' }).fill('Barrel')
  await page.getByRole('option', { name: 'Pick all 200 found' }).click()
  await page.keyboard.press('g')
  await editor.saved()
  expect(await kept(editor)).toHaveLength(200)
  expect(await editor.done()).toHaveLength(2)
  const heights = async () =>
    new Map((await editor.rows()).filter(({ partId }) => partId).map(({ name, translation }) => [name, translation[1]]))
  const before = await heights()
  expect(new Set([...before.values()].map(height => height.toFixed(3))).size).toBeGreaterThan(5)

  // The list has scrolled on to what was picked.
  await page.keyboard.press('/')
  await page.getByRole('combobox', { name: 'Find or do' }).fill('holds')
  await page.keyboard.press('Enter')
  expect(await editor.pickedNames()).toEqual(['Bank'])
  const grip = await editor.handle({ kind: 'axis', axis: 1 })
  await editor.pressAndMove(grip, { x: grip.x, y: grip.y - 40 })
  await page.mouse.up()
  await editor.saved()
  const lifted = (await editor.named('Bank')).translation[1]
  expect(lifted).toBeGreaterThan(0.1)
  for (const [name, height] of await heights()) expect(height).toBeCloseTo(before.get(name)! + lifted, 9)
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect(await heights()).toEqual(before)
})

test('what is aligned is kept in line, a tape from its menu, and what a script has moved away is put back', async ({
  page,
  editor,
}) => {
  await openBoxes(editor, [1, 1, 1], {
    Post: [0, 0, 0],
    Box: [2, 0, 0.7],
  })
  await editor.look([1.5, 3.5, 6.5], [1.5, 0.5, 0])
  await page.getByRole('button', { name: 'Line up', exact: true }).click()
  await editor.pick('Box', 'Post')
  await page.getByRole('group', { name: 'Align Z' }).getByRole('button', { name: 'pivot' }).click()
  await page.getByLabel('and keep it so').check()
  await page.getByRole('button', { name: 'Align (moves 1)' }).click()
  await editor.saved()
  const [post, box] = [await editor.named('Post'), await editor.named('Box')]
  expect(await kept(editor)).toMatchObject([{ held: box.id, rule: { kind: 'apart', along: [0, 0, 1], distance: 0 } }])
  await nudge(page, 'Post', 'Position Z', '-1')
  await editor.saved()
  expect((await editor.row(box.id))!.translation).toEqual([2, 0, -1])

  // A tape from the post to the box, kept straight: the box follows.
  await page.keyboard.press('u')
  await editor.clickOn([0.5, 1, -0.5])
  await editor.clickOn([1.5, 1, -0.5])
  await page.keyboard.press('Escape')
  await editor.saved()
  await page.getByRole('button', { name: 'Keep Tape 1' }).click()
  await page.locator('.v-list-item', { hasText: 'Keep 1.000 m from Post along X' }).click()
  await editor.saved()
  expect(await kept(editor)).toHaveLength(2)
  await nudge(page, 'Post', 'Position X', '-0.5')
  await editor.saved()
  expect((await editor.row(box.id))!.translation[0]).toBeCloseTo(1.5, 9)

  // A script puts the box elsewhere and knows nothing of what is kept: found, and put back.
  const level = await fetch(`${editor.server.url}/api/levels/${editor.levelId}`)
  const { revision } = (await level.json()) as { revision: number }
  const moved = await fetch(`${editor.server.url}/api/levels/${editor.levelId}/changes`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      baseRevision: revision,
      changes: [
        {
          id: v7(),
          label: 'Script',
          author: 'Script',
          operations: [{ do: 'put', id: box.id, fields: { translation: [1.75, 0, -1] } }],
        },
      ],
    }),
  })
  expect(moved.status).toBe(200)
  await page.getByRole('button', { name: 'Check', exact: true }).click()
  await page.getByRole('button', { name: 'Box is 0.250 m off where it is kept to Post' }).click()
  await page.getByRole('button', { name: 'Put back', exact: true }).click()
  await page.getByRole('button', { name: 'Do it' }).click()
  await editor.saved()
  expect((await editor.row(box.id))!.translation[0]).toBeCloseTo(1.5, 9)
  expect((await editor.row(post.id))!.translation).toEqual([-0.5, 0, -1])
  expect(await kept(editor)).toHaveLength(2)
})

test('a copy that is left by a drag or duplicated stays kept as it stands; one step takes it back with all of that', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Slab', part: 'Quay slab 4 m', translation: [0, 0, 0] as Vec3 },
    { name: 'Crate', part: 'Crate', translation: [0, 0.4, 0] as Vec3 },
  ])
  await editor.look([0, 6, 7], [0, 0, 0])
  await editor.pick('Crate')
  await page.getByRole('button', { name: 'Line up', exact: true }).click()
  await page.getByRole('button', { name: /^Keep on Slab/ }).click()
  await editor.saved()

  // Alt leaves one behind, on the slab as the first.
  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  const metre = (await editor.at([1, 0.4, 0])).x - (await editor.at([0, 0.4, 0])).x
  await page.keyboard.down('Alt')
  await editor.pressAndMove(grip, { x: grip.x + metre, y: grip.y })
  await page.mouse.up()
  await page.keyboard.up('Alt')
  await editor.saved()
  expect(await kept(editor)).toHaveLength(2)
  await page.keyboard.press('Control+d')
  await editor.saved()
  expect((await editor.rows()).filter(({ name }) => name.startsWith('Crate'))).toHaveLength(3)
  expect(await kept(editor)).toHaveLength(3)
  await nudge(page, 'Slab', 'Position Y', '1')
  await editor.saved()
  const heights = (await editor.rows()).filter(({ name }) => name.startsWith('Crate')).map(each => each.translation[1])
  for (const height of heights) expect(height).toBeCloseTo(1.4, 6)
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect((await editor.rows()).filter(({ name }) => name.startsWith('Crate'))).toHaveLength(2)
  expect(await kept(editor)).toHaveLength(2)

  // Not where that is not wanted, and it is said.
  await editor.pick('Crate')
  await page.getByRole('button', { name: 'Repeat', exact: true }).click()
  await page.getByLabel('Stays kept to what the first is kept to').uncheck()
  await page.keyboard.press('Control+d')
  await editor.saved()
  await expect(page.getByTestId('notice')).toContainText('1 link to other things was not copied')
  expect(await kept(editor)).toHaveLength(2)
})
