import type { Remote } from 'comlink'
import { wrap } from 'comlink'
import { reportError } from '~/errors/page-errors'

/** A worker, and what it can be asked. */
export type Spawned<T> = { raw: Worker, remote: Remote<T> }

/** Takes a worker into use: what goes wrong in it outside of a call is reported as an error of the page. */
export function spawn<T>(raw: Worker): Spawned<T> {
  raw.addEventListener('error', event => reportError(event.error ?? new Error(`In a worker: ${event.message}`), 'worker'))
  raw.addEventListener('messageerror', () => reportError(new Error('What a worker said could not be read'), 'worker'))
  return { raw, remote: wrap<T>(raw) }
}
