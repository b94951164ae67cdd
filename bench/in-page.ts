import type { Browser, Page } from '@playwright/test'
import { chromium } from '@playwright/test'
import type {} from '../app/shell/automation'
import { CHROMIUM_ARGS } from '../scripts/lib/chromium-args.mjs'

/** The browser that pages are measured in. */
export const launchBrowser = (): Promise<Browser> =>
  chromium.launch({ executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: CHROMIUM_ARGS })

/** Milliseconds of moves of an orbit, each until it is drawn. */
export async function orbit(page: Page): Promise<number[]> {
  return page.evaluate(async () => {
    const canvas = document.querySelector<HTMLCanvasElement>('.stage-canvas')!
    const [box, pixel] = [canvas.getBoundingClientRect(), new Uint8Array(4)]
    const gl = canvas.getContext('webgl2')!
    canvas.setPointerCapture = () => {}
    const point = (type: string, x: number) =>
      canvas.dispatchEvent(
        new PointerEvent(type, {
          pointerId: 1,
          clientX: box.left + x,
          clientY: box.top + 200,
          buttons: 1,
          altKey: true,
          bubbles: true,
          isPrimary: true,
        }),
      )
    const times: number[] = []
    point('pointerdown', 200)
    for (let i = 0; i < 60; i++) {
      const since = performance.now()
      point('pointermove', 200 + i * 3)
      await window.handyGrid!.drawn()
      // Waits until what was drawn is there.
      gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel)
      times.push(performance.now() - since)
    }
    point('pointerup', 380)
    return times
  })
}
