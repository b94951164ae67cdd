/** What work comes to, or the error given if it takes longer. @param leave tells the work that nobody waits any more */
export async function within<T>(milliseconds: number, work: Promise<T>, late: Error, leave: () => void): Promise<T> {
  let timer: NodeJS.Timeout | undefined
  const over = new Promise<never>((_, fail) => {
    timer = setTimeout(() => {
      fail(late)
      leave()
    }, milliseconds)
  })
  try {
    return await Promise.race([work, over])
  } finally {
    clearTimeout(timer)
  }
}
