import { defineStore } from 'pinia'
import { v7 } from 'uuid'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { besideArrangement } from '~~/core/scene/copies'
import { copyOf } from '~~/core/scene/copy-id'
import { bentShapesOf } from '~~/core/edit/release'
import { directionsOf } from '~~/core/edit/handles/axes'
import { moveTops } from '~~/core/edit/handles/move'
import { bakeMesh } from '~~/core/mesh/bake-mesh'
import { blockKey, isBlockKey } from '~~/core/mesh/block-key'
import { asInstanceOf, duplicate, stepOn } from '~~/core/edit/duplicate'
import { asName } from '~~/core/units/text'
import type { Operation, PlacementFields } from '~~/core/level/schema'
import type { Vec3 } from '~~/core/math/vectors'
import { useModes } from '~/editor/modes'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { useEdits } from '~/editor/edits'
import { useHandling } from '~/editor/handling'
import { useKit } from '~/editor/kit'
import { CHANGED_MEANWHILE, useLevel } from '~/editor/level'
import { useRepeating } from './repeating'
import { useSettings } from '~/editor/settings'
import { instancesOf } from '~~/core/level/find'

/** Duplicating what is picked, again and again, and who shares what. */
export const useDuplicating = defineStore('duplicating', () => {
  const level = useLevel()
  const kit = useKit()
  const edits = useEdits()
  const modes = useModes()
  const session = useStageSession()
  const tools = useTools()
  const handling = useHandling()
  const settings = useSettings()
  const repeating = useRepeating()

  /** Duplicates what is picked as chosen in the bench, moves the duplicates by what is given there, and picks them. */
  async function duplicatePicked(): Promise<void> {
    const ids = handling.movable()
    const view = session.stage?.view
    if (ids.length === 0 || !view) return
    const directions = directionsOf(handling.axes(view.directions()))
    const by = settings.kept.duplicate.by
    const way = directions.reduce((sum, direction, axis) => sum.addScaledVector(direction, by[axis]!), new Vector3())
    await make(ids, way.lengthSq() > 0 ? moved => moveTops(level.view, moved, way) : () => [], 'Duplicate')
  }

  /** Whether there is a step that could be made once more. */
  function canRepeat(): boolean {
    const last = tools.lastDuplicated
    return last !== null && [...last.from, ...last.to].every(id => level.view.has(id))
  }

  /** Duplicates the last duplicates, as far from them as they are from their originals. */
  async function duplicateAgain(): Promise<void> {
    if (!canRepeat()) return duplicatePicked()
    const { from, to } = tools.lastDuplicated!
    const step = { from: level.view.worldMatrix(from[0]!).clone(), to: level.view.worldMatrix(to[0]!).clone() }
    await make(to, moved => stepOn(level.view, moved, step), 'Duplicate again')
  }

  /** @param moved the operations that move the originals to where the duplicates shall be */
  async function make(ids: readonly string[], moved: (tops: string[]) => Operation[], verb: string): Promise<void> {
    if (ids.some(id => copyOf(id) && bentShapesOf(level.view, id).length > 0))
      return level.notify('A bent piece cannot be duplicated by itself', [
        'Release it first; then it is a thing like any other.',
      ])
    const { as } = settings.kept.duplicate
    const { operations, tops, made } = duplicate(level.view, ids, as === 'copy' ? 'copy' : 'instance', v7)
    const from = [...made].filter(([, to]) => tops.includes(to)).map(([original]) => original)
    const moves = moved(from).map(
      (operation): Operation =>
        operation.do === 'put' && copyOf(operation.id)
          ? {
              ...operation,
              id: made.get(operation.id)!,
              fields: besideArrangement(level.view, operation.id, operation.fields),
            }
          : { ...operation, id: made.get(operation.id)! },
    )
    const text = edits.label(verb, from)
    const put = (all: Operation[]) => {
      if (!level.change(text, all, undefined, { made: [made] })) return
      tools.lastDuplicated = { from, to: tops }
      level.pick(tops)
    }
    if (as !== 'baked') return put([...operations, ...moves])
    await kit.online(async () => put(await withBakedShapes([...operations, ...moves])), level.notify)
  }

  /**
   * The same duplicates as plain geometry: what shows a shape and holds nothing else gets it with its turn and size
   * folded in.
   */
  async function withBakedShapes(operations: Operation[]): Promise<Operation[]> {
    const fields = new Map<string, PlacementFields>()
    for (const operation of operations)
      if (operation.do === 'put')
        fields.set(operation.id, { ...fields.get(operation.id), ...operation.fields } as PlacementFields)
    const parents = new Set([...fields.values()].map(({ parentId }) => parentId))
    const parts = new Map<string, string>()
    for (const [id, placement] of fields) {
      const shape = shapeOf(placement)
      if (shape === null || parents.has(id)) continue
      const matrix = new Matrix4().compose(
        new Vector3(),
        new Quaternion(...placement.rotation),
        new Vector3(...placement.scale),
      )
      const key = `${shape} ${JSON.stringify(matrix.elements)}`
      const partId = parts.get(key) ?? (await bakedPart(shape, placement.name, matrix))
      parts.set(key, partId)
      const pivot = new Vector3(...placement.pivot).applyMatrix4(matrix).toArray() as Vec3
      fields.set(id, {
        ...placement,
        kind: 'part',
        partId,
        blockId: null,
        rotation: [0, 0, 0, 1],
        scale: [1, 1, 1],
        pivot,
      })
    }
    return [...fields].map(([id, placement]) => ({ do: 'put', id, fields: placement }))
  }

  function shapeOf({ partId, blockId }: Pick<PlacementFields, 'partId' | 'blockId'>): string | null {
    return blockId === null ? partId : blockKey(level.view.blocks.get(blockId)!)
  }

  async function bakedPart(shape: string, name: string, matrix: Matrix4): Promise<string> {
    const part = isBlockKey(shape) ? undefined : kit.part(shape)
    const made = await kit.create(
      { id: v7(), name: `${name}, baked`, kind: part?.kind ?? 'prop', tags: part?.tags ?? [], inKit: false },
      bakeMesh(kit.solid(shape)!.mesh, matrix),
    )
    return made.id
  }

  /** Whether copies are picked, which are released first. */
  const copiesPicked = () => edits.picked().some(id => copyOf(id))

  /**
   * Gives what is picked blocks and parts of their own; things that shared one share the new one. They look as before.
   */
  async function makeIndependent(): Promise<void> {
    // One copy has nothing of its own before it is a thing.
    if (copiesPicked()) await repeating.releasePickedCopy()
    const picked = edits.picked().filter(id => !copyOf(id))
    const own = new Map<string, string>()
    const shapes = picked
      .map(id => level.view.need(id))
      .filter(({ partId, blockId }) => partId !== null || blockId !== null)
    for (const { partId, blockId } of shapes) own.set((partId ?? blockId)!, v7())
    await kit.online(async () => {
      for (const [id, newId] of own) {
        const part = kit.part(id)
        if (part) await kit.copy(id, { id: newId, name: asName(`${part.name}, own`), inKit: false })
      }
      // Only what still shows what it showed before its own was made.
      const still = shapes.filter(
        ({ id, partId, blockId }) => level.view.get(id)?.partId === partId && level.view.get(id)?.blockId === blockId,
      )
      if (still.length === 0) return level.notify(...CHANGED_MEANWHILE)
      const blocks = [...own].flatMap(([id, newId]): Operation[] => {
        const block = level.view.blocks.get(id)
        return block ? [{ do: 'put-block', id: newId, fields: { shape: block.shape, color: block.color } }] : []
      })
      const puts = still.map(
        ({ id, partId, blockId }): Operation => ({
          do: 'put',
          id,
          fields: partId === null ? { blockId: own.get(blockId!)! } : { partId: own.get(partId)! },
        }),
      )
      level.change(
        edits.label(
          'Make independent:',
          still.map(({ id }) => id),
        ),
        [...blocks, ...puts],
      )
    }, level.notify)
  }

  /** Makes what is picked instances of the thing touched next; they stay where they are. */
  async function makeInstanceOf(): Promise<void> {
    if (copiesPicked()) await repeating.releasePickedCopy()
    const ids = handling.movable().filter(id => ['part', 'block'].includes(level.view.need(id).kind))
    if (ids.length === 0) return
    modes.touch('Touch the thing to make instances of', 'thing', ({ id }) => {
      const model = level.view.need(id!)
      if (model.kind !== 'part' && model.kind !== 'block') return false
      level.change(
        edits.label(`Make instances of ${model.name}:`, ids),
        ids.map(each => ({ do: 'put', id: each, fields: asInstanceOf(model) })),
      )
      return true
    })
  }

  /** What is picked, by what it shows: how many are picked of how many instances there are. */
  function instancesPicked(): { shape: string; name: string; picked: number; all: number }[] {
    const counts = new Map<string, number>()
    for (const id of edits.picked()) {
      const { partId, blockId } = level.view.need(id)
      const shape = partId ?? blockId
      if (shape !== null) counts.set(shape, (counts.get(shape) ?? 0) + 1)
    }
    return [...counts].map(([shape, picked]) => ({
      shape,
      picked,
      name: kit.part(shape)?.name ?? 'Block',
      all: instancesOf(level.view, shape).length,
    }))
  }

  const pickInstancesOf = (shape: string) => level.pick(instancesOf(level.view, shape).filter(tools.canPick))

  return {
    duplicatePicked,
    duplicateAgain,
    canRepeat,
    copiesPicked,
    makeIndependent,
    makeInstanceOf,
    instancesPicked,
    pickInstancesOf,
  }
})
