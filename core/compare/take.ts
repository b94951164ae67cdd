import { relationsRefused } from '../relate/refuse'
import { thingOf } from '../relate/standing'
import type { Level } from '../level/level'
import type { Operation, Placement, RecordName, Relation } from '../level/schema'
import type { Difference } from './differences'
import { keyOf, recordAt } from './differences'

/** Fields of a placement that only make sense together. */
const TOGETHER: readonly string[] = ['kind', 'own', 'partId', 'blockId']

/** What is to be made as it is there: of each difference these fields, or all that there is to it. */
type Wanted = Map<string, Set<string> | 'all'>

/**
 * The operations that make some of what differs as it is there, and all that this needs: what things hang from, the
 * layers and blocks they show, what hangs from what goes, what is kept to it. With all of them the level becomes the
 * one there, to the last bit; what is left out can be taken later, in any order.
 *
 * @param chosen keys of differences; of each what was changed there, with `mine` left as it is
 * @param also whether `mine` is made as it is there too
 * @returns the operations, and the keys of what had to come along
 */
export function taking(
  here: Level,
  there: Level,
  differences: readonly Difference[],
  chosen: Iterable<string>,
  also = false,
): { operations: Operation[]; along: string[] } {
  const closure = new Closure(here, there, differences)
  const asked = new Set<string>()
  for (const key of chosen) {
    const difference = closure.byKey.get(key)
    if (!difference) continue
    const { fields, mine } = difference
    const wanted = also || mine.length === 0 ? fields : fields.filter(field => !mine.includes(field))
    if (difference.is === 'on both' && wanted.length === 0) continue
    asked.add(key)
    closure.want(key, wanted)
  }
  closure.close()
  // Some of what follows what here, and some there, may go round in a circle: then all of it is taken.
  for (const all of [closure.wantRelations, closure.wantParents]) {
    if (relationsRefused(here, closure.operations()) === null) break
    all()
    closure.close()
  }
  return {
    operations: closure.operations(),
    along: [...closure.wanted.keys()].filter(key => !asked.has(key)),
  }
}

/** What is wanted, with all that it needs. */
class Closure {
  readonly byKey: ReadonlyMap<string, Difference>
  readonly wanted: Wanted = new Map()
  private readonly open: string[] = []
  private usersHere: Map<string, string[]> | null = null

  constructor(
    private readonly here: Level,
    private readonly there: Level,
    differences: readonly Difference[],
  ) {
    this.byKey = new Map(differences.map(each => [each.key, each]))
  }

  /** Wants some fields of what differs, or all there is to it where it is on one side only. */
  want(key: string, fields: readonly string[]): void {
    const difference = this.byKey.get(key)
    if (!difference) return
    const before = this.wanted.get(key)
    if (before === 'all') return
    if (difference.is !== 'on both') this.wanted.set(key, 'all')
    else {
      const next = new Set(before ?? [])
      for (const field of fields) if (difference.fields.includes(field)) next.add(field)
      if (difference.record === null && difference.fields.includes('kind') && TOGETHER.some(field => next.has(field)))
        for (const field of TOGETHER) if (difference.fields.includes(field)) next.add(field)
      if (next.size === 0 || next.size === before?.size) return
      this.wanted.set(key, next)
    }
    this.open.push(key)
  }

  wantRelations = (): void => {
    for (const { key, record, fields } of this.byKey.values()) if (record === 'relation') this.want(key, fields)
  }

  wantParents = (): void => {
    for (const { key, record, is } of this.byKey.values())
      if (record === null && is === 'on both') this.want(key, ['parentId'])
  }

  close(): void {
    for (let key = this.open.pop(); key !== undefined; key = this.open.pop()) {
      const difference = this.byKey.get(key)!
      if (difference.is === 'only here') this.wantWithout(difference)
      else this.wantFor(difference)
    }
  }

  operations(): Operation[] {
    const operations: Operation[] = []
    for (const [key, wanted] of this.wanted) {
      const { record, id, is } = this.byKey.get(key)!
      const put = record === null ? 'put' : `put-${record}`
      const theirs = recordAt(this.there, record, id)
      if (is === 'only here') operations.push({ do: put.replace('put', 'remove'), id } as Operation)
      else {
        const { id: _id, ...all } = theirs!
        const fields =
          wanted === 'all' ? all : Object.fromEntries([...wanted].map(field => [field, all[field]] as const))
        operations.push({ do: put, id, fields } as Operation)
      }
    }
    return operations
  }

  /** All of a record that is wanted whatever of it is. */
  private whole(record: RecordName | null, id: string): void {
    const key = keyOf(record, id)
    const difference = this.byKey.get(key)
    if (difference) this.want(key, difference.fields)
  }

  /** Only what is there alone: what differs besides need not be taken. */
  private ifMissing(record: RecordName | null, id: string | null): void {
    if (id !== null && this.byKey.get(keyOf(record, id))?.is === 'only there') this.whole(record, id)
  }

  /** What it takes for something to be as it is there. */
  private wantFor({ record, id, key }: Difference): void {
    const wanted = this.wanted.get(key)!
    const takes = (field: string) => wanted === 'all' || wanted.has(field)
    const theirs = recordAt(this.there, record, id)!
    if (record === null) {
      const { parentId, layerId, blockId } = theirs as unknown as Placement
      if (takes('parentId')) this.wantAbove(parentId)
      if (takes('layerId')) this.ifMissing('layer', layerId)
      if (takes('blockId')) this.ifMissing('block', blockId)
    }
    if (record === 'relation') {
      const { held, holders } = theirs as unknown as Relation
      for (const thing of [held, ...holders.flatMap(({ on }) => (on === null ? [] : [thingOf(on)]))])
        this.ifMissing(null, thing)
    }
    if (record === 'answer') this.ifMissing('thread', (theirs as unknown as { threadId: string }).threadId)
  }

  /**
   * What hangs from something there hangs from all of it there: with the ways upwards of all that is taken as they are
   * there, nothing can come to hang from itself.
   */
  private wantAbove(parentId: string | null): void {
    for (let at = parentId; at !== null; at = this.there.get(at)?.parentId ?? null) {
      const difference = this.byKey.get(keyOf(null, at))
      if (difference?.is === 'only there') this.whole(null, at)
      else if (difference?.fields.includes('parentId')) this.want(difference.key, ['parentId'])
    }
  }

  /** What it takes for something to go. */
  private wantWithout({ record, id }: Difference): void {
    if (record === null) for (const child of this.here.children(id)) this.takeAway(child, 'parentId')
    if (record === 'layer') for (const user of this.users(id)) this.takeAway(user, 'layerId')
    if (record === 'block') for (const user of this.users(id)) this.takeAway(user, 'blockId')
    if (record === 'thread') for (const answer of this.users(id)) this.whole('answer', answer)
    if (record === null) for (const relation of this.users(id)) this.whole('relation', relation)
  }

  /** Something lets go of what goes: by going itself, or by naming something else in a field. */
  private takeAway(id: string, field: string): void {
    const difference = this.byKey.get(keyOf(null, id))
    if (difference) this.want(difference.key, [field])
  }

  /** What names a record here: things a layer or block, answers a note, relations a thing. */
  private users(id: string): readonly string[] {
    if (!this.usersHere) {
      const users = new Map<string, string[]>()
      const add = (of: string | null, user: string) => {
        if (of === null) return
        const known = users.get(of)
        if (known) known.push(user)
        else users.set(of, [user])
      }
      for (const { id: user, layerId, blockId } of this.here.placements()) {
        if (layerId !== null && this.byKey.get(keyOf('layer', layerId))?.is === 'only here') add(layerId, user)
        if (blockId !== null && this.byKey.get(keyOf('block', blockId))?.is === 'only here') add(blockId, user)
      }
      for (const { id: user, threadId } of this.here.answers.values()) add(threadId, user)
      for (const { id: user, held, holders } of this.here.relations.values()) {
        add(held, user)
        for (const { on } of holders) if (on !== null) add(thingOf(on), user)
      }
      this.usersHere = users
    }
    return this.usersHere.get(id) ?? []
  }
}
