import type { Vec3 } from '../../core/math/vectors'
import { EXERCISE_NAMES, EXERCISES } from '../../core/learn/exercises'
import type { ExerciseName } from '../../core/learn/exercises'
import type { Editor } from './support'
import { expect, test } from './support'

/** The bar of the first steps. */
const bar = (editor: Editor) => editor.page.getByTestId('first-steps')
const isDone = (editor: Editor) => expect(bar(editor).getByRole('status')).toHaveText('Done')
const isNotDone = async (editor: Editor) => {
  await editor.drawn()
  await editor.page.waitForTimeout(400)
  await expect(bar(editor).getByRole('status')).toHaveText('')
}
const type = async (editor: Editor, name: string, text: string) => {
  await editor.page.getByLabel(name, { exact: true }).fill(text)
  await editor.page.keyboard.press('Enter')
}

/** Drags the peg of an axis by a way of the world. */
async function dragAlong(editor: Editor, axis: 0 | 1 | 2, from: Vec3, to: Vec3): Promise<void> {
  const grip = await editor.handle({ kind: 'axis', axis })
  const [start, goal] = [await editor.at(from), await editor.at(to)]
  await editor.pressAndMove(grip, { x: grip.x + goal.x - start.x, y: grip.y + goal.y - start.y })
  await editor.page.mouse.up()
}

/** How somebody does each by pointer and keys; what nearly does it comes first, and does not tick it off. */
const WAYS: Record<ExerciseName, (editor: Editor) => Promise<void>> = {
  look: async editor => {
    const { page } = editor
    await editor.look([-6, 5, 9], [-6, 1.5, -4])
    await isNotDone(editor)
    const middle = await editor.at([-6, 1.5, -2])
    await page.mouse.move(middle.x, middle.y)
    await page.keyboard.down('Alt')
    await page.mouse.down()
    for (let i = 1; i <= 30; i++) {
      await page.mouse.move(middle.x + i * 20, middle.y, { steps: 2 })
      if ((await editor.view()).eye[2] < -10) break
    }
    await page.mouse.up()
    await page.keyboard.up('Alt')
  },
  behindGlass: async editor => {
    await editor.look([7, 1.2, 1], [7, 0.4, -4])
    await editor.clickOn([7, 0.3, -3.6])
    await isNotDone(editor)
    expect(await editor.pickedNames()).toEqual(['Glass screen'])
    await editor.clickOn([7, 0.3, -3.6])
  },
  axis: async editor => {
    await editor.look([-4.5, 5, 10], [-4.5, 0, 2])
    await editor.clickOn([-6, 0.4, 2.4])
    await dragAlong(editor, 0, [-6, 0, 2], [-3.25, 0, 2])
    await isNotDone(editor)
    await dragAlong(editor, 0, [-3.25, 0, 2], [-3, 0, 2])
  },
  plane: async editor => {
    await editor.look([0, 6, 11], [0, 0, 4])
    await editor.clickOn([-1, 0.5, 4.75])
    await editor.page.keyboard.press('Shift+2')
    const [from, to] = [await editor.at([-1, 0, 4.75]), await editor.at([1, 0, 3.5])]
    await editor.pressAndMove(from, to)
    await editor.page.mouse.up()
    await editor.page.keyboard.press('0')
  },
  number: async editor => {
    await editor.look([3, 4, 10], [3, 0, 3.6])
    await editor.clickOn([3, 0.4, 3.6])
    await type(editor, 'Position X', '2.34')
    await isNotDone(editor)
    await type(editor, 'Position X', '2 + 35 cm')
  },
  turn: async editor => {
    await editor.clickOn([2.35, 0.4, 3.6])
    for (let i = 0; i < 5; i++) await editor.page.keyboard.press('.')
    await isNotDone(editor)
    await editor.page.keyboard.press('.')
  },
  onAnother: async editor => {
    await editor.look([-4, 5, 10], [-4, 0, 3])
    await editor.clickOn([-4.6, 0.3, 4.4])
    for (const [name, text] of [
      ['Position X', '-3'],
      ['Position Z', '2'],
      ['Position Y', '2'],
    ] as const)
      await type(editor, name, text)
    await isNotDone(editor)
    await editor.page.getByRole('button', { name: 'Set down onto what is below' }).click()
  },
  corner: async editor => {
    const { page } = editor
    await editor.look([5, 5, 5], [5, 0, 0.5])
    await editor.clickOn([6.3, 0.5, 1.2])
    const [from, to] = [await editor.at([5.5, 0.5, 1.6]), await editor.at([4.3, 0.5, 0.4])]
    await page.mouse.move(from.x, from.y)
    await page.keyboard.down('n')
    await editor.drawn()
    await editor.pressAndMove(from, to)
    await page.mouse.up()
    await page.keyboard.up('n')
  },
  abut: async editor => {
    await editor.look([-5, 3, 11], [-5, 0.5, 5.75])
    await editor.clickOn([-3.5, 0.98, 5.75])
    await dragAlong(editor, 0, [-3.5, 0, 5.75], [-4.5, 0, 5.75])
    await isNotDone(editor)
    await editor.page.keyboard.press('a')
    await dragAlong(editor, 0, [-4.5, 0, 5.75], [-4.97, 0, 5.75])
    await editor.page.keyboard.press('a')
  },
  hinge: async editor => {
    const { page } = editor
    await editor.look([-8.2, 2.2, 4], [-8.2, 1, -2])
    await editor.clickOn([-8.2, 1, -1.95])
    for (let i = 0; i < 6; i++) await page.keyboard.press(',')
    await isNotDone(editor)
    for (let i = 0; i < 6; i++) await page.keyboard.press('.')
    await page.keyboard.press('p')
    const dot = await editor.handle({ do: 'pivot', place: [-1, 0, 0] })
    await page.mouse.move(dot.x, dot.y)
    await page.mouse.click(dot.x, dot.y)
    await page.keyboard.press('p')
    await isNotDone(editor)
    for (let i = 0; i < 6; i++) await page.keyboard.press(',')
  },
  row: async editor => {
    const { page } = editor
    await editor.look([3, 3, 3], [3, 1, -5])
    await editor.clickOn([1, 1, -5.2])
    await page.getByRole('button', { name: 'Repeat', exact: true }).click()
    await type(editor, 'Count', '5')
    await isNotDone(editor)
    await editor.clickOn([5, 1, -5.2])
    await editor.clickOn([5, 1, -5.2])
    await page.keyboard.press('Delete')
  },
  scatter: async editor => {
    const { page } = editor
    await editor.look([0, 12, 9], [0, 0, 0])
    await editor.pick('Ground')
    await page.getByRole('button', { name: 'Scatter', exact: true }).click()
    await page.getByRole('button', { name: 'Add what is picked as surface' }).click()
    await page.getByRole('button', { name: 'Add from the kit …' }).click()
    await page.getByRole('group', { name: 'Parts of the kit' }).getByRole('button', { name: 'Red leaf' }).click()
    await page.getByRole('button', { name: 'Add 1 part' }).click()
    await type(editor, 'Per m²', '2')
    await page.getByRole('button', { name: 'Keep live' }).click()
    await editor.saved()
    await isNotDone(editor)
    await page.getByRole('button', { name: 'Away', exact: true }).click()
    for (const side of [-0.6, -0.3, 0, 0.3, 0.6]) {
      const [from, to] = [await editor.at([-3.3, 0, 2 + side]), await editor.at([1.3, 0, 3.6 + side])]
      await editor.pressAndMove(from, to)
      await page.mouse.up()
    }
    await page.keyboard.press('Escape')
  },
  measure: async editor => {
    const { page } = editor
    await editor.look([6.3, 4, 10], [6.3, 0.5, 5.2])
    await page.keyboard.press('u')
    await editor.clickOn([4.5, 0.8, 5.2])
    await editor.clickOn([8.1, 0.8, 5.2])
    await page.keyboard.press('Escape')
    await editor.saved()
    await isNotDone(editor)
    await editor.clickOn([6.3, 0.8, 5.2])
    await page.keyboard.type('3')
    await page.keyboard.press('Enter')
  },
  floats: async editor => {
    await editor.look([8, 3, 8], [8.5, 0.5, 2])
    await editor.clickOn([8.8, 1.1, 2.4])
    await type(editor, 'Position Y', '0.05')
    await isNotDone(editor)
    await editor.page.getByRole('button', { name: 'Set down onto what is below' }).click()
  },
  camera: async editor => {
    await editor.pick('Cameras and lights')
    await editor.page.keyboard.press('/')
    await editor.page.getByRole('combobox', { name: 'Find or do' }).fill('Over the yard')
    await editor.page.keyboard.press('Enter')
    await isNotDone(editor)
    await editor.page.getByRole('button', { name: 'Cameras', exact: true }).click()
    await editor.page.getByRole('button', { name: 'Look through it' }).click()
  },
  handOver: async editor => {
    const { page } = editor
    await page.getByRole('button', { name: 'Hand over', exact: true }).click()
    await page.locator('[data-format=table]').click()
    await isNotDone(editor)
    await Promise.all([page.waitForEvent('download'), page.getByTestId('hand-over-make').click()])
    await page.keyboard.press('Escape')
  },
}

test('the first steps: from the list of levels through all exercises by pointer and keys, each ticked off when it is really so', async ({
  page,
  server,
  editor,
}) => {
  test.setTimeout(400_000)
  await page.goto(server.url)
  await page.getByRole('button', { name: 'First steps' }).click()
  await editor.ready()
  editor.levelId = new URL(page.url()).pathname.split('/').at(-1)!
  await expect(bar(editor)).toContainText(`1 of ${EXERCISE_NAMES.length}`)

  // Shown by a pointer that is nobody's: nothing of it is kept.
  await bar(editor).getByRole('button', { name: 'Show me' }).click()
  await expect(page.getByTestId('ghost-pointer')).toBeVisible()
  await bar(editor).getByRole('button', { name: 'Stop' }).click()
  await expect(page.getByTestId('ghost-pointer')).toBeHidden()
  expect(await editor.done()).toEqual([])

  for (const name of EXERCISE_NAMES) {
    await test.step(EXERCISES[name].name, async () => {
      await expect(bar(editor)).toContainText(EXERCISES[name].name)
      await isNotDone(editor)
      await WAYS[name](editor)
      await isDone(editor)
      await page.keyboard.press('Escape')
      await bar(editor)
        .getByRole('button', { name: /Next|Finish/ })
        .click()
    })
  }
  await expect(bar(editor)).toBeHidden()
  // How far somebody is stays with the device.
  await page.reload()
  await editor.ready()
  await expect(bar(editor)).toContainText('1 of')
  await isDone(editor)
  // One is done again: what it is about is as it was at the beginning, the rest stays.
  await bar(editor).getByRole('button', { name: '1 of' }).click()
  await page.getByRole('menuitem', { name: EXERCISES.axis.name }).click()
  await bar(editor).getByRole('button', { name: 'Again' }).click()
  await expect.poll(async () => (await editor.named('Crate')).translation).toEqual([-6, 0, 2])
  await editor.saved()
  expect((await editor.named('Barrel')).translation).toEqual([1, 0, 3.5])
  await isNotDone(editor)
})
