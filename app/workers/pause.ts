/** Gives way to what else is asked of a worker. */
export const pause = () =>
  new Promise<void>(resolve => {
    const { port1, port2 } = new MessageChannel()
    port1.onmessage = () => {
      port1.close()
      resolve()
    }
    port2.postMessage(null)
  })
