import { readFile } from 'node:fs/promises'
import { eq } from 'drizzle-orm'
import { Matrix4, Vector3 } from 'three'
import { localMatrix } from '../../core/math/transform'
import { readChunks } from '../../core/formats/glb-chunks'
import { demoId } from '../../demo/kit'
import { meshTextures, parts, textures } from '../../server/db/schema'
import type { Editor } from './support'
import { dropFile, expect, test } from './support'

/** The pictures in a binary glTF file, as text. */
function imagesOf(glb: Uint8Array): string[] {
  const { json, binary } = readChunks(glb, 1e8)
  const { images = [], bufferViews = [] } = json as {
    images?: { bufferView: number }[]
    bufferViews?: { byteOffset?: number; byteLength: number }[]
  }
  return images.map(({ bufferView }) => {
    const { byteOffset = 0, byteLength } = bufferViews[bufferView]!
    return Buffer.from(binary!.slice(byteOffset, byteOffset + byteLength)).toString('base64')
  })
}

/** The kit's entry of a name, in the database. */
const stored = async (editor: Editor, name: string) =>
  (await editor.server.db.select().from(parts).where(eq(parts.name, name)))[0]

test('a textured file dropped on the stage becomes a part that is placed, handed over and shown at its size; nonsense is refused in the form', async ({
  page,
  editor,
  server,
}) => {
  await editor.openWith([{ name: 'Crate 1', part: 'Crate', translation: [3, 0, 0] }])
  const before = await server.db.$count(parts)
  await dropFile(page, 'README.md', 'broken.glb')
  await expect(page.getByTestId('import-refused')).toHaveText('Its description is no well-formed JSON.')
  await expect(page.getByRole('button', { name: 'Bring in', exact: true }).last()).toBeDisabled()
  await page.getByRole('button', { name: 'Cancel' }).click()
  expect(await server.db.$count(parts)).toBe(before)

  await dropFile(page, 'public/samples/sign-textured.glb')
  await expect(page.getByTestId('import-size')).toHaveText('0.900 m × 2.200 m × 0.150 m')
  await expect(page.getByTestId('import-told')).toContainText('The validator finds nothing against it.')
  await expect(page.getByRole('list', { name: 'Textures' }).getByRole('listitem')).toHaveCount(3)
  await page.getByLabel('Name of the part').fill('Market sign')
  await editor.choose('Most pixels of a texture', 'at most 256 px')
  await page.getByRole('button', { name: 'Bring in', exact: true }).last().click()
  // It was dropped on the stage, so it is placed there next.
  await expect(page.getByTestId('modes')).toContainText('Placing Market sign')
  await editor.look([0, 3, 7], [0, 1, 0])
  const ground = await editor.at([-1, 0, 0])
  await page.mouse.move(ground.x, ground.y, { steps: 3 })
  await page.mouse.click(ground.x, ground.y)
  await page.keyboard.press('Escape')
  const sign = await editor.named('Market sign 1')
  expect(sign.translation).toEqual([-1, 0, 0])
  await editor.saved()
  const part = (await stored(editor, 'Market sign'))!
  expect([part.minX, part.minY, part.maxY].map(value => Math.round(value * 1000) / 1000)).toEqual([-0.45, 0, 2.2])
  expect(await server.db.select().from(meshTextures).where(eq(meshTextures.meshHash, part.meshHash))).toHaveLength(3)
  // What is handed over holds the pictures of the file, byte by byte.
  const images = imagesOf(
    new Uint8Array(await (await fetch(`${server.url}/api/levels/${editor.levelId}/export.glb`)).arrayBuffer()),
  )
  const original = imagesOf(new Uint8Array(await readFile('public/samples/sign-textured.glb')))
  expect(images.toSorted()).toEqual(original.toSorted())
  expect(
    (await server.db.select().from(textures)).map(({ bytes }) => Buffer.from(bytes).toString('base64')).toSorted(),
  ).toEqual(original.toSorted())
  // The card's picture is taken once and kept with the part.
  await expect.poll(async () => (await stored(editor, 'Market sign'))?.pictureType).toBe('image/png')

  await page.getByRole('button', { name: 'Bring in' }).click()
  await page.getByText('Two bollards').click()
  await expect(page.getByTestId('import-size')).toBeVisible()
  await page.getByRole('button', { name: 'Z', exact: true }).click()
  await page.getByRole('button', { name: '2 parts' }).click()
  await expect(page.getByTestId('import-size')).toContainText('0.380 m × 0.850 m × 0.380 m')
  await page.getByRole('button', { name: 'Bring in 2 parts' }).click()
  await expect(page.getByTestId('notice')).toContainText('2 parts are in the kit')
  expect((await stored(editor, 'Bollard with rope'))!.maxY).toBeCloseTo(0.85, 4)
})

test('what is picked becomes a part; opened and changed, all its instances follow in one change that can be taken back', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Crate 1', part: 'Crate', translation: [0, 0, 0] },
    { name: 'Barrel 1', part: 'Barrel', translation: [0.9, 0, 0] },
    { name: 'Lantern 1', part: 'Lantern post', translation: [-4, 0, -3] },
  ])
  await editor.look([1, 4, 8], [0, 0.5, 0])
  // By pointer: a frame drawn upwards around both.
  const [low, high] = [await editor.at([-1.2, 0, 1.2]), await editor.at([2, 1.6, -0.8])]
  await editor.pressAndMove({ x: low.x - 20, y: low.y + 30 }, { x: high.x + 20, y: high.y - 20 })
  await page.mouse.up()
  expect((await editor.pickedNames()).toSorted()).toEqual(['Barrel 1', 'Crate 1'])
  await editor.doMore('Save as a part')
  await page.getByLabel('Name of the part').fill('Goods')
  await page.getByLabel('Tags').fill('market, heap')
  await page.getByRole('button', { name: 'Save', exact: true }).click()
  await expect(page.getByRole('dialog')).toHaveCount(0)
  const goods = await editor.named('Goods 1')
  await editor.saved()
  expect((await editor.rows()).map(({ name }) => name).toSorted()).toEqual(['Goods 1', 'Lantern 1'])
  const part = (await stored(editor, 'Goods'))!
  expect(part).toMatchObject({ tags: ['market', 'heap'], kind: 'prop' })
  expect(goods.partId).toBe(part.id)
  // Nothing has moved: its pivot is in the middle of the bottom of what it was made of.
  expect(goods.translation[0]).toBeCloseTo((-0.4 + 0.9 + 0.335) / 2, 2)

  await page.keyboard.press('Control+d')
  await expect.poll(async () => (await editor.placements()).length).toBe(3)
  await editor.pick('Goods 1')
  const revision = await editor.storedRevision()
  const yard = editor.levelId
  await editor.doMore('Edit the part')
  await expect(page.getByTestId('workshop')).toContainText('Editing the part Goods')
  await expect(page.getByTestId('workshop')).toContainText('2 things in 1 level: Yard (2)')
  await editor.ready()
  // What is around cannot be touched: a click where the lantern stands picks nothing.
  const inPart = (await editor.placements()).map(({ name }) => name).toSorted()
  expect(inPart).toEqual(['Barrel 1', 'Crate 1'])
  await page.keyboard.press('Escape')
  const lantern = await editor.at([-4 - goods.translation[0], 1.5, -3 - goods.translation[2]])
  await page.mouse.click(lantern.x, lantern.y)
  expect(await editor.pickedNames()).toEqual([])
  // A part cannot be put into itself.
  await page.locator('[data-part="Goods"]').click()
  const ground = await editor.at([1.5, 0, 2])
  await page.mouse.move(ground.x, ground.y, { steps: 2 })
  await page.mouse.click(ground.x, ground.y)
  await expect(page.getByTestId('notice')).toContainText('A part cannot be inside itself.')
  await page.getByTestId('notice').getByRole('button', { name: 'Close' }).click()
  await page.keyboard.press('Escape')
  // But things are snapped to it: the crate is dragged by its corner to one of the lantern, also after a reload.
  await page.reload()
  await editor.ready()
  await editor.pick('Crate 1')
  await page.keyboard.press('m')
  await editor.look([0, 4, 8], [-2, 0.5, -1])
  const foot = new Vector3(-4 - goods.translation[0], 0, -3 - goods.translation[2])
  const [hold, there] = [await editor.handle({ kind: 'view' }), await editor.at(foot.toArray())]
  await page.keyboard.down('n')
  await editor.pressAndMove(hold, there)
  await expect.poll(() => editor.readout()).toContain('of Lantern 1')
  await page.mouse.up()
  await page.keyboard.up('n')
  await editor.saved()
  const snapped = await editor.named('Crate 1')
  expect(new Vector3(...snapped.translation).distanceTo(foot)).toBeLessThan(0.6)
  expect(await editor.row(snapped.id)).toEqual(snapped)
  await page.keyboard.press('Control+z')
  // The crate is raised by its handle.
  await editor.pick('Crate 1')
  await page.keyboard.press('m')
  const up = await editor.handle({ kind: 'axis', axis: 1 })
  await editor.pressAndMove(up, { x: up.x, y: up.y - 60 })
  await page.mouse.up()
  const crate = await editor.named('Crate 1')
  expect(crate.translation[1]).toBeGreaterThan(0.2)
  await editor.saved()
  await page.getByRole('button', { name: 'Done' }).click()
  await expect(page.getByTestId('notice')).toContainText('Goods was changed')
  await editor.ready()
  expect(editor.levelId).toBe(yard)
  // The level itself was not written; the part was, once.
  expect(await editor.storedRevision()).toBe(revision)
  const raised = (await stored(editor, 'Goods'))!
  expect(raised.maxY).toBeCloseTo(crate.translation[1] + 0.8, 3)
  expect(raised.meshHash).not.toBe(part.meshHash)
  await page.getByTestId('notice').getByRole('button', { name: 'Take it back' }).click()
  await expect.poll(async () => (await stored(editor, 'Goods'))!.maxY).toBeCloseTo(part.maxY, 5)
  await editor.ready()
})

test('old lanterns are swapped for new ones without moving any; railings click together at their ends and go on as a chain', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Lantern 1', part: 'Lantern post', translation: [-3, 0, -2], rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2] },
    { name: 'Lantern 2', part: 'Lantern post', translation: [3, 0, -2], scale: [1, 1.5, 1] },
    { name: 'Railing 1', part: 'Railing 2 m', translation: [0, 0, 0] },
    { name: 'Railing 2', part: 'Railing 2 m', translation: [1, 0, 2.2], rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2] },
  ])
  await editor.look([1.5, 4, 7], [1, 0, 0])
  const matrices = async () =>
    Promise.all(
      ['Lantern 1', 'Lantern 2'].map(async name => localMatrix(await editor.named(name), new Matrix4()).elements),
    )
  const before = await matrices()
  await editor.pick('Lantern 1')
  await page.keyboard.press('Control+Alt+s')
  await page.getByRole('button', { name: 'All instances' }).click()
  await expect(page.getByTestId('swap')).toContainText('Swap 2 things')
  await page.locator('[data-part="Barrel"]').hover()
  await editor.drawn()
  expect((await editor.named('Lantern 2')).partId).toBe(demoId('part/Lantern post'))
  await page.locator('[data-part="Barrel"]').click()
  await editor.saved()
  expect((await editor.named('Lantern 2')).partId).toBe(demoId('part/Barrel'))
  expect(await matrices()).toEqual(before)
  expect((await editor.rows()).filter(({ partId }) => partId === demoId('part/Lantern post'))).toEqual([])

  await editor.pick('Railing 2')
  await page.keyboard.press('m')
  const grip = await editor.handle({ kind: 'plane', axis: 1 })
  // Its nearer end, at z = 1.2, is brought to the right end of the other.
  const [from, to] = [await editor.at([1, 0, 1.2]), await editor.at([1.06, 0, 0.05])]
  await editor.pressAndMove(grip, { x: grip.x + to.x - from.x, y: grip.y + to.y - from.y })
  await expect(page.getByTestId('readout')).toContainText('of Railing 1')
  await page.mouse.up()
  await editor.saved()
  const joined = await editor.named('Railing 2')
  expect(joined.translation.map(value => Math.round(value * 1e9) / 1e9)).toEqual([2, 0, 0])
  expect(await editor.row(joined.id)).toEqual(joined)
  // With Ctrl it goes where it is led.
  await page.keyboard.press('Control+z')
  await page.keyboard.down('Control')
  const again = await editor.handle({ kind: 'plane', axis: 1 })
  await editor.pressAndMove(again, { x: again.x + to.x - from.x, y: again.y + to.y - from.y })
  await page.mouse.up()
  await page.keyboard.up('Control')
  expect((await editor.named('Railing 2')).rotation).toEqual(
    [0, Math.SQRT1_2, 0, Math.SQRT1_2].map(value => expect.closeTo(value, 9)),
  )
  await page.keyboard.press('Control+z')

  await page.keyboard.press('Escape')
  await page.keyboard.press('k')
  for (const x of [-1, -3]) {
    const end = await editor.at([x, 0, 0])
    await page.mouse.move(end.x + 2, end.y + 1, { steps: 2 })
    await expect(page.getByTestId('readout')).toContainText('Chain: Railing 2 m')
    await page.mouse.click(end.x + 2, end.y + 1)
  }
  await page.keyboard.press('Escape')
  await editor.saved()
  const chain = (await editor.rows()).filter(({ name }) => name.startsWith('Railing 2 m'))
  expect(
    chain.map(({ translation }) => translation.map(value => Math.round(value * 1e9) / 1e9 + 0)).toSorted(),
  ).toEqual([
    [-2, 0, 0],
    [-4, 0, 0],
  ])
})
