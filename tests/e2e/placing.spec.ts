import { Quaternion, Vector3 } from 'three'
import { expect, test } from './support'

test('a part is clicked and then placed as often as wanted, turned by the wheel, upright or leaning', async ({
  page,
  editor,
}) => {
  await editor.open()
  const card = page.locator('[data-part="Planter"]')
  await card.scrollIntoViewIfNeeded()
  await card.click()
  await expect(card).toHaveAttribute('aria-pressed', 'true')

  const quay = await editor.at([-1, 0, 0.5])
  await page.mouse.move(quay.x, quay.y, { steps: 3 })
  await page.mouse.wheel(0, 100)
  await page.mouse.wheel(0, 100)
  await expect(page.getByTestId('readout')).toContainText('turned 30°')
  await page.mouse.click(quay.x, quay.y)
  const first = await editor.named('Planter 3')

  // On the bank behind the quay, whose surface slopes.
  await page.getByLabel('Lean with the surface').check()
  const bank = await editor.at([0.6, 1.05, -11.5])
  await page.mouse.move(bank.x, bank.y, { steps: 3 })
  await expect(page.getByTestId('readout')).toContainText('on Bank behind the quay')
  await page.mouse.click(bank.x, bank.y)
  const second = await editor.named('Planter 4')

  await page.keyboard.press('Escape')
  await expect(card).toHaveAttribute('aria-pressed', 'false')
  const count = (await editor.placements()).length
  await page.mouse.click(quay.x, quay.y)
  expect((await editor.placements()).length).toBe(count)

  const up = (rotation: number[]) => new Vector3(0, 1, 0).applyQuaternion(new Quaternion(...rotation))
  expect(first.rotation[1]).toBeCloseTo(Math.sin((15 * Math.PI) / 180), 12)
  expect(up(first.rotation).y).toBeCloseTo(1, 12)
  expect(up(second.rotation).y).toBeLessThan(0.999)
  expect(up(second.rotation).y).toBeGreaterThan(0.7)
  expect(second.translation[1]).toBeGreaterThan(0)
  await editor.saved()
  expect(await editor.row(second.id)).toEqual(second)
  expect(await editor.journal()).toEqual(['Place Planter 3', 'Place Planter 4'])
})

test('a part dragged out and let go beside the stage, or cancelled with Esc, places nothing', async ({
  page,
  editor,
}) => {
  await editor.open()
  const before = await editor.placements()
  const box = (await page.locator('[data-part="Quay slab 4 m"]').boundingBox())!
  const from = { x: box.x + 40, y: box.y + 40 }
  await editor.pressAndMove(from, { x: 700, y: 760 })
  await page.mouse.up()
  await editor.pressAndMove(from, await editor.at([0, 0, 0]))
  await expect(page.getByTestId('readout')).toBeVisible()
  await page.keyboard.press('Escape')
  await page.mouse.up()
  await expect(page.getByTestId('readout')).toHaveCount(0)
  expect(await editor.placements()).toEqual(before)
})
