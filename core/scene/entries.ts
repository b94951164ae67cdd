import type { Box3 } from 'three'
import { Matrix4 } from 'three'
import { definitionOf } from '../arrange/rules'
import type { Solid } from '../mesh/solid'
import { copyId, copyOf } from './copy-id'
import type { Elsewhere } from './elsewhere'
import { aroundId } from './elsewhere'
import { CopyRun, CopySet } from './copy-run'
import type { LevelView } from './level-view'
import type { Shown } from './shown'

/** Of an arrangement with more copies than this, so many neighbours are one entry. */
const MANY_COPIES = 4096
const RUN = 64

/** Something shown, or many neighbouring copies of one arrangement together. */
export type Entry = Shown | CopyRun

/**
 * What a placement shows by itself: its mesh, or its copies if it is an arrangement. A source shows nothing; its copies
 * do.
 *
 * @param solidOf the mesh a shape names; undefined while it is not there
 * @param elsewhere where the level lies, if it is seen from another one; nothing of it moves then
 */
export function entriesOf(
  level: LevelView,
  solidOf: (shape: string) => Solid | undefined,
  id: string,
  elsewhere?: Elsewhere,
): Entry[] {
  if (level.arrangementIds.size > 0) {
    if (level.isSource(id)) return []
    if (level.arrangementIds.has(id)) return copiesOf(level, solidOf, id, elsewhere)
  }
  const shape = level.shapeOf(id)
  const solid = shape === null ? undefined : solidOf(shape)
  if (solid && elsewhere) return [{ id: aroundId(id), solid, matrix: seenFrom(elsewhere, level.worldMatrix(id)) }]
  return solid
    ? [
        {
          id,
          solid,
          get matrix() {
            return level.worldMatrix(id)
          },
        },
      ]
    : []
}

function copiesOf(
  level: LevelView,
  solidOf: (shape: string) => Solid | undefined,
  arrangementId: string,
  elsewhere?: Elsewhere,
): Entry[] {
  const toWorld = elsewhere
    ? seenFrom(elsewhere, level.worldMatrix(arrangementId))
    : level.worldMatrix(arrangementId).clone()
  const id = elsewhere ? aroundId(arrangementId) : arrangementId
  const found: Entry[] = []
  const { rule } = level.arranged(arrangementId).own
  const keys = definitionOf(rule).keepsSources ? null : level.copies(arrangementId)?.keys
  const idOf = (index: number) => (keys ? copyId(id, keys.keyAt(index)) : undefined)
  for (const { shape, matrices, indices } of level.shapes(arrangementId)) {
    const solid = solidOf(shape)
    if (!solid) continue
    if (indices.length > MANY_COPIES) {
      const set = new CopySet(id, solid, toWorld, matrices, indices, idOf)
      for (let i = 0; i < indices.length; i += RUN) found.push(new CopyRun(set, i, Math.min(i + RUN, indices.length)))
    } else
      for (let i = 0; i < indices.length; i++)
        found.push({
          id,
          copy: idOf(indices[i]!),
          solid,
          matrix: new Matrix4().fromArray(matrices, i * 16).premultiply(toWorld),
        })
  }
  return found
}

const seenFrom = ({ matrix }: Elsewhere, toWorld: Matrix4) => toWorld.clone().premultiply(matrix)

/** What belongs to one copy, of the entries of its arrangement. @param called what it is called there */
export function entriesOfCopy(level: LevelView, id: string, all: readonly Entry[], called = id): Shown[] {
  const { arrangementId, key } = copyOf(id)!
  const index = level.copies(arrangementId)?.keys.indexOf(key) ?? null
  return index === null
    ? []
    : all.flatMap(entry => (entry instanceof CopyRun ? [...entry.ofCopy(index)] : entry.copy === called ? [entry] : []))
}

export const countIn = (entry: Entry) => (entry instanceof CopyRun ? entry.count : 1)

/** What is in an entry; of many copies those whose boxes are accepted. */
export function within(entry: Entry, accept: (box: Box3) => boolean): Iterable<Shown> {
  return entry instanceof CopyRun ? entry.where(accept) : [entry]
}

/** All that is in some entries. */
export function allIn(entries: readonly Entry[]): readonly Shown[] {
  return entries.every(isSingle) ? entries : entries.flatMap(entry => [...within(entry, () => true)])
}

/** Of what is in some entries, so many that are spread evenly over all; all, if there are no more. */
export function someIn(entries: readonly Entry[], most: number): Shown[] {
  const all = entries.reduce((sum, entry) => sum + countIn(entry), 0)
  const found: Shown[] = []
  let [before, wanted] = [0, 0]
  for (const entry of entries) {
    const count = countIn(entry)
    while (
      found.length < Math.min(all, most)
      && (wanted = Math.floor((found.length * all) / Math.min(all, most))) < before + count
    )
      found.push(entry instanceof CopyRun ? entry.at(wanted - before) : entry)
    before += count
  }
  return found
}

const isSingle = (entry: Entry): entry is Shown => !(entry instanceof CopyRun)

/** The box around an entry, in the world. */
export function boxOf(entry: Entry, target: Box3): Box3 {
  return entry instanceof CopyRun ? entry.box(target) : target.copy(entry.solid.bounds).applyMatrix4(entry.matrix)
}
