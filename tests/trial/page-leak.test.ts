import type { CDPSession, Page } from '@playwright/test'
import { chromium } from '@playwright/test'
import { expect, it } from 'vitest'
import { CHROMIUM_ARGS } from '../../scripts/lib/chromium-args.mjs'
import { useServer } from '../api/support'

// Levels opened and left again, two hundred times in one page, in the long trial alone: what was open is let go of.
const isLong = process.env.TRIAL === 'long'
const TIMES = Number(process.env.TRIAL_OPENINGS ?? 200)
/** The share of the times after which a page is warm, and by how much it may be above what it took then. */
const [WARM, GROWTH] = [0.2, 1.25]

const server = useServer()

type Taken = { heap: number; nodes: number; listeners: number }

async function taken(session: CDPSession): Promise<Taken> {
  for (let i = 0; i < 2; i++) await session.send('HeapProfiler.collectGarbage')
  const { usedSize } = await session.send('Runtime.getHeapUsage')
  const { metrics } = await session.send('Performance.getMetrics')
  const metric = (name: string) => metrics.find(each => each.name === name)!.value
  return { heap: usedSize / 1e6, nodes: metric('Nodes'), listeners: metric('JSEventListeners') }
}

async function openAndLeave(page: Page, name: string): Promise<void> {
  await page.getByText(name, { exact: true }).first().click()
  await page.waitForFunction(() => window.handyGrid !== undefined && !!document.querySelector('[data-test=stats]'))
  await page.evaluate(() => window.handyGrid!.drawn())
  await page.goBack()
  await page.getByRole('heading', { name: 'Levels' }).waitFor()
}

it.skipIf(!isLong)(
  'a page takes no more after two hundred openings than when it was warm',
  async () => {
    const { id } = await server.newLevel('demo')
    await server.call('PATCH', `/api/levels/${id}`, { name: 'Opened' })
    const browser = await chromium.launch({
      executablePath: process.env.CHROMIUM,
      args: CHROMIUM_ARGS,
    })
    try {
      const page = await browser.newPage({ viewport: { width: 800, height: 600 }, reducedMotion: 'reduce' })
      const session = await page.context().newCDPSession(page)
      await session.send('Performance.enable')
      await page.goto(server.get().url)
      const figures: Taken[] = []
      for (let i = 0; i < TIMES; i++) {
        await openAndLeave(page, 'Opened')
        if (i % 5 === 4) figures.push(await taken(session))
      }
      // A page may still be on its way out when it is looked at: the least of several counts.
      const least = (of: keyof Taken, from: number, to: number) =>
        Math.min(
          ...figures.slice(Math.floor(figures.length * from), Math.ceil(figures.length * to)).map(each => each[of]),
        )
      const say = (from: number, to: number): Taken => ({
        heap: least('heap', from, to),
        nodes: least('nodes', from, to),
        listeners: least('listeners', from, to),
      })
      const [warm, end] = [say(WARM, WARM + 0.2), say(0.8, 1)]
      console.warn(`after ${TIMES} openings: warm ${JSON.stringify(warm)}, at the end ${JSON.stringify(end)}`)
      expect(end.heap).toBeLessThan(warm.heap * GROWTH)
      expect(end.nodes).toBeLessThanOrEqual(warm.nodes * GROWTH)
      expect(end.listeners).toBeLessThanOrEqual(warm.listeners * GROWTH)
    } finally {
      await browser.close()
    }
  },
  40 * 60_000,
)
