import { Matrix4 } from 'three'
import { isArrangement } from '../arrange/arrangement'
import { definitionOf } from '../arrange/rules'
import { blockKey } from '../mesh/block-key'
import type { Placement, RecordName, RecordOf } from './schema'
import { localMatrix } from '../math/transform'

/** What a level has besides its placements, by what each kind of them is called in a level. */
type TableOf<R> = R extends (infer T)[] ? Map<string, T> : never
type Tables = { [K in keyof LevelRecords]: TableOf<LevelRecords[K]> }

/** The small records of a level, as they are read, sent and kept. */
export type LevelRecords = {
  layers: RecordOf<'layer'>[]
  stations: RecordOf<'station'>[]
  blocks: RecordOf<'block'>[]
  measures: RecordOf<'measure'>[]
  limits: RecordOf<'limit'>[]
  exemptions: RecordOf<'exemption'>[]
  skies: RecordOf<'sky'>[]
  threads: RecordOf<'thread'>[]
  answers: RecordOf<'answer'>[]
  relations: RecordOf<'relation'>[]
  presets: RecordOf<'preset'>[]
  recipes: RecordOf<'recipe'>[]
}

export const TABLE_OF: Record<RecordName, keyof Tables> = {
  layer: 'layers',
  station: 'stations',
  block: 'blocks',
  measure: 'measures',
  limit: 'limits',
  exemption: 'exemptions',
  sky: 'skies',
  thread: 'threads',
  answer: 'answers',
  relation: 'relations',
  preset: 'presets',
  recipe: 'recipes',
}

/** Takes the small records of a level from what else is said of it. */
export function splitRecords<T extends LevelRecords>(
  all: T,
): { records: LevelRecords; rest: Omit<T, keyof LevelRecords> } {
  const names = new Set<string>(Object.values(TABLE_OF))
  const [records, rest] = [true, false].map(is =>
    Object.fromEntries(Object.entries(all).filter(([name]) => names.has(name) === is)),
  )
  return { records: records as LevelRecords, rest: rest as Omit<T, keyof LevelRecords> }
}

/** The small records of a level as lists. */
export function recordsOf(level: Level): LevelRecords {
  return {
    layers: [...level.layers.values()],
    stations: [...level.stations.values()],
    blocks: [...level.blocks.values()],
    measures: [...level.measures.values()],
    limits: [...level.limits.values()],
    exemptions: [...level.exemptions.values()],
    skies: [...level.skies.values()],
    threads: [...level.threads.values()],
    answers: [...level.answers.values()],
    relations: [...level.relations.values()],
    presets: [...level.presets.values()],
    recipes: [...level.recipes.values()],
  }
}

/** What changes a level's records; had by `writerOf`. */
export type LevelWriter = {
  /** Stores a record as it is. */
  put: (placement: Placement) => void
  /** Takes a record out. */
  erase: (id: string) => void
  /** One of the small tables, to be written to; what was worked out from it is forgotten. */
  table: (name: RecordName) => Map<string, { id: string }>
}

const writers = new WeakMap<Level, LevelWriter>()

/** For `applyChange` alone, through which everything is written: the linter keeps others away. */
export function writerOf(level: Level): LevelWriter {
  return writers.get(level)!
}

/**
 * A level in memory: plain records by id, with the tree over them and world matrices worked out on demand. It knows no
 * copies; it is read here and written by `applyChange`.
 */
export class Level {
  // By id.
  readonly layers: ReadonlyMap<string, RecordOf<'layer'>>
  readonly stations: ReadonlyMap<string, RecordOf<'station'>>
  readonly blocks: ReadonlyMap<string, RecordOf<'block'>>
  readonly measures: ReadonlyMap<string, RecordOf<'measure'>>
  readonly limits: ReadonlyMap<string, RecordOf<'limit'>>
  readonly exemptions: ReadonlyMap<string, RecordOf<'exemption'>>
  readonly skies: ReadonlyMap<string, RecordOf<'sky'>>
  readonly threads: ReadonlyMap<string, RecordOf<'thread'>>
  readonly answers: ReadonlyMap<string, RecordOf<'answer'>>
  readonly relations: ReadonlyMap<string, RecordOf<'relation'>>
  readonly presets: ReadonlyMap<string, RecordOf<'preset'>>
  readonly recipes: ReadonlyMap<string, RecordOf<'recipe'>>
  /** Which placements are arrangements. */
  readonly arrangementIds: ReadonlySet<string>
  /** Which stay turned to something. */
  readonly aimingIds: ReadonlySet<string>
  /** Another number after each time that relations, or what cameras and lights aim at, were written. */
  relationsWritten = 0
  private readonly records = new Map<string, Placement>()
  private readonly childIds = new Map<string | null, Set<string>>()
  private readonly sortedChildren = new Map<string | null, readonly string[]>()
  private readonly worldMatrices = new Map<string, Matrix4>()
  private readonly arrangements = new Set<string>()
  private readonly aiming = new Set<string>()

  constructor(
    placements: Iterable<Placement> = [],
    {
      layers,
      stations,
      blocks,
      measures,
      limits,
      exemptions,
      skies,
      threads,
      answers,
      relations,
      presets,
      recipes,
    }: Partial<LevelRecords> = {},
  ) {
    const tables: Tables = {
      layers: byId(layers),
      stations: byId(stations),
      blocks: byId(blocks),
      measures: byId(measures),
      limits: byId(limits),
      exemptions: byId(exemptions),
      skies: byId(skies),
      threads: byId(threads),
      answers: byId(answers),
      relations: byId(relations),
      presets: byId(presets),
      recipes: byId(recipes),
    }
    this.layers = tables.layers
    this.stations = tables.stations
    this.blocks = tables.blocks
    this.measures = tables.measures
    this.limits = tables.limits
    this.exemptions = tables.exemptions
    this.skies = tables.skies
    this.threads = tables.threads
    this.answers = tables.answers
    this.relations = tables.relations
    this.presets = tables.presets
    this.recipes = tables.recipes
    this.arrangementIds = this.arrangements
    this.aimingIds = this.aiming
    for (const placement of placements) this.put(placement)
    writers.set(this, {
      put: placement => {
        const before = this.records.get(placement.id)
        this.put(placement)
        this.afterWriting(placement.id, before?.parentId)
      },
      erase: id => {
        const { parentId } = this.need(id)
        this.erase(id)
        this.afterWriting(id, parentId)
      },
      table: name => {
        if (isSeen(name)) this.afterWriting(null)
        if (name === 'relation') this.relationsWritten++
        return tables[TABLE_OF[name]]
      },
    })
  }

  get size(): number {
    return this.records.size
  }

  has(id: string): boolean {
    return this.get(id) !== undefined
  }

  get(id: string): Placement | undefined {
    return this.records.get(id)
  }

  /** @throws RangeError if there is no such placement */
  need(id: string): Placement {
    const placement = this.get(id)
    if (!placement) throw new RangeError(`there is no placement ${id}`)
    return placement
  }

  placements(): IterableIterator<Placement> {
    return this.records.values()
  }

  /** The ids below `parentId` (null: the top), in their order. */
  children(parentId: string | null): readonly string[] {
    let sorted = this.sortedChildren.get(parentId)
    if (!sorted) {
      sorted = [...(this.childIds.get(parentId) ?? [])].sort((a, b) => {
        return this.need(a).order - this.need(b).order || (a < b ? -1 : 1)
      })
      this.sortedChildren.set(parentId, sorted)
    }
    return sorted
  }

  hasChildren(id: string): boolean {
    return (this.childIds.get(id)?.size ?? 0) > 0
  }

  /** The placement and everything below it, parents before their children. */
  subtree(id: string): string[] {
    const found = [id]
    // The list grows while it is walked.
    for (const at of found) for (const child of this.children(at)) found.push(child)
    return found
  }

  /** Whether `id` hangs somewhere below `ancestorId`, or is it. */
  isWithin(id: string, ancestorId: string): boolean {
    for (let at: string | null | undefined = id; at; at = this.get(at)?.parentId) {
      if (at === ancestorId) return true
    }
    return false
  }

  /** Hidden itself, by its layer, or by something above it. */
  isHidden(id: string): boolean {
    return this.someUpwards(
      id,
      ({ hidden, layerId }) => hidden || (layerId !== null && this.layers.get(layerId)?.visible === false),
    )
  }

  /** Locked itself, by its layer, or by something above it. */
  isLocked(id: string): boolean {
    return this.someUpwards(
      id,
      ({ locked, layerId }) => locked || (layerId !== null && this.layers.get(layerId)?.locked === true),
    )
  }

  /** The nearest arrangement that a placement is below; null if none. */
  arrangementAbove(id: string): string | null {
    for (let at = this.need(id).parentId; at !== null; at = this.need(at).parentId) {
      if (this.arrangementIds.has(at)) return at
    }
    return null
  }

  /**
   * Whether only copies of a placement are shown, because it is a source of an arrangement. Those that their rule keeps
   * are shown themselves.
   */
  isSource(id: string): boolean {
    if (this.arrangementIds.size === 0) return false
    for (let at = this.arrangementAbove(id); at !== null; at = this.arrangementAbove(at)) {
      const { own } = this.need(at)
      if (isArrangement(own) && !definitionOf(own.rule).keepsSources) return true
    }
    return false
  }

  /** What names the shape a placement shows: its part's id, or its block's key; null if it shows none. */
  shapeOf(id: string): string | null {
    const { partId, blockId } = this.need(id)
    if (blockId === null) return partId
    const block = this.blocks.get(blockId)
    return block ? blockKey(block) : null
  }

  /** From the placement's own axes to the world. Treat it as read-only; it is kept until the placement moves. */
  worldMatrix(id: string): Matrix4 {
    const kept = this.worldMatrices.get(id)
    if (kept) return kept
    // Upwards to the first that is known, and down again: a call for each of ten thousand parents would be too deep.
    const chain: Placement[] = []
    let above: Matrix4 | undefined
    for (let at: string | null = id; at !== null && !above; at = chain.at(-1)!.parentId) {
      above = this.worldMatrices.get(at)
      if (above) break
      chain.push(this.need(at))
    }
    for (const placement of chain.reverse()) {
      const matrix = localMatrix(placement, new Matrix4())
      if (above) matrix.premultiply(above)
      this.worldMatrices.set(placement.id, matrix)
      above = matrix
    }
    return above!
  }

  /** From the axes the placement's numbers are in to the world. */
  parentMatrix(id: string): Matrix4 {
    const { parentId } = this.need(id)
    return parentId === null ? new Matrix4() : this.worldMatrix(parentId)
  }

  /**
   * For those that keep what they worked out from the records.
   *
   * @param id of the placement that was written; null if something of the small tables is
   * @param parentBefore what it hung from before, if it was there
   */
  protected afterWriting(_id: string | null, _parentBefore?: string | null): void {}

  private put(placement: Placement): void {
    const before = this.records.get(placement.id)
    if (before && before.parentId !== placement.parentId) this.detach(before)
    this.records.set(placement.id, placement)
    if (placement.kind === 'arrangement') this.arrangements.add(placement.id)
    else this.arrangements.delete(placement.id)
    const aims = 'aim' in placement.own && placement.own.aim !== null
    if (aims) this.aiming.add(placement.id)
    else this.aiming.delete(placement.id)
    if (placement.own !== before?.own && (aims || (before && 'aim' in before.own))) this.relationsWritten++
    let siblings = this.childIds.get(placement.parentId)
    if (!siblings) this.childIds.set(placement.parentId, (siblings = new Set()))
    siblings.add(placement.id)
    if (!before || before.order !== placement.order || before.parentId !== placement.parentId) {
      this.sortedChildren.delete(placement.parentId)
    }
    this.forgetWorldMatrix(placement.id)
  }

  private erase(id: string): void {
    this.forgetWorldMatrix(id)
    this.detach(this.need(id))
    this.records.delete(id)
    this.arrangements.delete(id)
    if (this.aiming.delete(id)) this.relationsWritten++
  }

  private detach(placement: Placement): void {
    const siblings = this.childIds.get(placement.parentId)
    siblings?.delete(placement.id)
    if (siblings?.size === 0) this.childIds.delete(placement.parentId)
    this.sortedChildren.delete(placement.parentId)
  }

  /** A child's matrix is only ever kept while its parent's is, so the walk may stop at the first one missing. */
  private forgetWorldMatrix(id: string): void {
    const forgotten = [id]
    for (const at of forgotten) {
      if (this.worldMatrices.delete(at)) for (const child of this.childIds.get(at) ?? []) forgotten.push(child)
    }
  }

  protected someUpwards(id: string, test: (placement: Placement) => boolean): boolean {
    for (
      let at: Placement | undefined = this.need(id);
      at;
      at = at.parentId === null ? undefined : this.records.get(at.parentId)
    ) {
      if (test(at)) return true
    }
    return false
  }
}

/** Whether records of a kind change how placements are seen. */
export const isSeen = (name: RecordName) => name === 'layer' || name === 'block'

function byId<T extends { id: string }>(records: Iterable<T> = []): Map<string, T> {
  return new Map(Array.from(records, record => [record.id, record]))
}
