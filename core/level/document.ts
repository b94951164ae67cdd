import { Matrix4 } from 'three'
import { isArrangement } from '../arrange/arrangement'
import { copyAsPlacement, copyOf } from '../arrange/copy'
import type { GroundAt } from '../arrange/settle'
import { blockKey } from '../kit/block-key'
import type { Block, Layer, Placement, Station } from './schema'
import { localMatrix } from './transform'

/**
 * A level in memory: plain records by id, with the tree over them and world matrices worked out on demand.
 * Only `applyChange` writes to it.
 */
export class LevelDocument {
  private readonly records = new Map<string, Placement>()
  private readonly childIds = new Map<string | null, Set<string>>()
  private readonly sortedChildren = new Map<string | null, readonly string[]>()
  private readonly worldMatrices = new Map<string, Matrix4>()
  /** Copies of arrangements that were asked for, as if they were placements; until anything is written. */
  private readonly copies = new Map<string, { placement: Placement, matrix: Matrix4 }>()

  /** By id. Only `applyChange` writes to them. */
  readonly layers = new Map<string, Layer>()
  /** By id. Only `applyChange` writes to them. */
  readonly stations = new Map<string, Station>()
  /** By id. Only `applyChange` writes to them. */
  readonly blocks = new Map<string, Block>()
  /** Which placements are arrangements. */
  readonly arrangementIds: ReadonlySet<string> = new Set()

  /**
   * Shows only these and what hangs below them, or all if null. A way of looking in one window, not part of the level: it is
   * neither saved nor undone.
   */
  showOnly: ReadonlySet<string> | null = null

  /** What copies that hug the ground stand on; lent by the index, which has the meshes. */
  ground: GroundAt | null = null

  constructor(placements: Iterable<Placement> = [], layers: Iterable<Layer> = [], stations: Iterable<Station> = [], blocks: Iterable<Block> = []) {
    for (const placement of placements) this.write(placement)
    for (const layer of layers) this.layers.set(layer.id, layer)
    for (const station of stations) this.stations.set(station.id, station)
    for (const block of blocks) this.blocks.set(block.id, block)
  }

  get size(): number {
    return this.records.size
  }

  has(id: string): boolean {
    return this.get(id) !== undefined
  }

  /** A placement, or one copy of an arrangement as if it were one. */
  get(id: string): Placement | undefined {
    return this.records.get(id) ?? this.copy(id)?.placement
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
      sorted = [...this.childIds.get(parentId) ?? []].sort((a, b) => {
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

  /** Hidden itself, by its layer, by something above it, or because only others are shown. */
  isHidden(id: string): boolean {
    if (this.showOnly && !this.someUpwards(id, placement => this.showOnly!.has(placement.id))) return true
    return this.someUpwards(id, ({ hidden, layerId }) => hidden || (layerId !== null && this.layers.get(layerId)?.visible === false))
  }

  /** Locked itself, by its layer, or by something above it. */
  isLocked(id: string): boolean {
    return this.someUpwards(id, ({ locked, layerId }) => locked || (layerId !== null && this.layers.get(layerId)?.locked === true))
  }

  /** The nearest arrangement that a placement is below; null if none. */
  arrangementAbove(id: string): string | null {
    for (let at = this.need(id).parentId; at !== null; at = this.need(at).parentId) {
      if (this.arrangementIds.has(at)) return at
    }
    return null
  }

  /** Whether only copies of a placement are shown, because it is a source of an arrangement. Those of a mirror are shown themselves. */
  isSource(id: string): boolean {
    for (let at = this.arrangementAbove(id); at !== null; at = this.arrangementAbove(at)) {
      const { own } = this.need(at)
      if (isArrangement(own) && own.rule.rule !== 'mirror') return true
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
    const kept = this.worldMatrices.get(id) ?? this.copy(id)?.matrix
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

  /** For `applyChange` alone: stores a record as it is. */
  write(placement: Placement): void {
    this.copies.clear()
    const before = this.records.get(placement.id)
    if (before && before.parentId !== placement.parentId) this.detach(before)
    this.records.set(placement.id, placement)
    const arrangements = this.arrangementIds as Set<string>
    if (placement.kind === 'arrangement') arrangements.add(placement.id)
    else arrangements.delete(placement.id)
    let siblings = this.childIds.get(placement.parentId)
    if (!siblings) this.childIds.set(placement.parentId, siblings = new Set())
    siblings.add(placement.id)
    if (!before || before.order !== placement.order || before.parentId !== placement.parentId) {
      this.sortedChildren.delete(placement.parentId)
    }
    this.forgetWorldMatrix(placement.id)
  }

  /** For `applyChange` alone: takes a record out. */
  erase(id: string): void {
    const placement = this.need(id)
    this.copies.clear()
    this.forgetWorldMatrix(id)
    this.detach(placement)
    this.records.delete(id)
    ;(this.arrangementIds as Set<string>).delete(id)
  }

  private copy(id: string): { placement: Placement, matrix: Matrix4 } | undefined {
    const named = copyOf(id)
    if (!named) return undefined
    let found = this.copies.get(id)
    const placement = found ? undefined : copyAsPlacement(this, id)
    if (placement) this.copies.set(id, found = { placement, matrix: localMatrix(placement, new Matrix4()).premultiply(this.worldMatrix(named.arrangementId)) })
    return found
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

  private someUpwards(id: string, test: (placement: Placement) => boolean): boolean {
    for (let at: Placement | undefined = this.need(id); at; at = at.parentId === null ? undefined : this.records.get(at.parentId)) {
      if (test(at)) return true
    }
    return false
  }
}
