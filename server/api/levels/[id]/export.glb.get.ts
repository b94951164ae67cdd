import { createReadStream } from 'node:fs'
import { rm } from 'node:fs/promises'
import { inWorker } from '../../../workers/pool'
import { needLevel } from '../../../services/levels'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'

export default defineRoute('exportLevel', async ({ db, id, event, query }) => {
  const { name } = await needLevel(await db(), id)
  const { folder, path, bytes, leftOut } = await inWorker('exportLevel', { id, instanced: query.instanced })
  const { res } = event.node
  const file = createReadStream(path).once('close', () => void rm(folder, { recursive: true, force: true }))
  // Whoever asked may be gone before the file is made, or before it is sent.
  if (res.writableEnded || res.destroyed) file.destroy()
  res.once('close', () => file.destroy())
  return new Reply(file, {
    'content-type': 'model/gltf-binary',
    'content-length': String(bytes),
    'x-left-out': String(leftOut),
    // RFC 6266 and RFC 8187: the name in UTF-8, percent-encoded.
    'content-disposition': `attachment; filename="level.glb"; filename*=UTF-8''${encodeURIComponent(name).replace(/['()*]/g, c => `%${c.charCodeAt(0).toString(16)}`)}.glb`,
  })
})
