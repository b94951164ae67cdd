/** What work comes to, or the error given if it takes longer. The work itself goes on. */
export async function within<T>(milliseconds: number, work: Promise<T>, late: Error): Promise<T> {
  let timer: NodeJS.Timeout | undefined
  const over = new Promise<never>((_, fail) => {
    timer = setTimeout(() => fail(late), milliseconds)
  })
  try {
    return await Promise.race([work, over])
  }
  finally {
    clearTimeout(timer)
  }
}
