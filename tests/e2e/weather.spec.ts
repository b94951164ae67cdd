import { once } from 'node:events'
import { v7 } from 'uuid'
import { WebSocket } from 'ws'
import { LIVE_PATH } from '../../core/api/live'
import { MARKS } from '../../core/api/people'
import { expect, nudge, test } from './support'

const YARD = [
  { name: 'Stall', part: 'Crate', translation: [0, 0, 0] as [number, number, number] },
  { name: 'Barrel stack', part: 'Barrel', translation: [4, 0, 0] as [number, number, number] },
]

test('three hundred people in one level are counted, the nearest thirty shown, and the work goes on', async ({
  page,
  editor,
  server,
}) => {
  test.setTimeout(300_000)
  await editor.openWith(YARD)
  await editor.look([2, 6, 9], [2, 0, 0])
  const { id: stall } = await editor.named('Stall')
  const address = server.url.replace('http', 'ws') + LIVE_PATH.replace(':id', editor.levelId)
  const sockets = await Promise.all(
    Array.from({ length: 300 }, async (_, i) => {
      const socket = new WebSocket(address)
      await once(socket, 'open')
      const view = { eye: [i, 2, 9], target: [i, 0, 0] }
      socket.send(JSON.stringify({ here: { name: `Hand ${i}`, mark: i % MARKS, picked: [stall], view } }))
      return socket
    }),
  )
  await expect.poll(() => page.evaluate(() => window.handyGrid!.others().length)).toBe(300)
  const people = page.getByTestId('people')
  await expect(people).toContainText('+296')
  await people.click()
  await expect(page.getByTestId('people-here')).toContainText('The stage shows the nearest 30 of 300.')
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('people-here')).toHaveCount(0)

  // All of them drag at once, and what is done here is done.
  const drags = (at: number) => ({
    things: [
      {
        id: v7(),
        parentId: null,
        translation: [at, 0, 0],
        rotation: [0, 0, 0, 1],
        scale: [1, 1, 1],
        pivot: [0, 0, 0],
        partId: null,
      },
    ],
    of: 1,
  })
  sockets.forEach((socket, i) => socket.send(JSON.stringify({ here: { drags: drags(i) } })))
  await editor.pick('Barrel stack')
  const grip = await editor.handle({ kind: 'axis', axis: 0 })
  await editor.pressAndMove(grip, { x: grip.x + 60, y: grip.y })
  await page.mouse.up()
  await editor.saved()
  const { id } = await editor.named('Barrel stack')
  expect((await editor.row(id))!.translation[0]).toBeGreaterThan(4.2)
  for (const socket of sockets) socket.close()
  await expect.poll(() => page.evaluate(() => window.handyGrid!.others().length)).toBe(0)
})

test('a computer that slept for an hour shows what was done meanwhile, and what was done on it before is saved once', async ({
  page,
  editor,
  context,
  errors,
}) => {
  // Said by the browser.
  errors.allow(/ERR_INTERNET_DISCONNECTED/)
  await page.clock.install()
  await editor.openWith(YARD)
  await editor.pick('Stall')
  await context.setOffline(true)
  await nudge(page, 'Stall', 'Position X', '3')
  await expect.poll(async () => (await editor.named('Stall')).translation[0]).toBe(3)
  const barrel = await editor.named('Barrel stack')
  const put = await fetch(`${editor.server.url}/api/levels/${editor.levelId}/changes`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      baseRevision: 1,
      changes: [
        {
          id: v7(),
          label: 'Meanwhile',
          author: 'Ben',
          operations: [{ do: 'put', id: barrel.id, fields: { translation: [8, 0, 0] } }],
        },
      ],
    }),
  })
  expect(put.status).toBe(200)
  // What was to happen in that hour happens once, when the lid is opened.
  await page.clock.fastForward('01:00:00')
  await context.setOffline(false)
  await page.clock.fastForward('00:01:00')
  await expect.poll(async () => (await editor.named('Barrel stack')).translation[0]).toBe(8)
  await editor.saved()
  const { id } = await editor.named('Stall')
  expect((await editor.row(id))!.translation[0]).toBe(3)
  expect(await editor.done()).toEqual(['Meanwhile', 'Position X of Stall'])
})

test('a page that is older than the server is told to reload, and what waits on it goes out first', async ({
  page,
  editor,
}) => {
  let cut = () => {}
  await page.routeWebSocket(/\/live$/, socket => {
    const server = socket.connectToServer()
    let isCut = false
    cut = () => {
      isCut = true
      void socket.close()
      void server.close()
    }
    // The stand-ins for sockets take nothing any more once they are closed.
    socket.onMessage(data => {
      if (!isCut) server.send(data)
    })
    // What an older page does not know.
    server.onMessage(data => {
      if (isCut) return
      socket.send(data)
      if (isNewer) socket.send(JSON.stringify({ level: editor.levelId, weather: 'fair' }))
    })
  })
  let isNewer = false
  await page.route('**/builds/latest.json', route =>
    isNewer ? route.fulfill({ json: { id: 'another', timestamp: 1 } }) : route.continue(),
  )
  await editor.openWith(YARD)
  cut()
  await expect.poll(() => page.evaluate(() => window.handyGrid!.others())).toEqual([])
  await expect(page.getByTestId('notice')).toHaveCount(0)

  isNewer = true
  // Held up, so that something waits.
  let letGo = () => {}
  const held = new Promise<void>(done => (letGo = done))
  await page.route('**/changes', async route => {
    await held
    await route.continue()
  })
  cut()
  await expect(page.getByTestId('notice')).toContainText('There is a newer version')
  await editor.pick('Stall')
  await nudge(page, 'Stall', 'Position X', '3')
  const reloaded = page.waitForEvent('load')
  await page.getByTestId('notice').getByRole('button', { name: 'Reload' }).click()
  const { id } = await editor.named('Stall')
  expect((await editor.row(id))!.translation[0]).toBe(0)
  const saved = page.waitForResponse(/\/changes$/)
  letGo()
  await saved
  expect((await editor.row(id))!.translation[0]).toBe(3)
  await reloaded
  await editor.ready()
  expect((await editor.named('Stall')).translation[0]).toBe(3)
})
