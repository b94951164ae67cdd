import { lastOrder } from './create'
import type { LevelDocument } from './document'
import type { Operation } from './schema'
import { topmost } from './tree'

/**
 * The operations that leave an instance of each placement, with all below it, where it is.
 * Instances share their parts and blocks. What hangs below another of the chosen is not left twice.
 *
 * @param newId makes an id for each
 */
export function leaveInstances(document: LevelDocument, ids: Iterable<string>, newId: () => string): Operation[] {
  return topmost(document, new Set(ids)).flatMap((top) => {
    const renamed = new Map(document.subtree(top).map(id => [id, newId()]))
    return [...renamed].map(([from, to]): Operation => {
      const { id: _id, ...fields } = document.need(from)
      const place = from === top ? { order: lastOrder(document, fields.parentId) } : { parentId: renamed.get(fields.parentId!)! }
      return { do: 'put', id: to, fields: { ...fields, ...place } }
    })
  })
}
