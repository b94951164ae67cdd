import { readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js'
import { levels } from '../../server/db/schema'
import { dropFile, expect, test } from './support'

test('a level is handed over in part and whole, and comes back by dropping: a changed table as one change, a level file as a new level', async ({
  page,
  editor,
  server,
}) => {
  await editor.openWith([
    { name: 'Crate 1', part: 'Crate', translation: [-2, 0, 0] },
    { name: 'Crate 2', part: 'Crate', translation: [0, 0, 0] },
    { name: 'Barrel 1', part: 'Barrel', translation: [2, 0, 0] },
  ])
  await editor.look([0, 5, 8], [0, 0, 0])
  const download = async (format: string) => {
    await page.locator(`[data-format=${format}]`).click()
    const [file] = await Promise.all([page.waitForEvent('download'), page.getByTestId('hand-over-make').click()])
    await expect(page.getByTestId('hand-over-report')).toBeVisible()
    return { name: file.suggestedFilename(), bytes: new Uint8Array(await readFile((await file.path())!)) }
  }

  await test.step('what is picked on the stage goes into a glTF alone, and the sheet says what became of it', async () => {
    const crate = await editor.at([-2, 0.3, 0])
    await page.mouse.move(crate.x, crate.y, { steps: 3 })
    await page.mouse.click(crate.x, crate.y)
    await page.getByRole('button', { name: 'Hand over' }).click()
    await page.getByRole('button', { name: 'Picked (1)' }).click()
    const { name, bytes } = await download('glb')
    expect(name).toBe('Yard.glb')
    const { scene } = await new GLTFLoader().parseAsync(bytes.slice().buffer, '')
    const found: string[] = []
    scene.traverse(object => object.userData.placement && found.push(object.name))
    expect(found).toEqual(['Crate_1'])
    await expect(page.getByTestId('hand-over-report')).toContainText('2 things are outside of what was asked for')
    await page.getByRole('button', { name: 'Everything', exact: true }).click()
  })

  await test.step('a plan is looked at before it is printed', async () => {
    await page.locator('[data-format=pdf]').click()
    await expect(page.getByTestId('plan-preview')).toBeVisible()
    await editor.choose('Scale', '1:50')
    const { bytes } = await download('pdf')
    expect(Buffer.from(bytes.subarray(0, 5)).toString()).toBe('%PDF-')
    await expect(page.getByTestId('hand-over-report')).toContainText('1:50')
    await expect(page.getByRole('region', { name: 'Last files' }).getByRole('listitem')).toHaveCount(2)
  })

  const csv = join(tmpdir(), `handy-grid-${process.pid}.csv`)
  const file = join(tmpdir(), `handy-grid-${process.pid}.handygrid`)
  try {
    await test.step('a table is changed elsewhere and dropped on the stage: what is wrong is said by line, then it is one change that can be undone', async () => {
      const table = Buffer.from((await download('table')).bytes).toString()
      const { bytes: whole } = await download('level')
      await writeFile(file, whole)
      await page.getByRole('button', { name: 'Close' }).click()
      const moved = table
        .split('\r\n')
        .map(line => (line.includes('Crate 2') ? line.replace(',0,0,0,', ',0,0,1.25,') : line))
      const at = moved.findIndex(line => line.includes('Crate 2'))
      await writeFile(
        csv,
        moved.join('\r\n').replace('Crate 1,part', 'Crate A,part')
          + ',Tub,part,Tub of stuff,,,,,false,false,1,0,3,0,0,0,1,1,1\r\n',
      )
      await dropFile(page, csv, 'yard.csv')
      await expect(page.getByTestId('receive-told')).toContainText('is the name of no part of the kit')
      await expect(page.getByTestId('receive')).toBeDisabled()
      await editor.choose('Part for Tub of stuff', 'Basket')
      await expect(page.getByTestId('receive-what')).toContainText('1 added, 2 updated, 1 same')
      expect(at).toBeGreaterThan(0)
      await page.getByTestId('receive').click()
      await expect(page.getByTestId('receive')).toBeHidden()
      expect((await editor.named('Crate 2')).translation).toEqual([0, 0, 1.25])
      expect((await editor.named('Tub')).translation).toEqual([1, 0, 3])
      expect(await editor.done()).toEqual(['Bring in yard'])
      expect((await editor.rows()).map(({ name }) => name).sort()).toEqual(['Barrel 1', 'Crate 2', 'Crate A', 'Tub'])
      await page.keyboard.press('Control+z')
      await editor.saved()
      expect((await editor.rows()).map(({ name }) => name).sort()).toEqual(['Barrel 1', 'Crate 1', 'Crate 2'])
    })

    await test.step('a level file becomes a level of its own, which opens', async () => {
      const before = editor.levelId
      await dropFile(page, file, 'Yard.handygrid')
      await expect(page.getByTestId('receive-what')).toContainText('3 things')
      await page.getByTestId('receive').click()
      await page.waitForURL(address => address.pathname.startsWith('/levels/') && !address.pathname.endsWith(before))
      await editor.ready()
      expect(editor.levelId).not.toBe(before)
      expect((await editor.rows()).map(({ name }) => name).sort()).toEqual(['Barrel 1', 'Crate 1', 'Crate 2'])
      expect((await server.db.select().from(levels).where(eq(levels.id, editor.levelId)))[0]!.name).toBe('Yard')
    })

    await test.step('what is no table is refused where it was dropped', async () => {
      await writeFile(csv, 'name,part,x\n"never closed,Crate,1\n')
      await dropFile(page, csv, 'broken.csv')
      await expect(page.getByTestId('receive-failed')).toContainText('cannot be read as a table: line 2')
      await expect(page.getByTestId('receive')).toBeDisabled()
    })
  } finally {
    await rm(csv, { force: true })
    await rm(file, { force: true })
  }
})
