import { Vector3 } from 'three'
import { referringTo } from '../arrange/refer'
import { FreeNames, lastOrder } from '../level/create'
import type { Block, Layer, Operation, Placement, Relation } from '../level/schema'
import { topmost } from '../level/tree'
import { decompose } from '../math/transform'
import type { Copied } from '../level/copied'
import { copiedRelations } from './copied'
import type { Vec3 } from '../math/vectors'
import { copyMatrix } from '../scene/copies'
import { copyOf } from '../scene/copy-id'
import type { LevelView } from '../scene/level-view'

/** More than this is not copied at once. */
export const MOST_THINGS = 50_000

/** Things by themselves, to be put into any level: their placements, and what those name. */
export type Things = {
  format: 'handy-grid things'
  version: 1
  /** The point of the world that is brought to the place where they are put down. */
  foot: Vec3
  /** Those at the top stand in the world; each of the others comes after what it hangs from. */
  placements: Placement[]
  layers: Pick<Layer, 'id' | 'name' | 'color'>[]
  blocks: Block[]
  /** What the parts are called, for when they are not there. */
  parts: { id: string; name: string }[]
  /** What is kept of them, to each other and to others. */
  relations?: Relation[]
}

/**
 * Things with all that hangs below them. Of a copy of an arrangement its source is taken, where the copy stands.
 *
 * @param lowest the height of their lowest point, in metres
 * @param partName what a part is called
 * @param newId for what stands for a copy
 * @throws RangeError for more things than can be copied at once
 */
export function gatherThings(
  level: LevelView,
  ids: Iterable<string>,
  lowest: number | null,
  partName: (id: string) => string,
  newId: () => string,
): Things {
  const chosen = [...topmost(level, new Set(ids))]
  const placements: Placement[] = []
  const asThings: ReadonlyMap<string, string>[] = []
  for (const id of chosen) {
    const copy = copyOf(id) ? level.copy(id)! : null
    const top = copy?.source.id ?? id
    const world = copy
      ? level.worldMatrix(copyOf(id)!.arrangementId).clone().multiply(copyMatrix(copy))
      : level.worldMatrix(id)
    const own = new Map(level.subtree(top).map(below => [below, copy ? newId() : below]))
    asThings.push(own)
    if (placements.length + own.size > MOST_THINGS)
      throw new RangeError(`More than ${MOST_THINGS.toLocaleString('en')} things cannot be copied at once.`)
    for (const [below, name] of own) {
      const placement = level.need(below)
      placements.push(
        below === top
          ? {
              ...placement,
              ...decompose(world, placement.pivot),
              own: referringTo(placement.own, given => own.get(given) ?? given),
              id: name,
              parentId: null,
              order: placements.length,
            }
          : {
              ...placement,
              own: referringTo(placement.own, given => own.get(given) ?? given),
              id: name,
              parentId: own.get(placement.parentId!)!,
            },
      )
    }
  }
  const lead = placements.findLast(({ parentId }) => parentId === null)!
  const uses = (key: 'layerId' | 'blockId' | 'partId') => [
    ...new Set(placements.flatMap(placement => placement[key] ?? [])),
  ]
  return {
    format: 'handy-grid things',
    version: 1,
    foot: [lead.translation[0], lowest ?? lead.translation[1], lead.translation[2]],
    placements,
    layers: uses('layerId').flatMap(id => {
      const layer = level.layers.get(id)
      return layer ? [{ id, name: layer.name, color: layer.color }] : []
    }),
    blocks: uses('blockId').flatMap(id => level.blocks.get(id) ?? []),
    parts: uses('partId').map(id => ({ id, name: partName(id) })),
    ...(level.relations.size > 0 && { relations: relationsAmong(level, asThings, newId) }),
  }
}

/** What is kept of things, by the names that they have among those that are copied. */
function relationsAmong(
  level: LevelView,
  things: readonly ReadonlyMap<string, string>[],
  newId: () => string,
): Relation[] {
  const known = [...level.relations.values()]
  const all = things.flatMap(each => [...each])
  return things.flatMap(own => {
    // Of what is copied several times each holds its own.
    const made = new Map([...all, ...own])
    const { within, outside } = copiedRelations(
      known.filter(({ held }) => own.has(held)),
      made,
    )
    return [...within, ...outside].map(fields => ({ id: newId(), ...fields }))
  })
}

export type Pasting = {
  operations: Operation[]
  /** What they have become, at the top. */
  tops: string[]
  /** Parts that are not there, by name; in their place there are groups, with what hung below them. */
  missing: string[]
  copied: Copied
}

/**
 * The operations that put things into a level, at the top. Layers are found by their names, and made where there is
 * none; blocks that the level has as they are are shared.
 *
 * @param at where their foot comes to stand; null leaves them where they were
 * @param hasPart whether a part is there
 */
export function pasteThings(
  level: LevelView,
  things: Things,
  at: Vec3 | null,
  hasPart: (id: string) => boolean,
  newId: () => string,
): Pasting {
  const ids = new Map(things.placements.map(({ id }) => [id, newId()]))
  const operations: Operation[] = []
  const layerByName = new Map([...level.layers.values()].map(({ id, name }) => [name, id]))
  const layers = new Map<string, string>()
  let order = Math.max(0, ...[...level.layers.values()].map(layer => layer.order + 1))
  for (const { id, name, color } of things.layers) {
    if (!layerByName.has(name)) {
      const made = newId()
      layerByName.set(name, made)
      operations.push({
        do: 'put-layer',
        id: made,
        fields: { name, color, visible: true, locked: false, order: order++ },
      })
    }
    layers.set(id, layerByName.get(name)!)
  }
  const blocks = new Map<string, string>()
  for (const { id, ...fields } of things.blocks) {
    const there = level.blocks.get(id)
    const isSame =
      there
      && JSON.stringify({ shape: there.shape, color: there.color })
        === JSON.stringify({ shape: fields.shape, color: fields.color })
    blocks.set(id, isSame ? id : newId())
    if (!isSame) operations.push({ do: 'put-block', id: blocks.get(id)!, fields })
  }
  const shift = at === null ? new Vector3() : new Vector3(...at).sub(new Vector3(...things.foot))
  const taken = new Set([...level.placements()].map(({ name }) => name))
  const names = new FreeNames(level)
  const missing = new Set<string>()
  let last = lastOrder(level, null)
  const tops: string[] = []
  for (const { id: from, ...fields } of things.placements) {
    const id = ids.get(from)!
    const isTop = fields.parentId === null
    if (isTop) tops.push(id)
    const isMissing =
      (fields.partId !== null && !hasPart(fields.partId)) || (fields.blockId !== null && !blocks.has(fields.blockId))
    if (isMissing) missing.add(things.parts.find(part => part.id === fields.partId)?.name ?? 'a block')
    operations.push({
      do: 'put',
      id,
      fields: {
        ...fields,
        ...(isMissing
          ? { kind: 'group' as const, partId: null, own: {} }
          : { own: referringTo(fields.own, given => ids.get(given) ?? given) }),
        blockId: isMissing || fields.blockId === null ? null : blocks.get(fields.blockId)!,
        layerId: fields.layerId === null ? null : (layers.get(fields.layerId) ?? null),
        ...(isTop
          ? {
              order: last++,
              name: taken.has(fields.name) ? names.like(fields.name) : fields.name,
              translation: new Vector3(...fields.translation).add(shift).toArray(),
            }
          : { parentId: ids.get(fields.parentId!)! }),
      },
    })
  }
  return { operations, tops, missing: [...missing], copied: { made: [ids], relations: things.relations ?? [] } }
}
