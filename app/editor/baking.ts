import { defineStore } from 'pinia'
import { ref } from 'vue'
import { v7 } from 'uuid'
import type { BakeWhat } from '~~/core/edit/bake'
import { bake, bakingMatrix, reset } from '~~/core/edit/bake'
import type { Part } from '~~/core/level/part'
import type { Operation } from '~~/core/level/schema'
import { bakeMesh } from '~~/core/mesh/bake-mesh'
import { useEdits } from './edits'
import { useHandling } from './handling'
import { useKit } from './kit'
import { CHANGED_MEANWHILE, useLevel } from './level'
import { instancesOf } from '~~/core/level/find'

export type BakeQuestion = { what: BakeWhat | 'reset-size' | 'reset-turn' }

/** Folding turns and sizes into shapes, or throwing them away. */
export const useBaking = defineStore('baking', () => {
  const level = useLevel()
  const kit = useKit()
  const edits = useEdits()
  const handling = useHandling()
  /** What the person is being asked; null while nothing is. */
  const bakeQuestion = ref<BakeQuestion | null>(null)
  const { picked, label } = edits

  /** Throws the turn or the size of what is picked away. */
  function resetPicked(what: 'size' | 'turn'): void {
    const ids = picked()
    level.change(
      label(`Reset the ${what} of`, ids),
      ids.map((id): Operation => ({ do: 'put', id, fields: reset(level.view.need(id), what) })),
    )
  }

  /**
   * Folds the last picked's size, turn or both into its shape. Alone it gets a shape of its own; with all instances the
   * new shape takes the part's place in this level, and goes into the kit beside it.
   */
  async function bakeLast(what: BakeWhat, all: boolean): Promise<void> {
    const last = handling.lead()
    const shape = last === null ? null : level.view.shapeOf(last)
    const solid = shape === null ? undefined : kit.solid(shape)
    if (last === null || !solid) return
    const { partId, name } = level.view.need(last)
    const part = partId === null ? undefined : kit.part(partId)
    const newId = v7()
    const matrix = bakingMatrix(level.view.need(last), what)
    const made = partToBake(part, newId, all && part ? part.name : name, all && part !== undefined)
    await kit.online(async () => {
      await kit.create(made, bakeMesh(solid.mesh, matrix))
      // Things may have been moved, or taken away, while that was on its way: what is done is worked out from how they
      // are now.
      if (!level.view.has(last) || level.view.shapeOf(last) !== shape) return level.notify(...CHANGED_MEANWHILE)
      const others = all && part ? instancesOf(level.view, part.id).filter(id => id !== last) : []
      const { operations, skewed } = bake(level.view, last, what, newId, others, matrix)
      const put = operations.map(
        (operation): Operation =>
          operation.do === 'put' && operation.fields.partId === newId
            ? { ...operation, fields: { ...operation.fields, kind: 'part', blockId: null } }
            : operation,
      )
      edits.restructure(
        `Bake the ${what === 'both' ? 'size and turn' : what} of ${all && part ? `all ${part.name}` : name}`,
        { operations: put, skewed },
      )
    }, level.notify)
  }

  function partToBake(
    part: Part | undefined,
    id: string,
    name: string,
    inKit: boolean,
  ): Pick<Part, 'id' | 'name' | 'kind' | 'tags' | 'inKit'> {
    return { id, name: `${name}, baked`, kind: part?.kind ?? 'prop', tags: part?.tags ?? [], inKit }
  }

  return { bakeQuestion, resetPicked, bakeLast }
})
