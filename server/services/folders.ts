import { mkdtemp, readdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { log } from '../utils/log'

// Files that are handed over are made in folders of their own. Each has in its name the process that removes it; what
// is left of processes that were killed is removed when a server starts.

const PREFIX = 'handy-grid-hand-over-'

/** A new, empty folder. */
export function makeFolder(): Promise<string> {
  return mkdtemp(join(tmpdir(), `${PREFIX}${process.pid}-`))
}

/** Removes it with all that is in it; what cannot be removed is told to the log. */
export async function removeFolder(folder: string): Promise<void> {
  await rm(folder, { recursive: true, force: true, maxRetries: 3 }).catch((error: unknown) =>
    log.warn({ err: error, folder }, 'a folder was not removed'),
  )
}

/**
 * Removes the folders of processes that are no more, and of what had our own number before. Done before the first is
 * made.
 */
export async function sweepFolders(): Promise<void> {
  for (const name of await readdir(tmpdir())) {
    const process_ = name.startsWith(PREFIX) ? Number(/^(\d+)-/.exec(name.slice(PREFIX.length))?.[1]) : Number.NaN
    if (process_ === process.pid || (process_ > 0 && !isThere(process_))) await removeFolder(join(tmpdir(), name))
  }
}

function isThere(process_: number): boolean {
  try {
    // Sends nothing, but fails if there is nobody to send it to.
    return process.kill(process_, 0)
  } catch (error) {
    return error instanceof Error && 'code' in error && error.code === 'EPERM'
  }
}
