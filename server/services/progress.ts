import type { Progress } from '../../core/api/schema'

const NOTHING: Progress = { bytes: null, share: null }

/** How far what is being made or brought in is, by the tickets it was asked for with. */
const going = new Map<string, Progress>()

/** Keeps what is told of something that is being done until that is over. @param ticket none, if nobody will ask */
export function startProgress(ticket: string | undefined): {
  onProgress: (progress: Progress) => void
  end: () => void
} {
  if (ticket === undefined) return { onProgress: () => {}, end: () => {} }
  going.set(ticket, NOTHING)
  return { onProgress: progress => void going.set(ticket, progress), end: () => void going.delete(ticket) }
}

/** How far something is; nothing is known if nothing is done with this ticket. */
export function progressOf(ticket: string): Progress {
  return going.get(ticket) ?? NOTHING
}
