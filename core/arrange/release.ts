import { Matrix4 } from 'three'
import type { LevelDocument } from '../level/document'
import { duplicate } from '../level/duplicate'
import type { Operation } from '../level/schema'
import { localMatrix } from '../level/transform'
import { decompose } from '../level/tree'
import { copiesOf } from './evaluate'
import { ruleOf } from './expand'

/**
 * The operations that turn an arrangement's copies into ordinary placements in a group in its place. They stand exactly where the
 * copies stood; instances go on sharing their parts and blocks.
 *
 * @param newId makes an id for each
 */
export function release(document: LevelDocument, id: string, newId: () => string): Operation[] {
  const sources = document.children(id)
  const copies = copiesOf(ruleOf(document, id))
  const operations: Operation[] = [{ do: 'put', id, fields: { kind: 'group', own: {} } }]
  for (let i = 0; i < copies.length / 16 && sources.length > 0; i++) {
    const source = document.need(sources[i % sources.length]!)
    const place = new Matrix4().fromArray(copies, i * 16).multiply(localMatrix(source, new Matrix4()))
    const { operations: made, tops } = duplicate(document, [source.id], 'instance', newId)
    operations.push(...made.map((operation): Operation => operation.do !== 'put' || operation.id !== tops[0] ? operation : {
      ...operation, fields: { ...operation.fields, ...decompose(place, source.pivot), order: i, name: `${source.name} ${i + 1}`.slice(0, 200) },
    }))
  }
  const gone = sources.flatMap(source => document.subtree(source))
  return [...operations, ...gone.toReversed().map((each): Operation => ({ do: 'remove', id: each }))]
}
