import { createReadStream } from 'node:fs'
import { Readable } from 'node:stream'
import type { EventHandler } from 'h3'
import type { HandOverRouteName } from '../../core/api/routes'
import type { FormatName, FormatOptions } from '../../core/formats/formats'
import { FORMATS } from '../../core/formats/formats'
import { needLevel } from '../services/levels'
import { startProgress } from '../services/live/tell-progress'
import { makeFolder, removeFolder } from '../services/folders'
import { inWorker } from '../jobs/pool'
import { Reply } from './reply'
import { defineRoute } from './route'

/** Answers a level in a format. It is made in another process, and ended if nobody waits for it any more. */
export function handOverRoute(route: HandOverRouteName, format: FormatName): EventHandler {
  return defineRoute(route, async ({ db, id, event, query, terms }) => {
    const { name, placementCount } = await needLevel(await db(), id)
    const { ticket, ...options } = query as FormatOptions<FormatName> & { ticket?: string }
    const { res } = event.node
    const folder = await makeFolder()
    const remove = () => void removeFolder(folder)
    const { onProgress, end } = startProgress(ticket)
    try {
      const { paths, report } = await inWorker(
        'handOver',
        { id, format, options, folder },
        { ...terms, size: placementCount, onProgress },
      )
      const file = Readable.from(inOrder(paths), { objectMode: false }).once('close', remove)
      // Whoever asked may be gone before the file is sent.
      if (res.writableEnded || res.destroyed) file.destroy()
      res.once('close', () => file.destroy())
      const { mediaType, ending } = FORMATS[format]
      return new Reply(file, {
        'content-type': mediaType,
        'content-length': String(report.bytes),
        // What became of the level: JSON, percent-encoded, as a header has no other letters.
        'x-report': encodeURIComponent(JSON.stringify(report)),
        // RFC 6266 and RFC 8187: the name in UTF-8, percent-encoded.
        'content-disposition': `attachment; filename="level.${ending}"; filename*=UTF-8''${encodeURIComponent(name).replace(/['()*]/g, c => `%${c.charCodeAt(0).toString(16)}`)}.${ending}`,
      })
    } catch (error) {
      remove()
      throw error
    } finally {
      end()
    }
  })
}

/** Bytes that are read at once. */
const PIECE = 256 * 1024

async function* inOrder(paths: readonly string[]): AsyncGenerator<Buffer> {
  for (const path of paths) yield* createReadStream(path, { highWaterMark: PIECE }) as AsyncIterable<Buffer>
}
