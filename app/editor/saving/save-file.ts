/** Gives the person a file to keep, as a download. @param name with its ending */
export function saveFile(content: Blob, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(content)
  link.download = name
  link.click()
  // The download has begun by then; the address is not needed for it any more.
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000)
}
