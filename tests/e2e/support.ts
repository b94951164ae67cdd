import { readFile } from 'node:fs/promises'
import type { BrowserContext, Page } from '@playwright/test'
import { test as base, expect } from '@playwright/test'
import sharp from 'sharp'
import { and, asc, eq, notInArray } from 'drizzle-orm'
import { v7 } from 'uuid'
import type { Handle } from '../../core/edit/handles/handle'
import type { Constraint } from '../../core/edit/handles/lock'
import { levelSummarySchema } from '../../core/api/schema'
import { createPlacement } from '../../core/level/create'
import type { Operation, Placement } from '../../core/level/schema'
import type { Vec3 } from '../../core/math/vectors'
import type { ScreenPoint } from '../../core/math/screen'
import type {} from '../../app/shell/automation'
import { changes, levels, placements, recipes } from '../../server/db/schema'
import { rowToPlacement } from '../../server/db/rows'
import { demoId } from '../../demo/kit'
import type { TestServer } from '../server'
import { makeServer } from '../server'

/** A thing to be put into a level before it is opened: of a part of the kit, of a block, or a group. */
export type Thing = Partial<Placement> & { name: string; part?: string; block?: string }

/** What a person at the editor does and sees, in the words of the tests. */
export class Editor {
  levelId = ''

  constructor(
    readonly page: Page,
    readonly server: TestServer,
  ) {}

  /** A level from the demo, made by the API, opened in the page. */
  async open(name = 'Night work'): Promise<void> {
    const response = await fetch(`${this.server.url}/api/levels`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name, from: 'demo' }),
    })
    this.levelId = levelSummarySchema.parse(await response.json()).id
    await this.page.goto(`${this.server.url}/levels/${this.levelId}`)
    await this.ready()
  }

  /**
   * The demo's level with its goods alone, and its groups without what is in them: quickly drawn, for tests that are
   * about saving.
   */
  async openGoods(name = 'Night work'): Promise<void> {
    const response = await fetch(`${this.server.url}/api/levels`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name, from: 'demo' }),
    })
    this.levelId = levelSummarySchema.parse(await response.json()).id
    const all = await this.rows()
    const goods = all.find(each => each.name === 'Goods')!
    const kept = all
      .filter(
        ({ id, parentId, kind }) => id === goods.id || parentId === goods.id || (parentId === null && kind === 'group'),
      )
      .map(({ id }) => id)
    await this.server.db
      .delete(placements)
      .where(and(eq(placements.levelId, this.levelId), notInArray(placements.id, kept)))
    await this.server.db.update(levels).set({ placementCount: kept.length }).where(eq(levels.id, this.levelId))
    await this.page.goto(`${this.server.url}/levels/${this.levelId}`)
    await this.ready()
  }

  /** An empty level with things put into it by the API, opened in the page; small, so that the stage draws fast. */
  async openWith(things: Thing[], operations: Operation[] = []): Promise<void> {
    const response = await fetch(`${this.server.url}/api/levels`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'Yard', from: 'empty' }),
    })
    this.levelId = levelSummarySchema.parse(await response.json()).id
    const puts = things.map(({ part, block, ...given }, order): Operation => {
      const kind = block ? ('block' as const) : part ? ('part' as const) : ('group' as const)
      const { id, ...fields } = createPlacement({
        id: v7(),
        kind,
        partId: part ? demoId(`part/${part}`) : null,
        blockId: block ?? null,
        order,
        ...given,
      })
      return { do: 'put', id, fields }
    })
    const made = await fetch(`${this.server.url}/api/levels/${this.levelId}/changes`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        baseRevision: 0,
        changes: [{ id: v7(), label: 'Put things in', author: 'Test', operations: [...operations, ...puts] }],
      }),
    })
    expect(made.status).toBe(200)
    await this.page.goto(`${this.server.url}/levels/${this.levelId}`)
    await this.ready()
  }

  /** Picks a thing of the top level by its row in the roster. */
  async pick(...names: string[]): Promise<void> {
    for (const [i, name] of names.entries()) {
      await this.page
        .locator('[role=treeitem]')
        .filter({ has: this.page.getByText(name, { exact: true }) })
        .click({ modifiers: i > 0 ? ['Control'] : [] })
    }
    await this.drawn()
  }

  /** Chooses from a list that opens. */
  async choose(label: string, option: string): Promise<void> {
    await this.page
      .locator('.choice')
      .filter({ has: this.page.getByRole('combobox', { name: label, exact: true }) })
      .click()
    await this.page.getByRole('option', { name: option, exact: true }).click()
  }

  /** Begins a form from a preset. */
  async beginFrom(preset: string): Promise<void> {
    await this.page.getByRole('button', { name: 'Preset', exact: true }).first().click()
    await this.page
      .getByRole('menu', { name: 'Presets' })
      .getByRole('menuitem')
      .filter({ has: this.page.getByText(preset, { exact: true }) })
      .click()
  }

  /** Does something of the ledger's menu for what is picked. */
  async doMore(name: string): Promise<void> {
    await this.page.getByRole('button', { name: 'More for what is picked' }).click()
    await this.page.locator('.v-list-item', { hasText: name }).click()
  }

  async setGrid(step: string): Promise<void> {
    await this.page.getByRole('button', { name: 'Grid menu' }).click()
    await this.page.getByLabel('Grid step').fill(step)
    await this.page.keyboard.press('Enter')
    await this.page.keyboard.press('Escape')
  }

  /** Opens the bench of one kind of repetition. */
  async openRepeat(kind: string): Promise<void> {
    await this.page.getByRole('button', { name: 'Repeat', exact: true }).click()
    await this.page.getByRole('button', { name: kind, exact: true }).click()
  }

  /** Moves the pointer to a point of the world as a hand does, and clicks there, with keys held. */
  async clickOn(point: Vec3, keys: readonly ('Shift' | 'Control')[] = []): Promise<void> {
    const at = await this.at(point)
    for (const key of keys) await this.page.keyboard.down(key)
    await this.page.mouse.move(at.x + 3, at.y + 2)
    await this.page.mouse.move(at.x, at.y)
    await this.drawn()
    await this.page.mouse.click(at.x, at.y)
    for (const key of keys) await this.page.keyboard.up(key)
    await this.drawn()
  }

  /** Clicks on places of the ground, one after the other. */
  async clickAt(...points: Vec3[]): Promise<void> {
    for (const point of points) {
      const at = await this.at(point)
      await this.page.mouse.move(at.x, at.y)
      await this.page.mouse.click(at.x, at.y)
      await this.drawn()
    }
  }

  /** The labels of the journal after the one that put things in. */
  async done(): Promise<string[]> {
    await this.saved()
    return (await this.journal()).slice(1)
  }

  async ready(): Promise<void> {
    const id = await this.page.waitForFunction(
      () => document.querySelector('[data-test=stats]') && window.handyGrid?.level()?.id,
      null,
      { timeout: 90_000 },
    )
    this.levelId = (await id.jsonValue()) as string
    // A level that is just being opened anew has no stage for a moment.
    await expect(() => this.drawn()).toPass()
  }

  drawn(): Promise<void> {
    return this.page.evaluate(() => window.handyGrid!.drawn())
  }

  saved(): Promise<void> {
    return this.page.evaluate(() => window.handyGrid!.saved())
  }

  placements(): Promise<Placement[]> {
    return this.page.evaluate(() => window.handyGrid!.level()!.placements)
  }

  revision(): Promise<number> {
    return this.page.evaluate(() => window.handyGrid!.level()!.revision)
  }

  async named(name: string): Promise<Placement> {
    const found = (await this.placements()).find(placement => placement.name === name)
    if (!found) throw new Error(`nothing is called ${name}`)
    return found
  }

  async at(point: Vec3, pane?: number): Promise<ScreenPoint> {
    const seen = await this.page.evaluate(([where, number]) => window.handyGrid!.project(where, number), [
      point,
      pane,
    ] as const)
    if (!seen) throw new Error(`${point.join(' ')} is behind the eye`)
    return seen
  }

  /** Where a handle is; a constraint alone means that of Move. */
  async handle(handle: Handle | Constraint, pane?: number): Promise<ScreenPoint> {
    await this.drawn()
    const wanted: Handle = 'do' in handle ? handle : { do: 'move', ...handle }
    const seen = await this.page.evaluate(([which, number]) => window.handyGrid!.handle(which, number), [
      wanted,
      pane,
    ] as const)
    if (!seen) throw new Error('no handles are shown')
    return seen
  }

  async look(eye: Vec3, target: Vec3): Promise<void> {
    await this.page.evaluate(([from, to]) => window.handyGrid!.lookFrom(from, to), [eye, target] as const)
    await this.drawn()
  }

  async view(pane?: number) {
    return (await this.page.evaluate(number => window.handyGrid!.view(number), pane))!
  }

  async pickedNames(): Promise<string[]> {
    const [ids, all] = [await this.page.evaluate(() => window.handyGrid!.picked()), await this.placements()]
    // A copy of an arrangement is no placement; its id says which it is.
    return ids.map(id => all.find(placement => placement.id === id)?.name ?? id)
  }

  rosterRow(name: string) {
    return this.page.locator('[role=treeitem]', { hasText: name }).first()
  }

  /** Presses at one point and moves to the other in steps, as a hand does; the button stays down. */
  async pressAndMove(from: ScreenPoint, to: ScreenPoint): Promise<void> {
    const { mouse } = this.page
    await mouse.move(from.x, from.y)
    await mouse.down()
    await mouse.move((from.x + to.x) / 2, (from.y + to.y) / 2, { steps: 3 })
    await mouse.move(to.x, to.y, { steps: 3 })
  }

  /** What the readout at the pointer says. */
  async readout(): Promise<string> {
    return (await this.page.getByTestId('readout').innerText()).replace(/\s+/g, ' ')
  }

  saveState() {
    return this.page.getByTestId('save-state')
  }

  /** The level's rows in the database. */
  async rows(): Promise<Placement[]> {
    const found = await this.server.db
      .select()
      .from(placements)
      .where(eq(placements.levelId, this.levelId))
      .orderBy(asc(placements.id))
    return found.map(rowToPlacement)
  }

  async row(id: string): Promise<Placement | undefined> {
    const [found] = await this.server.db
      .select()
      .from(placements)
      .where(and(eq(placements.levelId, this.levelId), eq(placements.id, id)))
    return found && rowToPlacement(found)
  }

  /** The level's recipes in the database. */
  async recipes() {
    return this.server.db.select().from(recipes).where(eq(recipes.levelId, this.levelId))
  }

  async journal(): Promise<string[]> {
    const entries = await this.server.db
      .select({ label: changes.label })
      .from(changes)
      .where(eq(changes.levelId, this.levelId))
      .orderBy(asc(changes.revision))
    return entries.map(entry => entry.label)
  }

  async storedRevision(): Promise<number> {
    const [level] = await this.server.db
      .select({ revision: levels.revision })
      .from(levels)
      .where(eq(levels.id, this.levelId))
    return level!.revision
  }
}

/** Picks a thing by its row in the roster and types a number into a field of the ledger. */
export async function nudge(page: Page, name: string, field: string, text: string): Promise<void> {
  await page.locator('[role=treeitem]', { hasText: name }).first().click()
  await page.getByLabel(field, { exact: true }).fill(text)
  await page.keyboard.press('Enter')
}

/** Errors of pages that a test asks for, by what they say; all others fail it. */
export class ExpectedErrors {
  private readonly patterns: RegExp[] = []
  readonly seen: string[] = []

  /** What the server refuses is written to the console by the browser as well. */
  allow(...patterns: RegExp[]): void {
    this.patterns.push(...patterns)
  }

  /**
   * Listens to a context of pages: errors of events, unhandled rejections, and whatever is written to a console as an
   * error, workers' too.
   */
  watch(context: BrowserContext): void {
    const note = (text: string) => {
      if (!this.patterns.some(pattern => pattern.test(text))) this.seen.push(text)
    }
    context.on('weberror', error => note(error.error().stack ?? String(error.error())))
    context.on('console', message => message.type() === 'error' && note(message.text()))
  }
}

/** Said by the browser of an answer of the server that is no success. */
export const answered = (...status: number[]) =>
  new RegExp(`Failed to load resource: the server responded with a status of (${status.join('|')})`)
/** Said by the browser while nobody answers. */
export const NOBODY_ANSWERS = /ERR_CONNECTION_(REFUSED|RESET|CLOSED)|ERR_EMPTY_RESPONSE|ERR_INCOMPLETE_CHUNKED_ENCODING/

export const test = base.extend<{ editor: Editor; errors: ExpectedErrors; noErrors: void }, { server: TestServer }>({
  // Playwright wants the first argument taken apart, also when nothing is taken.
  server: [
    async ({ browserName: _browser }, use) => {
      const server = await makeServer()
      await use(server)
      await server.dispose()
    },
    { scope: 'worker', timeout: 120_000 },
  ],
  editor: async ({ page, server }, use) => use(new Editor(page, server)),
  // Playwright wants the first argument taken apart, also when nothing is taken.
  errors: async ({ browserName: _browser }, use) => use(new ExpectedErrors()),
  // Whatever else is tested: no page of the test reports an error that it did not ask for, or breaks a rule of its
  // security policy.
  noErrors: [
    async ({ context, browser, errors }, use) => {
      errors.watch(context)
      const newContext = browser.newContext.bind(browser)
      browser.newContext = async options => {
        const made = await newContext(options)
        errors.watch(made)
        return made
      }
      await use()
      browser.newContext = newContext
      expect(errors.seen).toEqual([])
    },
    { auto: true },
  ],
})

export { expect }

/** Drops a file of the project's own on the stage, as from a folder beside the browser. */
export async function dropFile(page: Page, path: string, name = path.split('/').at(-1)!): Promise<void> {
  const bytes = (await readFile(path)).toString('base64')
  const data = await page.evaluateHandle(
    ([text, called]) => {
      const transfer = new DataTransfer()
      transfer.items.add(new File([Uint8Array.from(atob(text), letter => letter.charCodeAt(0))], called))
      return transfer
    },
    [bytes, name] as const,
  )
  await page.locator('[data-test=stage]').dispatchEvent('drop', { dataTransfer: data })
}

/** Of two pictures of one size, the share of pixels of which some channel is another by more than `by`. */
export async function difference(one: Buffer, other: Buffer, by = 12): Promise<number> {
  const [a, b] = await Promise.all([one, other].map(each => sharp(each).removeAlpha().raw().toBuffer()))
  let differing = 0
  for (let i = 0; i < a!.length; i += 3) if ([0, 1, 2].some(k => Math.abs(a![i + k]! - b![i + k]!) > by)) differing++
  return differing / (a!.length / 3)
}
