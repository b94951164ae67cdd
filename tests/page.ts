import { expose } from 'comlink'
import { createPinia, setActivePinia } from 'pinia'
import { vi } from 'vitest'
import { checkWork } from '../app/features/check/check-work'
import { compareWork } from '../app/features/milestones/compare-work'
import { readingWork } from '../app/editor/reading/reading-work'
import { scatterWork } from '../app/editor/dealing/scatter-work'
import { settleWork } from '../app/features/settle/settle-work'

// The page's stores without a page: what they ask goes to a server that is there, their workers work in this thread.
// Nothing is drawn, and this device keeps nothing.

const WORK: Record<string, () => object> = {
  'check-worker': checkWork,
  'compare-worker': compareWork,
  'reading-worker': readingWork,
  'scatter-worker': scatterWork,
  'settle-worker': settleWork,
}

/** A worker in this very thread; what it is asked goes over a channel, as to any other. */
export class WorkerHere extends EventTarget {
  private readonly port: MessagePort

  constructor(does: URL | object) {
    super()
    const { port1, port2 } = new MessageChannel()
    this.port = port1
    expose(does instanceof URL ? WORK[/([\w-]+)\.ts/.exec(does.pathname)![1]!]!() : does, port2)
    port1.start()
    port2.start()
  }

  override addEventListener(name: string, listener: never): void {
    if (name === 'message') this.port.addEventListener('message', listener)
    else super.addEventListener(name, listener)
  }

  postMessage(message: unknown, transferred: Transferable[]): void {
    this.port.postMessage(message, transferred)
  }

  terminate(): void {
    this.port.close()
  }
}

/** Begins a page over a server. `vi.unstubAllGlobals` ends it. */
export function beginPage(url: string): void {
  const kept = new Map<string, string>()
  const asked = fetch
  vi.stubGlobal('Worker', WorkerHere)
  vi.stubGlobal('navigator', {})
  vi.stubGlobal('location', { pathname: '/', href: url })
  vi.stubGlobal('sessionStorage', {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => kept.set(key, value),
  })
  vi.stubGlobal('fetch', (address: string, init?: RequestInit) => asked(new URL(address, url), init))
  setActivePinia(createPinia())
}
