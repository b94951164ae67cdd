import type { Progress } from '../../core/api/schema'

const NOTHING: Progress = { bytes: null, share: null }
/** Milliseconds without a word, after which what another server does counts as over. */
const SILENT = 60_000
/** Things that are done at a time of which it is known how far they are. */
const MOST = 10_000

/** How far what is being made or brought in is, on whatever server, by the tickets it was asked for with. */
const going = new Map<string, { progress: Progress; at: number }>()

/** Notes how far something is; null if it is over. */
export function noteProgress(ticket: string, progress: Progress | null): void {
  going.delete(ticket)
  if (!progress) return
  const now = Date.now()
  // The one that said nothing for the longest is the first.
  for (const [oldest, { at }] of going) {
    if (going.size < MOST && now - at < SILENT) break
    going.delete(oldest)
  }
  going.set(ticket, { progress, at: now })
}

/** How far something is; nothing is known if nothing is done with this ticket. */
export function progressOf(ticket: string): Progress {
  return going.get(ticket)?.progress ?? NOTHING
}
