import { readFile } from 'node:fs/promises'
import { validateBytes } from 'gltf-validator'
import type { Object3D } from 'three'
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js'
import { Level } from '../../core/level/level'
import { expect, test } from './support'

const byId = <T extends { id: string }>(list: T[]) => [...list].sort((a, b) => (a.id < b.id ? -1 : 1))

test('from the kit to the stage to the database, and out as glTF', async ({ page, server, editor }) => {
  await test.step('the list of levels shows Lantern Quay with a picture', async () => {
    await page.goto(server.url)
    const card = page.getByRole('link', { name: 'Open Lantern Quay' })
    await expect
      .poll(() => card.locator('img').evaluate(image => (image as HTMLImageElement).naturalWidth))
      .toBeGreaterThan(100)
    await card.click()
    await editor.ready()
    await expect(editor.saveState()).toHaveText('Saved')
    expect((await editor.placements()).length).toBeGreaterThan(60)
  })
  const original = await editor.placements()
  await editor.look([9, 9, 16], [-0.5, 0, -2])

  await test.step('a crate dragged from the kit lands on the surface under the pointer', async () => {
    const card = page.locator('[data-part="Crate"]')
    await card.scrollIntoViewIfNeeded()
    const box = (await card.boundingBox())!
    await editor.pressAndMove({ x: box.x + 50, y: box.y + 40 }, await editor.at([-3.02, 0, -1.48]))
    expect(await editor.readout()).toMatch(/Place Crate height 0\.000 m on Quay slab \d+/)
    await page.mouse.up()
    await expect(page.getByTestId('readout')).toHaveCount(0)
  })
  const crate = await editor.named('Crate 4')
  expect(crate.translation).toEqual([-3, 0, -1.5])
  await editor.saved()
  expect(await editor.row(crate.id)).toEqual(crate)

  await test.step('it moves along one axis, on the grid, with the way at the pointer', async () => {
    await editor.pressAndMove(
      await editor.handle({ kind: 'axis', axis: 0 }),
      await shifted({ kind: 'axis', axis: 0 }, [1.1, 0, 0]),
    )
    expect(await editor.readout()).toContain('Move along X +1.000 m on the grid of 0.250 m')
    // The document is written once, at the release.
    expect((await editor.named('Crate 4')).translation).toEqual([-3, 0, -1.5])
    await page.mouse.up()
    expect((await editor.named('Crate 4')).translation).toEqual([-2, 0, -1.5])
  })

  await test.step('in a plane, with the grid held off by Ctrl', async () => {
    const handle = { kind: 'plane', axis: 1 } as const
    await editor.pressAndMove(await editor.handle(handle), await shifted(handle, [-0.31, 0, 0.57]))
    await page.keyboard.down('Control')
    expect(await editor.readout()).toMatch(/^Move in XZ X -0\.3\d\d m Z \+0\.5\d\d m off the grid/)
    await page.mouse.up()
    await page.keyboard.up('Control')
    const [x, y, z] = (await editor.named('Crate 4')).translation
    expect(y).toBe(0)
    expect(x).toBeCloseTo(-2.31, 1)
    expect(z).toBeCloseTo(-0.93, 1)
    expect(x % 0.25).not.toBe(0)
  })

  await test.step('and with the grid switched off', async () => {
    await page.getByRole('button', { name: /^Grid: / }).click()
    const handle = { kind: 'axis', axis: 2 } as const
    await editor.pressAndMove(await editor.handle(handle), await shifted(handle, [0, 0, 0.333]))
    expect(await editor.readout()).toMatch(/^Move along Z \+0\.[234]\d\d m off the grid/)
    await page.mouse.up()
    await page.getByRole('button', { name: /^Grid: / }).click()
  })

  await test.step('an exact position, turn and size are typed into the ledger', async () => {
    for (const [field, text] of [
      ['Position X', '-2ft 6in'],
      ['Position Z', '1m + 20cm'],
      ['Turn Y', '45'],
      ['Size Y', '150 %'],
    ] as const) {
      await page.getByLabel(field, { exact: true }).fill(text)
      await page.keyboard.press('Enter')
    }
    const { translation, rotation, scale } = await editor.named('Crate 4')
    // 2 ft 6 in = 30 in of 25.4 mm (NIST SP 811).
    expect(translation).toEqual([-0.762, 0, 1.2])
    expect(scale).toEqual([1, 1.5, 1])
    expect(rotation[1]).toBeCloseTo(Math.sin(Math.PI / 8), 12)
    expect(rotation[3]).toBeCloseTo(Math.cos(Math.PI / 8), 12)
  })

  await test.step('undo and redo', async () => {
    const before = await editor.named('Crate 4')
    for (let i = 0; i < 8; i++) await page.keyboard.press('Control+z')
    expect(byId(await editor.placements())).toEqual(byId(original))
    for (let i = 0; i < 8; i++) await page.keyboard.press(i % 2 ? 'Control+y' : 'Control+Shift+z')
    expect(await editor.named('Crate 4')).toEqual(before)
  })

  await test.step('a drag cancelled half-way leaves everything as it was', async () => {
    await editor.saved()
    await page.locator('[role=treeitem]', { hasText: 'Crate 4' }).click()
    const before = await editor.placements()
    const revision = await editor.revision()
    const handle = { kind: 'view' } as const
    for (const cancel of [() => page.keyboard.press('Escape'), () => page.mouse.down({ button: 'right' })]) {
      await editor.pressAndMove(await editor.handle(handle), await shifted(handle, [1, 1, 0]))
      await expect(page.getByTestId('readout')).toBeVisible()
      await cancel()
      await expect(page.getByTestId('readout')).toHaveCount(0)
      await page.mouse.up({ button: 'right' })
      await page.mouse.up()
      expect(await editor.placements()).toEqual(before)
    }
    await editor.saved()
    expect(await editor.revision()).toBe(revision)
    expect(await editor.storedRevision()).toBe(revision)
  })

  await test.step('the header says Saved, and after a reload everything is as it was', async () => {
    await expect(editor.saveState()).toHaveText(`Saved · change ${await editor.storedRevision()}`)
    const before = await editor.placements()
    expect(byId(await editor.rows())).toEqual(byId(before))
    await page.reload()
    await editor.ready()
    expect(byId(await editor.placements())).toEqual(byId(before))
  })

  await test.step('the level is handed over as a GLB that other software opens', async () => {
    await page.getByRole('button', { name: 'Hand over' }).click()
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByTestId('hand-over-make').click()])
    expect(download.suggestedFilename()).toBe('Lantern Quay.glb')
    const bytes = new Uint8Array(await readFile((await download.path())!))
    const { issues } = await validateBytes(bytes)
    expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
    const { scene } = await new GLTFLoader().parseAsync(bytes.buffer, '')
    scene.updateMatrixWorld(true)
    const level = new Level(await editor.placements())
    // What is repeated is there once for each copy.
    const alone = new Set([...level.placements()].map(({ id }) => id).filter(id => level.arrangementAbove(id) === null))
    const nodes: Object3D[] = []
    scene.traverse(object => {
      if (alone.has(String(object.userData.placement))) nodes.push(object)
    })
    expect(nodes).toHaveLength(alone.size)
    for (const node of nodes) {
      const expected = level.worldMatrix(String(node.userData.placement)).elements
      node.matrixWorld.elements.forEach((value, i) => expect(Math.abs(value - expected[i]!)).toBeLessThan(1e-6))
    }
  })

  /** The point of the screen to which a handle has to be dragged for a way in the world. */
  async function shifted(handle: Parameters<typeof editor.handle>[0], way: [number, number, number]) {
    const grip = await editor.handle(handle)
    const origin = (await editor.named('Crate 4')).translation
    const [from, to] = [
      await editor.at(origin),
      await editor.at(origin.map((value, i) => value + way[i]!) as typeof way),
    ]
    return { x: grip.x + to.x - from.x, y: grip.y + to.y - from.y }
  }
})
