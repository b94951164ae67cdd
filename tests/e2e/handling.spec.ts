import { Vector3 } from 'three'
import type { Vec3 } from '../../core/math/vectors'
import { degreesToQuat } from '../../core/math/transform'
import type { Editor } from './support'
import { expect, test } from './support'

/**
 * Drags a dial around its middle by some degrees on the screen, clockwise, in small steps as a hand does; the button
 * stays down.
 */
async function swing(editor: Editor, axis: 0 | 1 | 2, centre: Vec3, degrees: number): Promise<void> {
  const grip = await editor.handle({ do: 'turn', axis })
  const middle = await editor.at(centre)
  const [radius, start] = [
    Math.hypot(grip.x - middle.x, grip.y - middle.y),
    Math.atan2(grip.y - middle.y, grip.x - middle.x),
  ]
  await editor.page.mouse.move(grip.x, grip.y)
  await editor.page.mouse.down()
  for (let i = 1; i <= 12; i++) {
    const angle = start + (((degrees * i) / 12) * Math.PI) / 180
    await editor.page.mouse.move(middle.x + radius * Math.cos(angle), middle.y + radius * Math.sin(angle))
  }
}

test('a tipped-over planter is put upright by exactly 90 degrees with the turn step', async ({ page, editor }) => {
  await editor.openWith([
    { name: 'Planter', part: 'Planter', translation: [1, 0.4, 0], rotation: degreesToQuat([0, 0, 90]) },
  ])
  await editor.pick('Planter')
  await page.keyboard.press('t')
  await editor.look([1, 0.8, 5], [1, 0.4, 0])
  await swing(editor, 2, [1, 0.4, 0], 88)
  expect(await editor.readout()).toMatch(/^Turn about Z -90° in steps of 15°/)
  // The ledger's numbers run along.
  await expect(page.getByLabel('Turn Z', { exact: true })).toHaveValue('0.00')
  await page.mouse.up()
  await editor.saved()
  const planter = await editor.named('Planter')
  expect(planter.rotation.map(Math.abs)).toEqual([0, 0, 0, 1])
  expect(await editor.row(planter.id)).toEqual(planter)
  expect(await editor.done()).toEqual(['Turn Planter'])
})

test('a move is typed as 24 in, a turn and a size as numbers, during a drag and without one', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  await editor.pick('Crate')
  await editor.look([3, 2.4, 4], [0, 0.4, 0])
  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  await editor.pressAndMove(grip, { x: grip.x + 60, y: grip.y })
  await page.keyboard.press('=')
  await expect(page.getByLabel('Type X')).toBeFocused()
  await page.keyboard.type('24 in')
  await page.mouse.move(grip.x - 200, grip.y)
  await page.keyboard.press('Enter')
  await page.mouse.up()
  // 24 inches of 25.4 mm (NIST SP 811).
  expect((await editor.named('Crate')).translation).toEqual([0.6096, 0, 0])

  // Without a drag, in all three directions, Tab going on; a mistake is said where it is typed.
  await page.keyboard.press('=')
  await page.keyboard.type('1')
  await page.keyboard.press('Tab')
  await page.keyboard.type('2 apples')
  await expect(page.getByTestId('typed-numbers').getByRole('alert')).toContainText('apples')
  await page.keyboard.press('ControlOrMeta+a')
  await page.keyboard.type('50cm')
  await page.keyboard.press('Tab')
  await page.keyboard.type('-1/4')
  await page.keyboard.press('Enter')
  expect((await editor.named('Crate')).translation).toEqual([1.6096, 0.5, -0.25])

  await page.keyboard.press('t')
  await page.keyboard.press('1')
  await expect(page.getByTestId('modes')).toContainText('locked to X')
  await page.keyboard.press('=')
  await page.keyboard.type('90')
  await page.keyboard.press('Enter')
  const { rotation } = await editor.named('Crate')
  degreesToQuat([90, 0, 0]).forEach((value, i) => expect(rotation[i]).toBeCloseTo(value, 12))
  await editor.saved()
  expect(await editor.row((await editor.named('Crate')).id)).toEqual(await editor.named('Crate'))
  expect(await editor.done()).toEqual(['Move Crate', 'Move Crate', 'Turn Crate'])
})

test('grips size by a face, by a corner and around the pivot; locks work anywhere on the stage', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0], rotation: degreesToQuat([0, 30, 0]) }])
  await editor.pick('Crate')
  await editor.look([3, 2.4, 4], [0, 0.4, 0])
  await page.keyboard.press('s')
  const top = await editor.handle({ do: 'size', grip: [0, 1, 0] })
  await editor.pressAndMove(top, { x: top.x, y: top.y - 50 })
  expect(await editor.readout()).toMatch(/^Size along Y 1\d\d\.\d % .* the other side stays/)
  await page.mouse.up()
  const tall = await editor.named('Crate')
  expect(tall.scale[1]).toBeGreaterThan(1.2)
  expect([tall.scale[0], tall.scale[2], ...tall.translation]).toEqual([1, 1, 0, 0, 0])

  const corner = await editor.handle({ do: 'size', grip: [1, 1, 1] })
  await page.keyboard.down('Shift')
  await editor.pressAndMove(corner, { x: corner.x + 25, y: corner.y - 40 })
  expect(await editor.readout()).toContain('around the pivot')
  await page.mouse.up()
  await page.keyboard.up('Shift')
  const grown = await editor.named('Crate')
  expect(grown.translation).toEqual([0, 0, 0])
  expect(grown.scale[0] / grown.scale[2]).toBeCloseTo(1, 9)
  expect(grown.scale[1] / grown.scale[0]).toBeCloseTo(tall.scale[1], 6)

  // With the lock set first, the drag begins on empty ground.
  await page.keyboard.press('m')
  await page.keyboard.press('Shift+2')
  const ground = await editor.at([-2, 0, 1.5])
  await editor.pressAndMove(ground, await editor.at([-1, 0, 0.5]))
  expect(await editor.readout()).toMatch(/^Move in XZ/)
  await page.keyboard.press('3')
  expect(await editor.readout()).toMatch(/^Move along Z -\d\.\d\d0 m/)
  await page.mouse.up()
  const moved = await editor.named('Crate')
  expect(moved.translation[2]).toBeLessThan(-0.5)
  expect([moved.translation[0], moved.translation[1], moved.translation[2] % 0.25]).toEqual([0, 0, -0])
  await editor.saved()
  expect(await editor.row(moved.id)).toEqual(moved)
})

test('a sign swings about a pin above it, and local axes follow where World stays straight', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Sign', part: 'Crate', translation: [0, 1, 0], scale: [1, 0.5, 0.1] },
    { name: 'Post', part: 'Lantern post', translation: [3, 0, 0] },
  ])
  await editor.pick('Sign')
  await editor.look([0, 1.6, 5], [0, 1.4, 0])
  // The pin is dropped onto the middle of the sign's top edge and then raised by half a metre.
  await page.getByRole('button', { name: 'Around menu' }).click()
  await page.getByRole('button', { name: 'Drop a pin …' }).click()
  const edge = await editor.at([0, 1.4, 0.04])
  await page.mouse.move(edge.x, edge.y)
  await page.mouse.click(edge.x, edge.y)
  await page.keyboard.press('p')
  const peg = await editor.handle({ kind: 'axis', axis: 1 })
  await editor.pressAndMove(peg, { x: peg.x, y: peg.y - 40 })
  await page.keyboard.press('=')
  await page.keyboard.type('0.5')
  await page.keyboard.press('Enter')
  await page.mouse.up()
  await page.keyboard.press('p')
  await page.keyboard.press('t')
  const before = await editor.named('Sign')
  const frame = await page.evaluate(() => window.handyGrid!.frame()!)
  const pin = frame.origin
  expect(pin[1]).toBeCloseTo(1.9, 1)
  expect(pin[0]).toBeCloseTo(0, 1)
  await swing(editor, 2, pin, -28)
  expect(await editor.readout()).toMatch(/^Turn about Z \+30°/)
  await page.mouse.up()
  const after = await editor.named('Sign')
  const arm = new Vector3(...before.translation)
    .sub(new Vector3(...pin))
    .applyAxisAngle(new Vector3(0, 0, 1), Math.PI / 6)
  expect(new Vector3(...after.translation).sub(new Vector3(...pin)).distanceTo(arm)).toBeLessThan(1e-9)
  degreesToQuat([0, 0, 30]).forEach((value, i) => expect(after.rotation[i]).toBeCloseTo(value, 9))

  const axes = () => page.evaluate(() => window.handyGrid!.frame()!.axes)
  expect(await axes()).toEqual([0, 0, 0, 1])
  await page.keyboard.press('x')
  const turned = await axes()
  degreesToQuat([0, 0, 30]).forEach((value, i) => expect(turned[i]).toBeCloseTo(value, 9))
  await editor.saved()
  expect(await editor.row(after.id)).toEqual(after)
})

test('a box tips around its edge once its pivot is there, picked on the stage; the box never moves when its pivot does', async ({
  page,
  editor,
}) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  await editor.pick('Crate')
  await editor.look([3, 2.4, 4], [0, 0.4, 0])
  const id = (await editor.named('Crate')).id
  const matrix = () => page.evaluate(which => window.handyGrid!.worldMatrix(which), id)
  const before = await matrix()
  await page.keyboard.press('p')
  const dot = await editor.handle({ do: 'pivot', place: [1, -1, 0] })
  await page.mouse.move(dot.x, dot.y)
  await page.mouse.click(dot.x, dot.y)
  await page.getByRole('button', { name: 'Pivot menu' }).click()
  await expect(page.getByRole('button', { name: 'Pivot bottom right', exact: true })).toHaveAttribute(
    'aria-pressed',
    'true',
  )
  const moved = await editor.named('Crate')
  expect(moved.pivot).toEqual([0.4, 0, 0])
  ;(await matrix()).forEach((value, i) => expect(value).toBeCloseTo(before[i]!, 12))
  await page.keyboard.press('Escape')
  await page.keyboard.press('t')
  await page.keyboard.press('3')
  await page.keyboard.press('=')
  await page.keyboard.type('-90')
  await page.keyboard.press('Enter')
  const tipped = await editor.named('Crate')
  expect(tipped.translation).toEqual([0.4, 0, 0])
  await editor.saved()
  expect(await editor.row(id)).toEqual(tipped)
  expect(await editor.done()).toEqual(['Move the pivot of Crate', 'Turn Crate'])
  // The ledger's picker puts it elsewhere, and the box stays.
  const standing = await matrix()
  await page.getByRole('button', { name: 'Pivot menu' }).click()
  await page.getByRole('button', { name: 'high', exact: true }).click()
  await page.getByRole('button', { name: 'Pivot top left back' }).click()
  expect((await editor.named('Crate')).pivot).toEqual([-0.4, 0.8, -0.4])
  ;(await matrix()).forEach((value, i) => expect(value).toBeCloseTo(standing[i]!, 12))
})

test('every tool can be cancelled half-way, by Esc or the right button, and nothing has happened', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Crate', part: 'Crate', translation: [0.13, 0, 0.07], rotation: degreesToQuat([0, 17, 0]) },
    { name: 'Barrel', part: 'Barrel', translation: [2, 0, 0] },
  ])
  await editor.pick('Crate')
  await editor.look([3, 2.4, 4], [0.5, 0.4, 0])
  const before = JSON.stringify(await editor.placements())
  const handles = [
    ['m', { do: 'move', kind: 'view' }],
    ['m', { do: 'move', kind: 'plane', axis: 1 }],
    ['t', { do: 'turn', axis: 1 }],
    ['s', { do: 'size', grip: [1, 1, 1] }],
    ['c', { do: 'size', grip: [0, 1, 0] }],
  ] as const
  for (const [key, handle] of handles) {
    for (const how of ['Escape', 'right', 'typed']) {
      await page.keyboard.press(key)
      const grip = await editor.handle(handle)
      await editor.pressAndMove(grip, { x: grip.x + 50, y: grip.y - 35 })
      await expect(page.getByTestId('readout')).toBeVisible()
      if (how === 'right') await page.mouse.down({ button: 'right' })
      else if (how === 'typed') await page.keyboard.press('=')
      if (how === 'typed') await page.keyboard.type('2')
      if (how !== 'right') await page.keyboard.press('Escape')
      await page.mouse.up()
      if (how === 'right') await page.mouse.up({ button: 'right' })
      await expect(page.getByTestId('readout')).toHaveCount(0)
      await expect(page.getByTestId('typed-numbers')).toHaveCount(0)
      expect(JSON.stringify(await editor.placements()), `${how} in ${JSON.stringify(handle)}`).toBe(before)
    }
  }
  expect(await editor.pickedNames()).toEqual(['Crate'])
  expect(await editor.done()).toEqual([])
})

test('the ledger takes absolute and relative numbers for several things, steps by keys, and gives transforms on', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Crate', part: 'Crate', translation: [1, 0, 0] },
    { name: 'Barrel', part: 'Barrel', translation: [2, 0, 1] },
    { name: 'Basket', part: 'Basket', translation: [5, 0, 2], rotation: degreesToQuat([0, 90, 0]) },
  ])
  await editor.pick('Crate', 'Barrel')
  const field = (name: string) => page.getByLabel(name, { exact: true })
  await expect(field('Position X')).toHaveAttribute('placeholder', 'mixed')
  await field('Position X').fill('+0.5')
  await page.keyboard.press('Enter')
  await field('Position Z').fill('*2')
  await page.keyboard.press('Enter')
  await field('Position Y').fill('3ft')
  await page.keyboard.press('Enter')
  const at = async (name: string) => (await editor.named(name)).translation
  expect([await at('Crate'), await at('Barrel')]).toEqual([
    [1.5, 0.9144, 0],
    [2.5, 0.9144, 2],
  ])
  // Three steps of a quarter metre, undone as one.
  await field('Position X').focus()
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowUp')
  expect((await at('Crate'))[0]).toBe(2.25)
  await field('Position Y').focus()
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+z')
  expect((await at('Crate'))[0]).toBe(1.5)

  await editor.pick('Basket')
  await editor.doMore('Copy position')
  await editor.pick('Crate')
  await editor.doMore('Paste position')
  expect(await editor.named('Crate')).toMatchObject({
    translation: [5, 0, 2],
    rotation: (await editor.named('Basket')).rotation,
  })
  // A size in metres is what the thing measures afterwards.
  await page.getByRole('button', { name: 'Size ×' }).click()
  await field('Size Y').fill('1.6m')
  await page.keyboard.press('Enter')
  expect((await editor.named('Crate')).scale[1]).toBeCloseTo(2, 5)
  await editor.saved()
  expect(await editor.row((await editor.named('Crate')).id)).toEqual(await editor.named('Crate'))
})

test('keys nudge along the screen and turn by a step; Alt leaves an instance', async ({ page, editor }) => {
  await editor.openWith([{ name: 'Crate', part: 'Crate', translation: [0, 0, 0] }])
  await editor.look([3, 2.4, 8], [0, 0.4, 0])
  const crate = await editor.at([0, 0.4, 0.4])
  await page.mouse.click(crate.x, crate.y)
  for (const key of ['ArrowRight', 'Shift+ArrowUp', 'Alt+PageUp']) await page.keyboard.press(key)
  await page.keyboard.press(',')
  const nudged = await editor.named('Crate')
  expect(nudged.translation).toEqual([0.25, 0.025, -2.5])
  degreesToQuat([0, 15, 0]).forEach((value, i) => expect(nudged.rotation[i]).toBeCloseTo(value, 12))
  await page.keyboard.press('m')
  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  await page.keyboard.down('Alt')
  await editor.pressAndMove(grip, { x: grip.x + 90, y: grip.y })
  await page.keyboard.up('Alt')
  await page.mouse.up()
  const all = await editor.placements()
  expect(all).toHaveLength(2)
  expect(all[0]!.partId).toBe(all[1]!.partId)
  expect(all.find(({ id }) => id !== nudged.id)!.translation).toEqual(nudged.translation)
  await editor.saved()
  expect(await editor.rows()).toHaveLength(2)
})
