import type { ServerResponse } from 'node:http'
import { Readable } from 'node:stream'
import type { EventHandler } from 'h3'
import { getQuery } from 'h3'
import type { HandOverRouteName } from '../../core/api/routes'
import type { FormatName } from '../../core/formats/formats'
import { FORMATS } from '../../core/formats/formats'
import type { Database } from '../db/client'
import { inQueue } from '../jobs/asking'
import type { MadeFile } from '../jobs/queue'
import { removeFolder } from '../services/folders'
import { needLevel } from '../services/levels'
import { startProgress } from '../services/live/tell-progress'
import { readInOrder, readMadeFile, removeMadeFile } from '../services/made-files'
import { log } from './log'
import { Reply } from './reply'
import { defineRoute } from './route'

/** Answers a level in a format. It is made in another process, and ended if nobody waits for it any more. */
export function handOverRoute(route: HandOverRouteName, format: FormatName): EventHandler {
  return defineRoute(route, async ({ db, id, event, query, terms }) => {
    const { name, placementCount } = await needLevel(await db(), id)
    const { ticket } = query
    // As the address has it: whoever makes it reads it by the same schema.
    const { ticket: _, ...choices } = getQuery(event)
    const { end } = startProgress(ticket)
    try {
      const order = { id, format, query: choices }
      const { report, from } = await inQueue('handOver', order, { ...terms, size: placementCount, ticket })
      const { mediaType, ending } = FORMATS[format]
      return new Reply(sent(event.node.res, await db(), from, report.bytes), {
        'content-type': mediaType,
        'content-length': String(report.bytes),
        // What became of the level: JSON, percent-encoded, as a header has no other letters.
        'x-report': encodeURIComponent(JSON.stringify(report)),
        // RFC 6266 and RFC 8187: the name in UTF-8, percent-encoded.
        'content-disposition': `attachment; filename="level.${ending}"; filename*=UTF-8''${encodeURIComponent(name).replace(/['()*]/g, c => `%${c.charCodeAt(0).toString(16)}`)}.${ending}`,
      })
    } finally {
      end()
    }
  })
}

/** A file that was made, from wherever it lies; it is removed once it was sent, or nobody takes it any more. */
function sent(res: ServerResponse, db: Database, from: MadeFile, length: number): Readable {
  const pieces = 'folder' in from ? readInOrder(from.paths) : readMadeFile(db, from.job, length)
  const file = Readable.from(pieces, { objectMode: false }).once('close', () => void remove(db, from))
  // Whoever asked may be gone before the file is sent.
  if (res.writableEnded || res.destroyed) file.destroy()
  res.once('close', () => file.destroy())
  return file
}

async function remove(db: Database, from: MadeFile): Promise<void> {
  if ('folder' in from) return removeFolder(from.folder)
  await removeMadeFile(db, from.job).catch((error: unknown) =>
    log.warn({ err: error }, 'a file that was sent is still in the database'),
  )
}
