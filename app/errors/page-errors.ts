import { shallowRef } from 'vue'
import type { PageError } from '~~/core/api/schema'

/** Where an error was noticed. */
export type During = PageError['during']

/** An error of the page that nobody expected, for telling the person. */
export type Unexpected = PageError & {
  /** All that is known of it, for whoever looks into it; it does not leave the device by itself. */
  details: string
}

/** The last one the person has not put away. */
export const unexpected = shallowRef<Unexpected | null>(null)

/** Errors that a page tells the server's log; of a page that fails again and again the first ones say what is wrong. */
const MOST_TOLD = 20
/** Frames of the stack that are told. */
const FRAMES = 8
/** Errors of the language itself speak of the code; what others say may quote what somebody wrote. */
const OF_THE_CODE = new Set(['TypeError', 'ReferenceError', 'RangeError', 'InternalError'])

const seen = new WeakSet<object>()
const told = new Set<string>()
let tellServer: (error: PageError) => Promise<unknown> = () => Promise.resolve()
let write: (...all: unknown[]) => void = () => {}

/**
 * The one place where every error of the page arrives that nothing else expected: it goes to the console, to the
 * server's log (a few for each page, without anything of the level's content) and to the person. The level goes on.
 */
export function reportError(error: unknown, during: During): void {
  if (typeof error === 'object' && error !== null) {
    if (seen.has(error)) return
    seen.add(error)
  }
  write(error)
  show(error, during)
}

function show(error: unknown, during: During): void {
  const known = describe(error, during)
  unexpected.value = {
    ...known,
    details: `${new Date().toISOString()} ${location.pathname}\n${error instanceof Error ? (error.stack ?? String(error)) : String(error)}`,
  }
  const key = JSON.stringify(known)
  if (told.size >= MOST_TOLD || told.has(key)) return
  told.add(key)
  // With the server away the person and the console know all the same.
  tellServer(known).catch((failure: unknown) => write(failure))
}

/** What can be told of an error without telling what somebody works on. */
export function describe(error: unknown, during: During): PageError {
  if (!(error instanceof Error)) return { name: typeof error, says: '', where: [], during }
  const says = OF_THE_CODE.has(error.name) ? error.message.replace(/(["'`]).*?\1/g, '…').slice(0, 300) : ''
  const frames = (error.stack ?? '')
    .split('\n')
    .flatMap(line => /(?:\/_nuxt\/|\/)([\w.-]+\.m?[jt]s:\d+:\d+)/.exec(line)?.[1] ?? [])
  return { name: error.name.slice(0, 80), says, where: frames.slice(0, FRAMES).map(frame => frame.slice(-200)), during }
}

/** Runs what may fail without taking along who calls it: one listener of several. */
export function guarded<A extends unknown[]>(run: (...all: A) => unknown): (...all: A) => void {
  return (...all) => {
    try {
      const outcome = run(...all)
      if (outcome instanceof Promise) outcome.catch((error: unknown) => reportError(error, 'promise'))
    } catch (error) {
      reportError(error, 'listener')
    }
  }
}

/**
 * Takes the errors of a window: of events, of promises, and those that are only written to its console, as Vue does
 * with what fails in a watcher outside of all components.
 *
 * @param tell gives one to the server's log
 */
export function watchWindow(window: EventTarget, console: Pick<Console, 'error'>, tell: typeof tellServer): void {
  tellServer = tell
  write = console.error.bind(console)
  window.addEventListener('error', event => {
    const { error, message } = event as ErrorEvent
    // The browser's way to say that sizes settle in the next frame; nothing is wrong.
    if (!error && message?.startsWith('ResizeObserver loop')) return
    // It stands in the console already.
    if (typeof error === 'object' && error !== null) {
      if (seen.has(error)) return
      seen.add(error)
    }
    show(error ?? message, 'event')
  })
  window.addEventListener('unhandledrejection', event => {
    const { reason } = event as PromiseRejectionEvent
    if (typeof reason === 'object' && reason !== null) {
      if (seen.has(reason)) return
      seen.add(reason)
    }
    show(reason, 'promise')
  })
  console.error = (...all: unknown[]) => {
    write(...all)
    const error = all.find(each => each instanceof Error)
    if (error && !seen.has(error)) {
      seen.add(error)
      show(error, 'console')
    }
  }
}
