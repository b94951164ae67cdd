/** Of files that are being made, by the tickets they were asked for with: how many bytes are written. */
const going = new Map<string, number>()

/** Keeps what is told of a file that is being made until that is over. @param ticket none, if nobody will ask */
export function startProgress(ticket: string | undefined): { onProgress: (bytes: number) => void; end: () => void } {
  if (ticket === undefined) return { onProgress: () => {}, end: () => {} }
  going.set(ticket, 0)
  return { onProgress: bytes => void going.set(ticket, bytes), end: () => void going.delete(ticket) }
}

/** Bytes that are written of a file that is being made; null if none is made with this ticket. */
export function progressOf(ticket: string): number | null {
  return going.get(ticket) ?? null
}
