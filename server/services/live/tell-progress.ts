import type { Progress } from '../../../core/api/schema'
import { noteProgress } from '../progress'
import { tellServers } from './live'

/** Milliseconds between two times that other servers are told how far something is. */
const TOLD_EVERY = 400

/**
 * Keeps what is told of something that is being done until that is over, here and on the other servers: who asks may
 * reach any of them.
 *
 * @param ticket none, if nobody will ask
 */
export function startProgress(ticket: string | undefined): {
  onProgress: (progress: Progress) => void
  end: () => void
} {
  if (ticket === undefined) return { onProgress: () => {}, end: () => {} }
  let toldAt = -Infinity
  const note = (progress: Progress | null, isTold: boolean) => {
    noteProgress(ticket, progress)
    if (!isTold) return
    toldAt = performance.now()
    tellServers({ ticket, progress })
  }
  note({ bytes: null, share: null }, true)
  return {
    onProgress: progress => note(progress, performance.now() - toldAt > TOLD_EVERY),
    end: () => note(null, true),
  }
}
