import { createServer } from 'node:http'
import { once } from 'node:events'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { AddressInfo } from 'node:net'
import type { BrowserContext } from '@playwright/test'
import { chromium } from '@playwright/test'
import { and, eq, lte } from 'drizzle-orm'
import { v7 } from 'uuid'
import { levelSummarySchema } from '../../core/api/schema'
import { RULES } from '../../core/arrange/rules'
import { changes, levels, meshes, parts, placements } from '../../server/db/schema'
import { makeServer } from '../server'
import { answered, Editor, expect, NOBODY_ANSWERS, nudge, test } from './support'
import { CHROMIUM_ARGS } from '../../scripts/lib/chromium-args.mjs'

test('what was not sent is there when a level is left and opened again, and when it is tried again', async ({
  errors,
  page,
  server,
  editor,
}) => {
  errors.allow(NOBODY_ANSWERS)
  await editor.openGoods()
  await nudge(page, 'Stalls', 'Position Y', '0.1')
  await editor.saved()
  await server.end('SIGKILL')
  await nudge(page, 'Lanterns', 'Position Y', '0.2')
  await expect(editor.saveState()).toHaveText('The server is away · 1 change kept on this device')
  // Within the page, without a reload.
  await page.getByRole('link', { name: 'Handy Grid: all levels' }).click()
  await expect(page.getByRole('heading', { name: 'Levels' })).toBeVisible()
  await page.goBack()
  await expect(page.getByText('The server cannot be reached.')).toBeVisible()
  await server.start()
  await page.getByRole('button', { name: 'Try again' }).click()
  await editor.ready()
  expect((await editor.named('Lanterns')).translation[1]).toBe(0.2)
  expect(await editor.journal()).toEqual(['Position Y of Stalls', 'Position Y of Lanterns'])
})

test('undo and redo last through a reload, and the list of changes takes the level back', async ({ page, editor }) => {
  await editor.openGoods()
  const before = await editor.placements()
  for (const [name, y] of [
    ['Stalls', '0.1'],
    ['Lanterns', '0.2'],
    ['Square', '0.3'],
  ] as const)
    await nudge(page, name, 'Position Y', y)
  await page.keyboard.press('Control+z')
  await editor.saved()
  await page.reload()
  await editor.ready()
  const y = async (name: string) => (await editor.named(name)).translation[1]
  expect([await y('Stalls'), await y('Lanterns'), await y('Square')]).toEqual([0.1, 0.2, 0])
  await page.keyboard.press('Control+Shift+z')
  expect(await y('Square')).toBe(0.3)
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  expect([await y('Stalls'), await y('Lanterns'), await y('Square')]).toEqual([0.1, 0, 0])
  await editor.saved()
  expect((await editor.journal()).slice(3)).toEqual([
    'Undo: Position Y of Square',
    'Position Y of Square',
    'Undo: Position Y of Square',
    'Undo: Position Y of Lanterns',
  ])

  await page.getByRole('button', { name: 'List of changes' }).click()
  const history = page.getByTestId('history')
  await expect(history.locator('[data-revision="3"]')).toContainText('Position Y of Square')
  await expect(history.locator('[data-revision="3"]')).toContainText(/Guest \d+ · /)
  await history.locator('[data-revision="3"]').click()
  await expect(history.locator('[data-revision="8"]')).toContainText('Back to change 3: Position Y of Square')
  expect([await y('Stalls'), await y('Lanterns'), await y('Square')]).toEqual([0.1, 0.2, 0.3])
  await history.locator('[data-revision="0"]').click()
  await expect(history.locator('[data-revision="9"]')).toContainText('Back to the beginning')
  const byId = (all: typeof before) => all.toSorted((a, b) => (a.id < b.id ? -1 : 1))
  expect(byId(await editor.placements())).toEqual(byId(before))
  await editor.saved()
  expect(byId(await editor.rows())).toEqual(byId(before))
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+z')
  expect(await y('Square')).toBe(0.3)
  await editor.saved()

  // What takes back what is old was thrown away: the list says so, and goes back as far as it can.
  await editor.server.db
    .update(changes)
    .set({ inverse: null })
    .where(and(eq(changes.levelId, editor.levelId), lte(changes.revision, 5)))
  await page.getByRole('button', { name: 'List of changes' }).click()
  await expect(page.getByTestId('too-old')).toContainText('the level cannot go back beyond that')
  await expect(history.locator('[data-revision="4"]')).toHaveAttribute('aria-disabled', 'true')
  await expect(history.locator('[data-revision="0"]')).toHaveCount(0)
  await history.locator('[data-revision="5"]').click()
  await expect(history.locator('[data-revision="11"]')).toContainText('Back to change 5')
})

test('a change that the server fails on is set apart; all else goes on, and it can be tried again', async ({
  errors,
  page,
  editor,
}) => {
  errors.allow(answered(422))
  await editor.openGoods()
  await page.route('**/changes', async route => {
    const isIt = route.request().method() === 'POST' && route.request().postData()?.includes('Position Y of Lanterns')
    if (isIt)
      await route.fulfill({
        status: 422,
        contentType: 'application/json',
        body: JSON.stringify({ error: { code: 'invalid', message: 'The server does not like it.', field: 'changes' } }),
      })
    else await route.continue()
  })
  await nudge(page, 'Stalls', 'Position Y', '0.1')
  await nudge(page, 'Lanterns', 'Position Y', '0.2')
  await nudge(page, 'Square', 'Position Y', '0.3')
  await expect(page.getByTestId('notice')).toContainText('"Position Y of Lanterns": The server does not like it.')
  await editor.saved()
  expect(await editor.journal()).toEqual(['Position Y of Stalls', 'Position Y of Square'])
  expect((await editor.named('Lanterns')).translation[1]).toBe(0)
  // It is still there after a reload, with what it was.
  await page.unroute('**/changes')
  await page.reload()
  await editor.ready()
  await page.getByRole('button', { name: '1 set apart' }).click()
  const apart = page.getByTestId('set-apart')
  await expect(apart).toContainText('Position Y of Lanterns')
  await expect(apart).toContainText('The server does not like it.')
  const download = page.waitForEvent('download')
  await apart.getByRole('button', { name: 'Keep as a file' }).click()
  expect((await download).suggestedFilename()).toBe('Position Y of Lanterns.json')
  await apart.getByRole('button', { name: 'Try again' }).click()
  await editor.saved()
  await expect(page.getByRole('button', { name: '1 set apart' })).toHaveCount(0)
  expect((await editor.named('Lanterns')).translation[1]).toBe(0.2)
  expect(await editor.journal()).toEqual(['Position Y of Stalls', 'Position Y of Square', 'Position Y of Lanterns'])
})

test('a level whose rule makes no sense opens, shows its sources and says where it is wrong', async ({
  errors,
  page,
  server,
  editor,
}) => {
  errors.allow(NOBODY_ANSWERS)
  await editor.openWith([{ name: 'Racks' }, { name: 'Tea stall' }])
  const [racks, stall] = [await editor.named('Racks'), await editor.named('Tea stall')]
  const rule = { ...RULES.grid.first, rise: { by: 'expression' as const, text: 'row > 1 ? 0.3(row-1) : 0' } }
  // As it was saved before such expressions were refused.
  await server.db
    .update(placements)
    .set({ kind: 'arrangement', own: { rule } })
    .where(and(eq(placements.levelId, editor.levelId), eq(placements.id, racks.id)))
  await server.db
    .update(placements)
    .set({ parentId: racks.id })
    .where(and(eq(placements.levelId, editor.levelId), eq(placements.id, stall.id)))
  await server.db.update(levels).set({ revision: 2 }).where(eq(levels.id, editor.levelId))
  await server.end('SIGTERM')
  await server.start()
  await page.reload()
  await editor.ready()
  await expect(page.getByTestId('notice')).toContainText('Racks: its text calls what is no function')
  expect((await editor.named('Tea stall')).parentId).toBe(racks.id)
  // It can still be moved, and is handed over.
  await nudge(page, 'Racks', 'Position X', '2')
  await editor.saved()
  expect((await editor.row(racks.id))!.translation[0]).toBe(2)
  expect((await fetch(`${server.url}/api/levels/${editor.levelId}/export.glb`)).status).toBe(200)
})

test('what is moved while a shape is being baked stays where it was moved', async ({ page, editor }) => {
  await editor.openWith([{ name: 'Crate 1', part: 'Crate', scale: [1, 2, 1] }])
  const crate = await editor.named('Crate 1')
  let goOn = () => {}
  const isHeld = new Promise<void>(resolve => (goOn = resolve))
  await page.route('**/api/parts?*', async route => {
    await isHeld
    await route.continue()
  })
  await editor.pick('Crate 1')
  const sent = page.waitForRequest('**/api/parts?*')
  await editor.doMore('Bake …')
  await page.getByRole('button', { name: 'Bake', exact: true }).click()
  await sent
  // The server takes its time; meanwhile the crate goes elsewhere and is sized once more.
  await page.keyboard.press('Escape')
  await nudge(page, 'Crate 1', 'Position X', '3')
  await nudge(page, 'Crate 1', 'Size Y', '4')
  goOn()
  await expect.poll(async () => (await editor.named('Crate 1')).partId).not.toBe(crate.partId)
  const { translation, scale } = await editor.named('Crate 1')
  expect(translation[0]).toBe(3)
  // The shape is baked at 2; what it was sized by since then is left as a number.
  scale.forEach((value, axis) => expect(value).toBeCloseTo([1, 2, 1][axis]!, 6))
  await editor.saved()
  expect(await editor.row(crate.id)).toEqual(await editor.named('Crate 1'))
})

test('one part that cannot be read keeps no other away; one that nothing shows is deleted and brought back', async ({
  errors,
  page,
  server,
  editor,
}) => {
  errors.allow(answered(409))
  const [crate] = await server.db.select().from(parts).where(eq(parts.name, 'Crate'))
  const hash = 'a'.repeat(64)
  await server.db.insert(meshes).values({ hash, glb: new Uint8Array([1, 2, 3]) })
  await server.db.insert(parts).values([
    { ...crate!, id: v7(), name: 'Broken', meshHash: hash },
    { ...crate!, id: v7(), name: 'Spare crate' },
  ])
  await editor.openWith([{ name: 'Crate 1', part: 'Crate' }])
  // It is said in the kit, where the part is, and not over the stage.
  await expect(page.getByTestId('unreadable')).toContainText(
    '1 part of the kit cannot be read and stands as a hatched box where it is used.',
  )
  await expect(page.getByTestId('notice')).toHaveCount(0)
  await expect(page.locator('[data-part="Broken"]')).toHaveCount(1)
  await page.locator('[data-part="Spare crate"]').click({ button: 'right' })
  await page.getByText('Delete Spare crate from the kit').click()
  await expect(page.locator('[data-part="Spare crate"]')).toHaveCount(0)
  expect(await server.db.select().from(parts).where(eq(parts.name, 'Spare crate'))).toEqual([])
  await page.getByTestId('notice').getByRole('button', { name: 'Bring it back' }).click()
  await expect(page.locator('[data-part="Spare crate"]')).toHaveCount(1)
  expect(await server.db.select().from(parts).where(eq(parts.name, 'Spare crate'))).toHaveLength(1)
  await page.locator('[data-part="Crate"]').click({ button: 'right' })
  await page.getByText('Delete Crate from the kit').click()
  await expect(page.getByTestId('notice')).toContainText('still uses this part')
  await server.db.delete(parts).where(eq(parts.name, 'Broken'))
})

test('a foreign page changes nothing and reads nothing, by address or by a name that leads here', async ({
  server,
}) => {
  const foreign = createServer((_request, response) => response.end('<!doctype html><title>Foreign</title>')).listen(
    0,
    '127.0.0.1',
  )
  await once(foreign, 'listening')
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM,
    args: [...CHROMIUM_ARGS, '--host-resolver-rules=MAP foreign.example 127.0.0.1'],
  })
  try {
    const made = await fetch(`${server.url}/api/levels`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'Own' }),
    })
    const { id } = levelSummarySchema.parse(await made.json())
    const count = async () => (await server.db.select().from(levels)).length
    const before = await count()
    const page = await browser.newPage()
    for (const origin of [
      `http://127.0.0.1:${(foreign.address() as AddressInfo).port}`,
      `http://foreign.example:${(foreign.address() as AddressInfo).port}`,
    ]) {
      await page.goto(origin)
      const read = await page.evaluate(
        async ([url, level]) => {
          const tries: Record<string, string> = {}
          const attempt = async (name: string, path: string, init?: RequestInit) => {
            tries[name] = await fetch(url + path, init).then(
              answer => (answer.type === 'opaque' ? 'sent' : answer.text()),
              () => 'refused',
            )
          }
          const body = JSON.stringify({ name: 'Foreign' })
          await attempt('read', '/api/levels')
          await attempt('json', '/api/levels', {
            method: 'POST',
            body,
            headers: { 'content-type': 'application/json' },
          })
          await attempt('text', '/api/levels', {
            method: 'POST',
            body,
            mode: 'no-cors',
            headers: { 'content-type': 'text/plain' },
          })
          await attempt('no type', '/api/levels', { method: 'POST', body: new Blob([body]), mode: 'no-cors' })
          await attempt('delete', `/api/levels/${level}`, { method: 'DELETE' })
          const form = document.createElement('form')
          Object.assign(form, { method: 'POST', action: `${url}/api/levels`, enctype: 'text/plain', target: 'frame' })
          form.innerHTML = `<input name='{"name":"Foreign","x":"' value='"}'>`
          const frame = document.createElement('iframe')
          frame.name = 'frame'
          document.body.append(frame, form)
          form.submit()
          await new Promise(resolve => setTimeout(resolve, 500))
          return tries
        },
        [server.url, id] as const,
      )
      expect(read.read).toBe('refused')
      expect(read.json).toBe('refused')
      expect(read.delete).toBe('refused')
    }
    // A name of somebody else's that leads here makes our pages of one origin with theirs; so it is not answered at
    // all.
    const rebound = server.url.replace('127.0.0.1', 'foreign.example')
    expect((await page.goto(rebound))?.status()).toBe(421)
    const seen = await page.evaluate(
      async level => [
        (await fetch('/api/levels')).status,
        (await fetch(`/api/levels/${level}`, { method: 'DELETE' })).status,
      ],
      id,
    )
    expect(seen).toEqual([421, 421])
    expect(await count()).toBe(before)
    expect((await fetch(`${server.url}/api/levels/${id}`)).status).toBe(200)
  } finally {
    await browser.close()
    foreign.close()
  }
})

test('beyond loopback a key opens the door: one to look, one to write', async ({ errors, page }) => {
  errors.allow(answered(401))
  const locked = await makeServer({
    env: { HANDY_GRID_KEY: 'the-writing-key-of-the-tests', HANDY_GRID_READING_KEY: 'the-reading-key-of-the-tests' },
  })
  try {
    const editor = new Editor(page, locked)
    await page.goto(locked.url)
    await page.getByLabel('Key').fill('not this one at all')
    await page.getByRole('button', { name: 'Enter' }).click()
    await expect(page.getByText('This key does not open the door.')).toBeVisible()
    // The link that is printed at the start.
    await page.goto(`${locked.url}/enter#key=the-reading-key-of-the-tests`)
    await page.getByRole('link', { name: 'Open Lantern Quay' }).click()
    await editor.ready()
    expect(page.url()).not.toContain('key=')
    await expect(editor.saveState()).toHaveText('Only looking')
    const before = await editor.placements()
    await nudge(page, 'Stalls', 'Position Y', '0.1')
    await expect(page.getByTestId('notice')).toContainText('This level is only looked at')
    expect(await editor.placements()).toEqual(before)
    await page.goto(`${locked.url}/enter?to=/levels/${editor.levelId}#key=the-writing-key-of-the-tests`)
    await editor.ready()
    await expect(editor.saveState()).toHaveText('Saved')
    await nudge(page, 'Stalls', 'Position Y', '0.1')
    await expect(editor.saveState()).toHaveText('Saved · change 1')
    expect(await editor.journal()).toEqual(['Position Y of Stalls'])
  } finally {
    // The page leaves first: it would rightly complain of a server that is going down.
    await page.goto('about:blank')
    await locked.dispose()
  }
})

test('the browser may be killed at any moment: what it said to be saved or kept is there', async ({ server }) => {
  const folder = mkdtempSync(join(tmpdir(), 'handy-grid-browser-'))
  const made = await fetch(`${server.url}/api/levels`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ name: 'Killed', from: 'demo' }),
  })
  const { id } = levelSummarySchema.parse(await made.json())
  let context: BrowserContext | undefined
  const start = async () => {
    context = await chromium.launchPersistentContext(folder, {
      executablePath: process.env.CHROMIUM,
      viewport: { width: 1024, height: 700 },
      deviceScaleFactor: 0.5,
      reducedMotion: 'reduce',
      args: [...CHROMIUM_ARGS, `--user-agent=${folder}`],
    })
    const page = context.pages()[0] ?? (await context.newPage())
    const editor = new Editor(page, server)
    await page.goto(`${server.url}/levels/${id}`)
    await editor.ready()
    return editor
  }
  const kill = async () => {
    const closed = context!.waitForEvent('close')
    const { execFileSync } = await import('node:child_process')
    // All processes of this browser have its folder in their command line.
    execFileSync('pkill', ['-9', '-f', folder])
    await closed
    await context!.close().catch(() => {})
  }
  const tries = process.env.TRIAL === 'long' ? 30 : 4
  try {
    let promised = 0
    for (let i = 1; i <= tries; i++) {
      const editor = await start()
      const stalls = await editor.named('Stalls')
      expect(stalls.translation[1]).toBeGreaterThanOrEqual(promised)
      // Every other time nobody answers, so that only the device can keep it.
      if (i % 2 === 0) await editor.page.route('**/changes', route => route.abort())
      await editor.page.locator('[role=treeitem]', { hasText: 'Stalls' }).first().click()
      await editor.page.getByLabel('Position Y', { exact: true }).fill(String(i))
      await editor.page.keyboard.press('Enter')
      // What it says at the moment it is killed is what it has to keep.
      const says = i % 2 === 0 ? /1 change kept on this device/ : /^Saved · change/
      if (i < tries) {
        await expect(editor.saveState()).toHaveText(says)
        promised = i
      }
      await kill()
    }
    const editor = await start()
    await editor.saved()
    const stalls = await editor.named('Stalls')
    expect(stalls.translation[1]).toBeGreaterThanOrEqual(promised)
    expect(await editor.row(stalls.id)).toEqual(stalls)
  } finally {
    await context?.close().catch(() => {})
    rmSync(folder, { recursive: true, force: true })
  }
})
