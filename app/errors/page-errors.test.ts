import { beforeEach, describe, expect, it, vi } from 'vitest'
import { pageErrorSchema } from '~~/core/api/schema'
import type { PageError } from '~~/core/api/schema'

vi.stubGlobal('location', { pathname: '/levels/x' })

/** A window and a console of its own for each test. */
async function start() {
  vi.resetModules()
  const errors = await import('./page-errors')
  const window = new EventTarget()
  const [written, told]: [unknown[][], PageError[]] = [[], []]
  const console = { error: (...all: unknown[]) => void written.push(all) }
  errors.watchWindow(window, console, error => {
    told.push(error)
    return Promise.resolve()
  })
  const throws = (error: unknown, message = '') =>
    window.dispatchEvent(Object.assign(new Event('error'), { error, message }))
  const rejects = (reason: unknown) => window.dispatchEvent(Object.assign(new Event('unhandledrejection'), { reason }))
  return { ...errors, console, written, told, throws, rejects }
}

beforeEach(() => vi.clearAllMocks())

describe('errors of the page', () => {
  it('reach the person and the log, from wherever they come, each once', async () => {
    const { throws, rejects, console, reportError, guarded, unexpected, told, written } = await start()
    const one = new TypeError('x.union is not a function')
    throws(one)
    throws(one)
    console.error(one)
    expect([unexpected.value?.name, told.length]).toEqual(['TypeError', 1])
    rejects(new Error('second'))
    expect([unexpected.value?.details.includes('second'), told.length]).toEqual([true, 2])
    // As Vue writes what fails in a watcher outside of all components.
    console.error(new RangeError('third'))
    expect([unexpected.value?.during, told.length]).toEqual(['console', 3])
    reportError(new SyntaxError('fourth'), 'worker')
    guarded(() => {
      throw new EvalError('fifth')
    })()
    await guarded(() => Promise.reject(new URIError('sixth')))()
    await Promise.resolve()
    expect(told.map(({ during }) => during)).toEqual(['event', 'promise', 'console', 'worker', 'listener', 'promise'])
    expect(written.flat().filter(each => each instanceof Error)).toHaveLength(5)
    unexpected.value = null
    throws(undefined, 'ResizeObserver loop completed with undelivered notifications.')
    expect(unexpected.value).toBeNull()
  })

  it('are told without what somebody works on, as the server takes them, and not without end', async () => {
    const { describe: described, throws, told } = await start()
    const secret = new Error('Quay of the Lantern: no such part')
    secret.stack = `Error: Quay of the Lantern\n    at draw (http://127.0.0.1:4600/_nuxt/D3x-a.js:12:345)\n    at http://127.0.0.1:4600/levels/Quay`
    expect(described(secret, 'event')).toEqual({ name: 'Error', says: '', where: ['D3x-a.js:12:345'], during: 'event' })
    expect(described(new TypeError("Cannot read properties of undefined (reading 'Quay')"), 'promise').says).toBe(
      'Cannot read properties of undefined (reading …)',
    )
    expect(described('text', 'event')).toMatchObject({ name: 'string', says: '' })
    for (let i = 0; i < 60; i++) throws(new TypeError(`number ${i}`))
    expect(told).toHaveLength(20)
    for (const each of told) expect(pageErrorSchema.safeParse(each).success).toBe(true)
  })

  it('of one listener do not keep the next one from hearing', async () => {
    const { guarded } = await start()
    const heard: string[] = []
    for (const listener of [
      guarded(() => {
        throw new Error('bad')
      }),
      guarded(() => heard.push('good')),
    ])
      listener()
    expect(heard).toEqual(['good'])
  })
})
