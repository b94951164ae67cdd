import { readFile } from 'node:fs/promises'
import { unzipSync } from 'fflate'
import sharp from 'sharp'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { eq } from 'drizzle-orm'
import { v7 } from 'uuid'
import { isCamera, isLight, isMarker } from '../../core/level/kinds'
import { cameraOwn } from '../../core/level/create'
import type { Placement } from '../../core/level/schema'
import type { Vec3 } from '../../core/math/vectors'
import { meshOfBlockKey, shapeKey } from '../../core/mesh/block-key'
import { Solid } from '../../core/mesh/solid'
import { LevelIndex } from '../../core/scene/level-index'
import { bareView } from '../../core/scene/level-view'
import { settleScene } from '../../core/settle/scene'
import { loadPhysics, Settling } from '../../core/settle/settle'
import { levels, skies } from '../../server/db/schema'
import type { Editor } from './support'
import { expect, test } from './support'

const [SLAB, CUBE, WALL, STEP, TOWER, LOW] = [v7(), v7(), v7(), v7(), v7(), v7()]
const block = (id: string, width: number, height: number, depth: number) => ({
  do: 'put-block' as const,
  id,
  fields: { color: '#b9a58b', shape: { type: 'box' as const, width, height, depth } },
})
const SHAPES = [
  block(SLAB, 16, 0.5, 16),
  block(CUBE, 1, 1, 1),
  block(WALL, 4, 3, 0.3),
  block(STEP, 3, 0.178, 0.5),
  block(TOWER, 3, 0.4, 0.5),
  block(LOW, 0.6, 0.6, 0.6),
]
const ground = { name: 'Yard floor', block: SLAB, translation: [0, -0.5, 0] as Vec3, locked: true }

const sightOf = ({ rotation }: Pick<Placement, 'rotation'>) =>
  new Vector3(0, 0, -1).applyQuaternion(new Quaternion(...rotation))
const bench = (editor: Editor, tab: string) =>
  editor.page.getByRole('group', { name: 'What to put down' }).getByRole('button', { name: tab, exact: true }).click()
const putDown = (editor: Editor, what: string) =>
  editor.page.getByRole('group', { name: 'Put down' }).getByRole('button', { name: what, exact: true }).click()

async function open(editor: Editor, things: Parameters<Editor['openWith']>[0]): Promise<void> {
  await editor.openWith([ground, ...things], SHAPES)
  await editor.page.getByRole('button', { name: 'Cameras', exact: true }).first().click()
  await editor.setGrid('0.5')
  await editor.look([0, 7, 9], [0, 0.5, 0])
}

async function press(editor: Editor, from: Vec3, to: Vec3): Promise<void> {
  await editor.pressAndMove(await editor.at(from), await editor.at(to))
  await editor.page.mouse.up()
  await editor.saved()
}

test('a camera is put down by a drag, looked through, steered with an undo of its own, stays aimed at a thing that moves, and takes pictures', async ({
  page,
  editor,
}) => {
  await open(editor, [{ name: 'Cube', block: CUBE, translation: [2, 0, -1] }])
  await putDown(editor, 'Camera')
  await press(editor, [-3, 0, 2], [1.5, 0, 0])
  let camera = (await editor.row((await editor.named('Camera 1')).id))!
  expect(camera.translation).toEqual([-3, 1.7, 2])
  expect(sightOf(camera).angleTo(new Vector3(4.5, -1.7, -2))).toBeLessThan(1e-6)

  // Through it: the frame has its proportions, and steering is one change that can be undone.
  await page.getByRole('button', { name: 'Look through it' }).click()
  await expect(page.getByTestId('modes')).toContainText('Looking through Camera 1')
  const frame = (await page.getByTestId('camera-frame').boundingBox())!
  expect(frame.width / frame.height).toBeCloseTo(16 / 9, 1)
  expect((await editor.view()).eye.map(value => Number(value.toFixed(4)))).toEqual([-3, 1.7, 2])
  const middle = { x: frame.x + frame.width / 2, y: frame.y + frame.height / 2 }
  await page.mouse.move(middle.x, middle.y)
  await page.mouse.down({ button: 'right' })
  await page.mouse.move(middle.x + 80, middle.y, { steps: 5 })
  await page.mouse.up({ button: 'right' })
  await expect.poll(() => editor.done()).toEqual(['Put down Camera 1', 'Steer Camera 1'])
  const steered = (await editor.row(camera.id))!
  expect(sightOf(steered).angleTo(sightOf(camera))).toBeGreaterThan(0.05)
  expect(steered.translation.map(value => Number(value.toFixed(6)))).toEqual([-3, 1.7, 2])
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect(sightOf((await editor.row(camera.id))!).angleTo(sightOf(camera))).toBeLessThan(1e-6)
  await page.keyboard.press('Escape')
  expect((await editor.view()).eye[1]).toBeCloseTo(7, 3)

  // Numbers: a 50 mm lens on 36 mm film at 3:2 sees 27.0 by 39.6 degrees.
  await page.getByRole('button', { name: 'Free', exact: true }).click()
  await page.getByLabel('Width over height').fill('1.5')
  await page.keyboard.press('Enter')
  await page.getByLabel('Focal length').fill('50')
  await page.keyboard.press('Enter')
  await expect(page.getByTestId('across')).toHaveText('39.6°')
  await editor.saved()
  expect(((await editor.row(camera.id))!.own as { fieldOfView: number }).fieldOfView).toBeCloseTo(27, 1)
  await page.getByLabel('Field of view, upright').fill('180')
  await page.keyboard.press('Enter')
  await expect(page.getByText('This must be at most 170°.')).toBeVisible()
  await page.keyboard.press('Escape')

  // Aimed at the cube, and turned with it.
  await page.getByRole('button', { name: 'Aim at …' }).click()
  const cube = await editor.at([2, 0.5, -1])
  await page.mouse.move(cube.x, cube.y)
  await page.mouse.click(cube.x, cube.y)
  await editor.saved()
  camera = (await editor.row(camera.id))!
  expect(isCamera(camera.own) && camera.own.aim?.on).toBe((await editor.named('Cube')).id)
  await editor.pick('Cube')
  await editor.pressAndMove(await editor.handle({ kind: 'axis', axis: 0 }), await editor.at([4.6, 0.5, -1]))
  await page.mouse.up()
  await editor.saved()
  const [moved, aimed] = [(await editor.row((await editor.named('Cube')).id))!, (await editor.row(camera.id))!]
  expect(moved.translation[0]).toBeGreaterThan(3)
  expect(
    sightOf(aimed).angleTo(
      new Vector3(...moved.translation).add(new Vector3(0, 0.5, 0)).sub(new Vector3(...aimed.translation)),
    ),
  ).toBeLessThan(1e-5)

  // The strip has a picture of each camera, and jumps.
  await page.keyboard.press('o')
  const strip = page.getByRole('region', { name: 'Picture strip' })
  await expect(strip.getByRole('img', { name: 'What Camera 1 sees' })).toBeVisible({ timeout: 30_000 })
  await strip.getByRole('button', { name: 'Camera 1' }).click()
  await expect(page.getByTestId('modes')).toContainText('Looking through Camera 1')

  // Pictures of a chosen size, and all of them at once.
  await editor.pick('Camera 1')
  await page.getByRole('button', { name: 'Take pictures …' }).click()
  await page.getByLabel('Width of the picture').fill('900')
  await page.keyboard.press('Enter')
  const [one] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Take Camera 1' }).click(),
  ])
  const picture = sharp(await one.path())
  expect(await picture.metadata()).toMatchObject({ format: 'png', width: 900, height: 600 })
  // The cube is aimed at: the middle of the picture is lit block, no sky and no paper.
  const { data, info } = await picture.raw().toBuffer({ resolveWithObject: true })
  const middleOf = (300 * info.width + 450) * info.channels
  const corner = (20 * info.width + 20) * info.channels
  expect(Math.abs(data[middleOf]! - data[corner]!) + Math.abs(data[middleOf + 2]! - data[corner + 2]!)).toBeGreaterThan(
    20,
  )
  await page.getByRole('button', { name: 'Take pictures …' }).click()
  const [zip] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: /as a ZIP/ }).click(),
  ])
  const files = unzipSync(new Uint8Array(await readFile(await zip.path())))
  expect(Object.keys(files)).toEqual(['01 Camera 1.png'])
  expect((await sharp(files['01 Camera 1.png']).metadata()).height).toBe(600)
})

test('lights are put down and dragged; the level has its own night; markers say what they mean', async ({
  page,
  editor,
}) => {
  await open(editor, [{ name: 'Cube', block: CUBE, translation: [0, 0, -2] }])
  await expect(page.getByTestId('stats')).toContainText('working light')
  await bench(editor, 'Lights')
  await putDown(editor, 'Spot')
  await press(editor, [-2, 0, 1], [0, 0, -1.5])
  const spot = (await editor.row((await editor.named('Spot 1')).id))!
  expect(spot.translation).toEqual([-2, 3, 1])
  expect(sightOf(spot).angleTo(new Vector3(2, -3, -2.5))).toBeLessThan(0.25)
  // Its range is dragged by its grip along its axis.
  const near = new Vector3(-2, 3, 1).addScaledVector(sightOf(spot), 6).toArray()
  await editor.look([4, 9, 12], [0, 0, -3])
  await editor.pressAndMove(await editor.handle({ do: 'grip', index: 1 }), await editor.at(near))
  await page.mouse.up()
  await editor.saved()
  const shorter = (await editor.row(spot.id))!.own
  expect(isLight(shorter) && shorter.range).toBeGreaterThan(5)
  expect(isLight(shorter) && shorter.range).toBeLessThan(7.5)
  // 4π candela are 12.566 lumen for a point; what makes no sense is said and changes nothing.
  await putDown(editor, 'Point light')
  await press(editor, [3, 0, 1], [3, 0, 1])
  await page.getByLabel('In lumen').fill('1000')
  await page.keyboard.press('Enter')
  await editor.saved()
  const point = (await editor.row((await editor.named('Point light 1')).id))!
  expect(isLight(point.own) && point.own.intensity).toBeCloseTo(1000 / (4 * Math.PI), 6)
  await page.getByLabel('Brightness').fill('-5')
  await page.keyboard.press('Enter')
  await expect(page.getByText('This cannot be negative.')).toBeVisible()
  await page.keyboard.press('Escape')

  // By night lamps light the level by themselves; its exposure is kept in it.
  await page.getByRole('button', { name: 'Night', exact: true }).click()
  await expect(page.getByTestId('stats')).not.toContainText('working light')
  await page.getByLabel('Exposure').fill('6')
  await page.keyboard.press('Enter')
  await editor.saved()
  expect(await editor.server.db.select().from(skies).where(eq(skies.levelId, editor.levelId))).toMatchObject([
    { of: 'night', exposure: 6 },
  ])

  // A sun by place and hour: at noon of the June solstice on the tropic it is overhead.
  await putDown(editor, 'Sun')
  await press(editor, [-4, 0, -3], [-4, 0, -3])
  await page.getByLabel('Stands by place, date and hour').click()
  for (const [label, text] of [
    ['Latitude', '23.44'],
    ['Longitude', '0'],
    ['Hours ahead of UTC', '0'],
    ['Date and time', '2026-06-21T12:02'],
  ] as const) {
    await page.getByLabel(label, { exact: true }).fill(text)
    await page.keyboard.press('Enter')
  }
  await expect(page.getByTestId('sun-altitude')).toHaveText(/^(89\.[5-9]|90\.0)°$/)
  await editor.saved()
  expect(sightOf((await editor.row((await editor.named('Sun 1')).id))!).y).toBeLessThan(-0.999)
  await page.getByLabel('Latitude', { exact: true }).fill('95')
  await page.keyboard.press('Enter')
  await expect(page.getByText(/must lie on the earth/)).toBeVisible()
  await page.keyboard.press('Escape')

  // Markers: a volume by its base, a note with an arrow, fields that are handed over.
  await bench(editor, 'Markers')
  await putDown(editor, 'Volume')
  await press(editor, [2, 0, 2], [4, 0, 3])
  const volume = (await editor.row((await editor.named('Volume 1')).id))!
  expect([volume.translation, volume.scale]).toEqual([
    [3, 0, 2.5],
    [2, 2.5, 1],
  ])
  await page.getByRole('button', { name: 'Add a field' }).click()
  await page.getByLabel('Value of field 1').fill('quiet')
  await page.keyboard.press('Enter')
  await putDown(editor, 'Note')
  await press(editor, [0, 1, -2], [-3, 0, 3])
  await editor.saved()
  expect((await editor.row(volume.id))!.own).toMatchObject({
    marker: 'volume',
    fields: [{ key: 'field 1', type: 'text', value: 'quiet' }],
  })
  const note = (await editor.row((await editor.named('Note 1')).id))!
  expect(isMarker(note.own) && note.own.marker === 'note' && note.own.arrow?.on).toBe((await editor.named('Cube')).id)
})

test('walking: stairs of 178 mm are climbed, one of 400 mm stops and is named, Esc leaves the view as it was, and the way is kept', async ({
  page,
  editor,
}) => {
  const stairs = [0, 1, 2].map(i => ({
    name: `Stair ${i + 1}`,
    block: STEP,
    translation: [0, 0.178 * i, -1.25 - 0.5 * i] as Vec3,
  }))
  const spawn = {
    name: 'Entry',
    kind: 'marker' as const,
    own: { marker: 'spawn' as const, text: '', tags: [], fields: [] },
    translation: [0, 0, 1] as Vec3,
    rotation: [0, 1, 0, 0] as [number, number, number, number],
  }
  await open(editor, [...stairs, { name: 'Ledge', block: TOWER, translation: [0, 0.534, -3] as Vec3 }, spawn])
  const before = await editor.view()
  await bench(editor, 'Walk')
  await page.getByRole('button', { name: 'Walk from Entry' }).click()
  await expect(page.getByTestId('modes')).toContainText('Walk check')
  expect((await editor.view()).eye[1]).toBeCloseTo(1.7, 2)
  await page.keyboard.down('w')
  await expect.poll(() => editor.readout(), { timeout: 60_000 }).toContain('stopped last by Ledge')
  await page.keyboard.up('w')
  const eye = (await editor.view()).eye
  expect(eye[1]).toBeCloseTo(1.7 + 3 * 0.178, 2)
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('walked')).toContainText('Ledge')
  const after = await editor.view()
  expect([...after.eye, ...after.target]).toEqual([...before.eye, ...before.target])
  await page.getByTestId('walked').getByRole('button', { name: 'Ledge' }).click()
  expect(await editor.pickedNames()).toEqual(['Ledge'])
  await page.getByRole('button', { name: 'Keep as a walking line' }).click()
  await editor.saved()
  const line = (await editor.row((await editor.named('Walking line 1')).id))!
  expect(line.own).toMatchObject({ marker: 'walk', width: 0.9 })
  const points =
    isMarker(line.own) && line.own.marker === 'walk'
      ? line.own.points.map(point => new Vector3(...point).add(new Vector3(...line.translation)))
      : []
  expect(points[0]!.toArray()).toEqual([0, 0, 1])
  expect(points.at(-1)!.y).toBeGreaterThan(0.3)
})

test('settling: what falls comes to rest where the same physics puts it without a page, as one change; pouring puts new things in', async ({
  page,
  editor,
}) => {
  const tilt = new Quaternion().setFromAxisAngle(new Vector3(0, 0, 1), 0.3).toArray() as [
    number,
    number,
    number,
    number,
  ]
  const cubes = [
    { name: 'Upper cube', id: v7(), block: LOW, translation: [0.2, 2.2, 0] as Vec3, rotation: tilt },
    { name: 'Lower cube', id: v7(), block: LOW, translation: [0, 0.8, 0] as Vec3 },
  ]
  await editor.openWith([ground, ...cubes], SHAPES)
  await editor.look([0, 4, 7], [0, 0.5, 0])
  await editor.pick('Lower cube', 'Upper cube')
  await page.getByRole('button', { name: 'Settle', exact: true }).click()
  const before = await editor.rows()
  await page.getByRole('button', { name: 'Let 2 fall' }).click()
  await expect(page.getByTestId('settle-state')).toContainText('2 of 2', { timeout: 60_000 })
  // Nothing is written until it is kept, and dismissing leaves no trace.
  expect(await editor.rows()).toEqual(before)
  await page.getByRole('button', { name: 'Dismiss' }).click()
  expect(await editor.done()).toEqual([])
  await page.getByRole('button', { name: 'Let 2 fall' }).click()
  await expect(page.getByTestId('settle-state')).toContainText('2 of 2', { timeout: 60_000 })
  await page.getByRole('button', { name: 'Keep it so' }).click()
  expect(await editor.done()).toEqual(['Settle 2 things'])

  // The same here, without a page.
  const blocks = SHAPES.map(({ id, fields }) => ({ id, ...fields }))
  const level = bareView(before, { blocks })
  const solids = new Map(blocks.map(each => [shapeKey(each), new Solid(meshOfBlockKey(shapeKey(each)))]))
  const index = new LevelIndex(level, shape => solids.get(shape))
  await loadPhysics()
  const settling = new Settling(settleScene(level, index, [cubes[1]!.id, cubes[0]!.id], () => 'hull'))
  while (!settling.isDone) settling.step()
  const found = settling.matrices()
  for (const [i, { id }] of [cubes[1]!, cubes[0]!].entries()) {
    const here = new Vector3().setFromMatrixPosition(new Matrix4().fromArray(found, i * 16))
    expect(new Vector3(...(await editor.row(id))!.translation).distanceTo(here)).toBeLessThan(1e-6)
  }
  settling.dispose()
  await page.keyboard.press('Control+z')
  await editor.saved()
  expect((await editor.rows()).map(({ translation }) => translation)).toEqual(
    before.map(({ translation }) => translation),
  )

  // Pouring.
  const mix = page.getByRole('combobox', { name: 'Parts to pour' })
  await mix.fill('Basket')
  await page.getByRole('option', { name: 'Basket' }).click()
  await page.keyboard.press('Escape')
  await page.getByLabel('How many').fill('4')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'Pour: drag a circle' }).click()
  await editor.pressAndMove(await editor.at([3, 0, 0]), await editor.at([3.8, 0, 0]))
  await page.mouse.up()
  await expect(page.getByTestId('settle-state')).toContainText('4 of 4', { timeout: 90_000 })
  await page.getByRole('button', { name: 'Keep it so' }).click()
  await editor.saved()
  const baskets = (await editor.rows()).filter(({ name }) => name.startsWith('Basket'))
  expect(baskets).toHaveLength(4)
  for (const {
    translation: [x, y, z],
  } of baskets) {
    expect(Math.hypot(x - 3, z)).toBeLessThan(3)
    expect(y).toBeGreaterThan(-0.01)
  }
  expect((await editor.server.db.select().from(levels).where(eq(levels.id, editor.levelId)))[0]!.placementCount).toBe(7)
})

test('the cut list is played, and a camera in a wall says that its view is blocked', async ({ page, editor }) => {
  await open(editor, [
    { name: 'First shot', kind: 'camera', own: cameraOwn({ cut: { order: 0, seconds: 1.5 } }), translation: [0, 2, 5] },
    {
      name: 'Second shot',
      kind: 'camera',
      own: cameraOwn({ cut: { order: 1, seconds: 1.5 } }),
      translation: [4, 2, 5],
    },
    { name: 'Blocked shot', kind: 'camera', own: cameraOwn(), translation: [0, 1.5, -2.5] },
    { name: 'Wall', block: WALL, translation: [0, 0, -3] },
  ])
  await page.getByRole('button', { name: 'Play the cut list' }).click()
  await expect(page.getByTestId('modes')).toContainText('Playing the cut list')
  await expect.poll(async () => (await editor.view()).eye[0], { timeout: 20_000 }).toBeCloseTo(4, 3)
  await expect(page.getByTestId('modes')).toBeHidden({ timeout: 20_000 })
  expect((await editor.view()).eye[1]).toBeCloseTo(7, 3)
  await page.keyboard.press('o')
  await expect(
    page.getByRole('region', { name: 'Picture strip' }).getByTitle('Wall is right before Blocked shot'),
  ).toBeVisible({ timeout: 30_000 })
})
