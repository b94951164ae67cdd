import { expose } from 'comlink'

/**
 * Lets the page call a worker. What fails in it outside of a call is an error of the worker, of which the page is told.
 */
export function serve(all: object): void {
  self.addEventListener('unhandledrejection', event => {
    event.preventDefault()
    setTimeout(() => {
      throw event.reason
    })
  })
  expose(all)
}
