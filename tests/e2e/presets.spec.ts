import type { Locator } from '@playwright/test'
import { isCamera, isLight } from '../../core/level/kinds'
import { cameraOwn, lightOwn } from '../../core/level/create'
import { limits, presets } from '../../server/db/schema'
import { eq } from 'drizzle-orm'
import { expect, test } from './support'

test('the numbers of every form are kept, named where they are others, begun from again, and written to the level', async ({
  page,
  editor,
}) => {
  await editor.openWith([
    { name: 'Wide view', kind: 'camera', own: cameraOwn(), translation: [0, 1.6, 5] },
    { name: 'Lantern', kind: 'light', own: lightOwn({ light: 'point' }), translation: [0, 3, 0] },
    { name: 'Crate', part: 'Crate', translation: [0, 0, 0] },
    { name: 'Barrel', part: 'Barrel', translation: [2, 0, 0] },
  ])
  const bar = (of = 'this form') => page.getByRole('group', { name: `Presets of ${of}` })
  const keep = async (name: string, where = bar()) => {
    await where.getByRole('button', { name: 'Keep as …' }).click()
    await where.getByLabel('Name of what to keep').fill(name)
    await page.keyboard.press('Enter')
    await expect(where.getByRole('button', { name: 'Preset' })).toHaveText(name)
  }
  const type = async (field: Locator, text: string) => {
    await field.fill(text)
    await field.press('Enter')
  }
  const changed = bar().getByTestId('preset-changed')

  await test.step('of a camera and a light: the thing in the database has what was kept', async () => {
    await page.getByRole('button', { name: 'Cameras', exact: true }).first().click()
    await editor.pick('Wide view')
    await type(page.getByLabel('Near of the camera'), '0.3')
    await keep('Close by')
    await type(page.getByLabel('Near of the camera'), '0.9')
    await expect(changed).toContainText('Otherwise than “Close by”: near')
    await changed.getByRole('button', { name: 'As it was' }).click()
    await expect(changed).toHaveCount(0)
    await editor.saved()
    const camera = await editor.row((await editor.named('Wide view')).id)
    expect(isCamera(camera!.own) && camera!.own.near).toBe(0.3)

    await editor.pick('Lantern')
    await type(page.getByLabel('Range', { exact: true }), '7')
    await keep('Warm corner')
    await type(page.getByLabel('Range', { exact: true }), '2')
    // Kept as it is now, and begun from again after something else.
    await changed.getByRole('button', { name: 'Keep it so' }).click()
    await expect(changed).toHaveCount(0)
    await type(page.getByLabel('Range', { exact: true }), '5')
    await editor.beginFrom('Warm corner')
    await editor.saved()
    const light = await editor.row((await editor.named('Lantern')).id)
    expect(isLight(light!.own) && light!.own.range).toBe(2)
    expect((await editor.done()).slice(-1)).toEqual(['Use a preset for Lantern'])
  })

  await test.step('of lining up', async () => {
    await page.getByRole('button', { name: 'Line up', exact: true }).click()
    await editor.pick('Crate', 'Barrel')
    const task = page.getByRole('group', { name: 'Task' })
    await task.getByRole('button', { name: 'Distribute' }).click()
    await editor.choose('Distribute by', 'gaps of a given size')
    await type(page.getByLabel('Gap', { exact: true }), '0.6')
    await keep('Shoulder to shoulder')
    await type(page.getByLabel('Gap', { exact: true }), '3')
    await task.getByRole('button', { name: 'Align' }).click()
    await editor.beginFrom('Shoulder to shoulder')
    await expect(page.getByLabel('Gap', { exact: true })).toHaveValue('0.600')
    await page.getByRole('button', { name: /^Distribute \(moves/ }).click()
    await editor.saved()
    expect((await editor.done()).slice(-1)).toEqual([expect.stringContaining('Distribute')])
  })

  await test.step('of mirroring', async () => {
    await editor.openRepeat('Mirror')
    await page.getByRole('group', { name: 'Across' }).getByRole('button', { name: 'Across Z' }).click()
    await page.getByText('One more on its own').click()
    await keep('To the other bank')
    await page.getByRole('group', { name: 'Across' }).getByRole('button', { name: 'Across X' }).click()
    await expect(changed).toContainText('axis')
    await editor.beginFrom('To the other bank')
    await page.getByRole('button', { name: /^Mirror / }).click()
    await editor.saved()
    expect((await editor.done()).slice(-1)).toEqual([expect.stringContaining('Mirror')])
    expect((await editor.rows()).filter(({ name }) => /^(?:Crate|Barrel)/.test(name))).toHaveLength(4)
  })

  await test.step('of pouring', async () => {
    await page.getByRole('button', { name: 'Settle', exact: true }).click()
    await type(page.getByLabel('How many', { exact: true }), '14')
    await keep('A heap')
    await type(page.getByLabel('How many', { exact: true }), '3')
    await editor.beginFrom('A heap')
    await expect(page.getByLabel('How many', { exact: true })).toHaveValue('14')
  })

  await test.step('of the check: its limits are the level’s', async () => {
    await page.getByRole('button', { name: 'Check', exact: true }).click()
    const stored = async () => {
      await editor.saved()
      const rows = await editor.server.db.select().from(limits).where(eq(limits.levelId, editor.levelId))
      return rows.filter(({ of }) => of === 'out-of-bounds').map(({ values }) => values)
    }
    await page.getByRole('button', { name: /^What else is looked for/ }).click()
    await page.getByRole('button', { name: 'Limits of Outside the bounds' }).click()
    await type(page.getByLabel('To X of Outside the bounds'), '40')
    await keep('One quay')
    await type(page.getByLabel('To X of Outside the bounds'), '90')
    expect(await stored()).toEqual([expect.objectContaining({ maxX: 90 })])
    await editor.beginFrom('One quay')
    expect(await stored()).toEqual([expect.objectContaining({ maxX: 40 })])
  })

  await test.step('of handing over, and one of it goes to the level', async () => {
    await page.getByRole('button', { name: 'Hand over', exact: true }).click()
    await page.locator('[data-format=table]').click()
    await editor.choose('Lengths in', 'cm')
    const here = page.getByRole('dialog').getByRole('group', { name: 'Presets of this form' })
    await keep('For the builders', here)
    await editor.choose('Lengths in', 'ft')
    await here.getByRole('button', { name: 'Preset' }).click()
    await page.getByRole('menuitem').filter({ hasText: 'For the builders' }).first().click()
    await expect(page.getByRole('combobox', { name: 'Lengths in' })).toHaveValue('cm')
    await here.getByRole('button', { name: 'Preset' }).click()
    await page.getByRole('menuitem').filter({ hasText: '“For the builders” to the level' }).click()
    await editor.saved()
    const rows = await editor.server.db.select().from(presets).where(eq(presets.levelId, editor.levelId))
    expect(rows).toMatchObject([{ form: 'hand-over-table', name: 'For the builders', values: { unit: 'cm' } }])
  })
})
