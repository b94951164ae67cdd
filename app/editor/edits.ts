import { defineStore } from 'pinia'
import { shallowRef } from 'vue'
import { v7 } from 'uuid'
import { swapPlaces } from '~~/core/edit/lineup/swap'
import { bakeMesh } from '~~/core/mesh/bake-mesh'
import { bakeSkewed } from '~~/core/edit/bake'
import { createPlacement, freeName, lastOrder } from '~~/core/level/create'
import { removeWithChildren } from '~~/core/level/edit'
import type { Likeness } from '~~/core/level/find'
import { findPlacements, findSimilar } from '~~/core/level/find'
import type { Named, NamePattern } from '~~/core/level/rename'
import { renameMany } from '~~/core/level/rename'
import type { Layer, Operation, Placement } from '~~/core/level/schema'
import type { Vec3 } from '~~/core/math/vectors'
import type { Reparenting } from '~~/core/level/tree'
import { group, reparent, topmost, ungroup } from '~~/core/level/tree'
import { Vector3 } from 'three'
import { counted } from '~~/core/units/plural'
import { BLOCK_NAMES } from '~~/core/mesh/block'
import { findKept } from '~~/core/relate/find-kept'
import { useStageSession } from './stage-session'
import { useKit } from './kit'
import { CHANGED_MEANWHILE, useLevel } from './level'

/** A change of the tree that would change shapes, waiting for the person's word. */
export type SkewQuestion = {
  label: string
  operations: Operation[]
  copied: Reparenting['copied']
  skewed: string[]
  names: string[]
  /** Whether what it was worked out from is still so. */
  isStill: () => boolean
  /** Each can get a shape of its own. */
  canBake: boolean
}

const LAYER_COLORS = ['#0e6e6e', '#e3a035', '#6d3a5e', '#5f8a4c', '#bf3f35', '#2f6f86']

/** What can be done with what is picked, as changes with a label each. */
export const useEdits = defineStore('edits', () => {
  const level = useLevel()
  const session = useStageSession()
  const kit = useKit()
  const skewQuestion = shallowRef<SkewQuestion | null>(null)

  const picked = () => [...level.selection.ids].filter(id => level.view.has(id))
  const somePicked = () => level.selection.ids.size > 0
  const label = (verb: string, ids: readonly string[]) =>
    ids.length === 1 ? `${verb} ${level.view.need(ids[0]!).name}` : `${verb} ${ids.length} things`
  /** What is picked, in a word or two; null if nothing is. */
  const nameOfPicked = () => {
    const ids = picked()
    return ids.length === 0 ? null : ids.length === 1 ? level.view.need(ids[0]!).name : counted(ids.length, 'thing')
  }
  const put = (ids: readonly string[], fields: Partial<Placement>): Operation[] =>
    ids.map(id => ({ do: 'put', id, fields }))

  /** Does a change of the tree at once, or asks first if it would change shapes. */
  function restructure(text: string, { operations, skewed, copied }: Reparenting): boolean {
    if (skewed.length === 0) return level.change(text, operations, undefined, copied)
    skewQuestion.value = {
      label: text,
      operations,
      skewed,
      copied,
      names: skewed.map(id => level.view.get(id)?.name ?? nameIn(operations, id)),
      isStill: level.remember(operations.map(({ id }) => id)),
      canBake: skewed.every(id => level.view.has(id) && bakeSkewed(level.view, operations, id, id) !== null),
    }
    return false
  }

  /** What something is called that operations put down. */
  const nameIn = (operations: readonly Operation[], id: string) =>
    operations.flatMap(each => (each.do === 'put' && each.id === id ? (each.fields.name ?? []) : []))[0]
    ?? 'A duplicate'

  function answerSkew(goOn: boolean): void {
    const question = skewQuestion.value
    skewQuestion.value = null
    if (!question || !goOn) return
    if (question.isStill()) level.change(question.label, question.operations, undefined, question.copied)
    else level.notify(...CHANGED_MEANWHILE)
  }

  /** Goes on with the change; what would be skewed gets a shape of its own that looks as it does now. */
  async function bakeSkew(): Promise<void> {
    const question = skewQuestion.value
    skewQuestion.value = null
    if (!question) return
    if (!question.isStill()) return level.notify(...CHANGED_MEANWHILE)
    const baked = question.skewed.map(id => {
      const partId = v7()
      const { matrix, operation } = bakeSkewed(level.view, question.operations, id, partId)!
      return { id, partId, operation, mesh: bakeMesh(kit.solid(level.view.shapeOf(id)!)!.mesh, matrix) }
    })
    await kit.online(async () => {
      for (const { id, partId, mesh } of baked)
        await kit.create(
          { id: partId, name: `${level.view.need(id).name}, baked`, kind: 'prop', tags: [], inKit: false },
          mesh,
        )
      if (!question.isStill()) return level.notify(...CHANGED_MEANWHILE)
      const all = [...question.operations, ...baked.map(({ operation }) => operation)]
      level.change(question.label, all, undefined, question.copied)
    }, level.notify)
  }

  const middleOf = (id: string): Vec3 | null => {
    const box = level.index.extents.ownBox(id)
    return box.isEmpty() ? null : box.getCenter(new Vector3()).toArray()
  }

  function removePicked(): void {
    const ids = picked()
    if (ids.length > 0) level.change(label('Remove', ids), removeWithChildren(level.view, ids))
  }

  /** Things change places, turn and size staying with them; one copy of an arrangement as well. */
  function swapPicked(): void {
    const ids = topmost(level.view, new Set(picked().filter(id => !level.view.isLocked(id))))
    if (ids.length > 1) level.change(label('Swap', ids), swapPlaces(level.view, ids))
  }

  function groupPicked(): void {
    const ids = topmost(level.view, new Set(picked()))
    if (ids.length === 0) return
    const box = level.index.extents.boundsOf(ids.flatMap(id => level.view.subtree(id)))
    const at: Vec3 = box.isEmpty() ? [0, 0, 0] : box.getCenter(new Vector3()).setY(box.min.y).toArray()
    const groupId = v7()
    if (
      restructure(
        label('Group', ids),
        group(level.view, new Set(ids), groupId, freeName(level.view, 'Group'), at, undefined, middleOf),
      )
    )
      level.pick([groupId])
  }

  function ungroupPicked(): void {
    const groups = picked().filter(id => level.view.need(id).kind === 'group')
    if (groups.length === 0) return
    const inside = groups.flatMap(id => level.view.children(id))
    if (restructure(label('Ungroup', groups), ungroup(level.view, groups, middleOf)))
      level.pick(inside.filter(id => level.view.has(id)))
  }

  /** Hangs things from another, at a place among its children. */
  function hang(ids: readonly string[], parentId: string | null, order?: readonly number[]): void {
    const moving = topmost(level.view, new Set(ids)).filter(
      id => parentId === null || !level.view.isWithin(parentId, id),
    )
    if (moving.length > 0)
      restructure(label('Rearrange', moving), reparent(level.view, moving, parentId, order, middleOf))
  }

  /** Whether a click on what is inside a group picks that at once. */
  const setOpen = (id: string, open: boolean) =>
    level.change(`${open ? 'Open' : 'Close'} group ${level.view.need(id).name}`, put([id], { own: { open } }))

  const setHidden = (hidden: boolean, ids = picked()) =>
    level.change(label(hidden ? 'Hide' : 'Show', ids), put(ids, { hidden }))
  const setLocked = (locked: boolean, ids = picked()) =>
    level.change(label(locked ? 'Lock' : 'Unlock', ids), put(ids, { locked }))

  function showEverything(): void {
    const hidden = [...level.view.placements()].filter(placement => placement.hidden).map(({ id }) => id)
    level.change('Show everything hidden', put(hidden, { hidden: false }))
  }

  function unlockEverything(): void {
    const locked = [...level.view.placements()].filter(placement => placement.locked).map(({ id }) => id)
    level.change('Unlock everything', put(locked, { locked: false }))
  }

  function toggleShowOnly(): void {
    if (level.isShowingOnly) level.showOnly(null)
    else if (level.selection.ids.size > 0) level.showOnly(level.selection.ids)
  }

  function rename(id: string, name: string): boolean {
    if (name.trim() === level.view.need(id).name) return true
    return level.change(`Rename ${level.view.need(id).name}`, put([id], { name }))
  }

  /** What patterns of names know of what is picked, in its order. */
  const namedPicked = (): Named[] =>
    picked().map(id => {
      const { name, partId, blockId, layerId } = level.view.need(id)
      const block = blockId === null ? undefined : level.view.blocks.get(blockId)
      return {
        name,
        part: (partId === null ? undefined : kit.part(partId)?.name) ?? (block ? BLOCK_NAMES[block.shape.type] : ''),
        layer: layerId === null ? '' : (level.view.layers.get(layerId)?.name ?? ''),
      }
    })

  function renamePicked(pattern: NamePattern): boolean {
    const ids = picked()
    const names = renameMany(namedPicked(), pattern)
    return level.change(
      label('Rename', ids),
      ids.map((id, i) => ({ do: 'put', id, fields: { name: names[i]! } })),
    )
  }

  const find = (text: string) => findKept(level.view, text) ?? findPlacements(level.view, text, { part: kit.part })

  function pickInstances(): void {
    const parts = new Set(
      picked()
        .map(id => level.view.need(id).partId)
        .filter(id => id !== null),
    )
    const alike = [...level.view.placements()].filter(
      ({ id, partId }) => partId !== null && parts.has(partId) && !level.view.isLocked(id),
    )
    if (parts.size > 0) level.pick(alike.map(({ id }) => id))
  }

  function similarTo(id: string, likeness: Likeness): string[] {
    return findSimilar(level.view, id, likeness, {
      sizeOf: other => level.index.extents.localSizeOf(other),
      materialsOf: partId =>
        partId === null
          ? ''
          : (kit
              .solid(partId)
              ?.mesh.primitives.map(({ material }) => material.name)
              .sort()
              .join(', ') ?? ''),
    })
  }

  function addLayer(): void {
    const { layers } = level.view
    const id = v7()
    level.change('Add a layer', [
      {
        do: 'put-layer',
        id,
        fields: {
          name: `Layer ${layers.size + 1}`,
          color: LAYER_COLORS[layers.size % LAYER_COLORS.length]!,
          visible: true,
          locked: false,
          order: Math.max(-1, ...[...layers.values()].map(layer => layer.order)) + 1,
        },
      },
    ])
  }

  function changeLayer(id: string, fields: Partial<Layer>): boolean {
    return level.change(`Change layer ${level.view.layers.get(id)!.name}`, [{ do: 'put-layer', id, fields }])
  }

  function removeLayer(id: string): void {
    const members = [...level.view.placements()].filter(({ layerId }) => layerId === id).map(placement => placement.id)
    level.change(`Remove layer ${level.view.layers.get(id)!.name}`, [
      ...put(members, { layerId: null }),
      { do: 'remove-layer', id },
    ])
  }

  const putOnLayer = (layerId: string | null) =>
    level.change(label('Change layer of', picked()), put(picked(), { layerId }))

  function saveStation(name: string): boolean {
    const { stage } = session
    if (!stage) return false
    const { eye, target } = stage.panes.views[0]!.savePose()
    const order = Math.max(-1, ...[...level.view.stations.values()].map(station => station.order)) + 1
    return level.change(`Save station ${name}`, [
      {
        do: 'put-station',
        id: v7(),
        fields: {
          name,
          eye: eye.toArray(),
          target: target.toArray(),
          fieldOfView: stage.panes.views[0]!.fieldOfView,
          order,
        },
      },
    ])
  }

  const removeStation = (id: string) =>
    level.change(`Remove station ${level.view.stations.get(id)!.name}`, [{ do: 'remove-station', id }])

  /** A part hung from a thing, at its pivot; from nothing, on the ground plane where the view looks. */
  function placeInto(partId: string, parentId: string | null): void {
    const part = kit.part(partId)
    if (!part) return
    const target = session.stage?.view.target ?? new Vector3()
    const { id, ...fields } = createPlacement({
      id: v7(),
      name: freeName(level.view, part.name),
      kind: 'part',
      partId,
      pivot: part.pivot,
      parentId,
      order: lastOrder(level.view, parentId),
      translation: parentId === null ? [target.x, 0, target.z] : level.view.need(parentId).pivot,
    })
    if (level.change(`Place ${fields.name}`, [{ do: 'put', id, fields }])) level.pick([id])
  }

  return {
    picked,
    somePicked,
    nameOfPicked,
    label,
    restructure,
    skewQuestion,
    answerSkew,
    bakeSkew,
    removePicked,
    swapPicked,
    groupPicked,
    ungroupPicked,
    hang,
    setOpen,
    setHidden,
    setLocked,
    showEverything,
    unlockEverything,
    toggleShowOnly,
    rename,
    namedPicked,
    renamePicked,
    find,
    pickInstances,
    similarTo,
    addLayer,
    changeLayer,
    removeLayer,
    putOnLayer,
    saveStation,
    removeStation,
    placeInto,
  }
})
