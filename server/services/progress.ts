/** Of files that are being made, by the tickets they were asked for with: how many bytes are written. */
const going = new Map<string, Float64Array>()

/** A number that the thread that makes a file counts up, and that is forgotten when the file is made. @param ticket none, if nobody will ask */
export function startProgress(ticket: string | undefined): { progress: Float64Array, end: () => void } {
  const progress = new Float64Array(new SharedArrayBuffer(8))
  if (ticket !== undefined) going.set(ticket, progress)
  return { progress, end: () => void (ticket !== undefined && going.get(ticket) === progress && going.delete(ticket)) }
}

/** Bytes that are written of a file that is being made; null if none is made with this ticket. */
export function progressOf(ticket: string): number | null {
  return going.get(ticket)?.[0] ?? null
}
