import { createReadStream } from 'node:fs'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { EventHandler } from 'h3'
import type { HandOverRouteName } from '../../core/api/routes'
import type { FormatName, FormatOptions } from '../../core/formats/formats'
import { FORMATS } from '../../core/formats/formats'
import { needLevel } from '../services/levels'
import { startProgress } from '../services/progress'
import { inWorker } from '../workers/pool'
import { Reply } from './reply'
import { defineRoute } from './route'

/** Answers a level in a format. It is made in another thread, and ended if nobody waits for it any more. */
export function handOverRoute(route: HandOverRouteName, format: FormatName): EventHandler {
  return defineRoute(route, async ({ db, id, event, query }) => {
    const { name } = await needLevel(await db(), id)
    const { ticket, ...options } = query as FormatOptions<FormatName> & { ticket?: string }
    const { res } = event.node
    const gone = new AbortController()
    const leave = () => gone.abort()
    res.once('close', leave)
    const folder = await mkdtemp(join(tmpdir(), 'handy-grid-hand-over-'))
    const remove = () => void rm(folder, { recursive: true, force: true })
    const { progress, end } = startProgress(ticket)
    try {
      const { path, report } = await inWorker('handOver', { id, format, options, folder, progress }, gone.signal)
      res.off('close', leave)
      const file = createReadStream(path).once('close', remove)
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
    }
    catch (error) {
      remove()
      throw error
    }
    finally {
      end()
    }
  })
}
