import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { v7 } from 'uuid'
import type { Quaternion } from 'three'
import { Vector3 } from 'three'
import { axesFromPoints, localAxes, UP } from '~~/core/handles/axes'
import { movePlacements } from '~~/core/handles/move'
import type { NudgeWay } from '~~/core/handles/nudge'
import { nudgeDirection } from '~~/core/handles/nudge'
import type { PivotPlace } from '~~/core/handles/pivot'
import { placeInBox, setPivots } from '~~/core/handles/pivot'
import { turnAbout, turnPlacements } from '~~/core/handles/turn'
import { bakeMesh } from '~~/core/kit/bake-mesh'
import type { Part } from '~~/core/kit/part'
import type { BakeWhat } from '~~/core/level/bake'
import { bake, bakingMatrix, reset } from '~~/core/level/bake'
import type { Operation, Placement, Quat } from '~~/core/level/schema'
import { facePlacements } from '~~/core/snap/face'
import { setDown } from '~~/core/snap/set-down'
import { useEditor } from './editor'
import { useEdits } from './edits'
import { useHandling } from './handling'
import { useKit } from './kit'
import { CHANGED_MEANWHILE, useLevel } from './level'
import { useSettings } from './settings'

export type BakeQuestion = { what: BakeWhat | 'reset-size' | 'reset-turn' }

/** A transform that was copied, to be given to other things. */
export type CopiedTransform = Pick<Placement, 'translation' | 'rotation' | 'scale'> & { from: string }

/** What changes where things stand, how they are turned and what they are, without a drag. */
export const useShaping = defineStore('shaping', () => {
  const level = useLevel()
  const kit = useKit()
  const editor = useEditor()
  const edits = useEdits()
  const handling = useHandling()
  const settings = useSettings()
  const copied = shallowRef<CopiedTransform | null>(null)
  const faceUpright = ref(true)
  const bakeQuestion = ref<BakeQuestion | null>(null)

  const { picked, label } = edits

  /** Moves what is picked by grid steps along what is right, away or up on the screen. */
  function nudge(way: NudgeWay, steps: number): void {
    const view = editor.stage?.view
    const ids = handling.movable()
    if (!view || ids.length === 0) return
    const { size } = settings.kept.steps.grid
    const direction = nudgeDirection(way, view.kind, view.directions(), handling.axes(view.directions()))
    level.change(label('Nudge', ids), movePlacements(level.document, ids, direction.multiplyScalar(size * steps)), `nudge ${ids.join()}`)
  }

  /** Turns what is picked by one turn step around the vertical. */
  function quickTurn(steps: number): void {
    const ids = handling.movable()
    const around = handling.around()
    if (ids.length === 0) return
    const turn = turnAbout(UP.clone(), settings.kept.steps.turn.size * steps)
    level.change(label('Turn', ids), turnPlacements(level.document, ids, turn, around && new Vector3(...around)), `turn ${ids.join()}`)
  }

  /** Lets what is picked down onto what is below; those without ground are counted and picked. */
  function setDownPicked(): void {
    const ids = handling.movable()
    if (ids.length === 0) return
    const { above, below, ...rule } = settings.kept.setDown
    const { operations, without } = setDown(level.document, level.index, new Set(ids), rule, { above, below })
    level.change(label('Set down', ids), operations)
    if (without.length === 0) return
    level.pick(without)
    level.tell(
      without.length === 1 ? 'One thing has no ground below it' : `${without.length} things have no ground below them`,
      [`Looked from ${editor.printLength(above)} above to ${editor.printLength(below)} below. They stay where they are and are picked now.`],
    )
  }

  /** Turns what is picked towards a point or thing that is touched next, or away from the surface touched. */
  function face(how: 'towards' | 'away'): void {
    const ids = handling.movable()
    if (ids.length === 0) return
    editor.touch(how === 'towards' ? 'Touch what to face' : 'Touch the surface to face away from', 'point', ({ point, normal }) => {
      if (how === 'away' && !normal) return false
      const target = how === 'towards' ? { point } : { direction: normal! }
      level.change(label('Face', ids), facePlacements(level.document, ids, target, faceUpright.value))
      return true
    })
  }

  /** Takes the axes of a thing that is touched next. */
  function borrowAxes(): void {
    editor.touch('Touch the thing to borrow the axes of', 'thing', ({ id }) => {
      setBorrowed(localAxes(level.document, id!), level.document.need(id!).name)
      return true
    })
  }

  /** Takes axes from three points: the origin, one along X, one towards Y. */
  function borrowFromPoints(): void {
    const points: Vector3[] = []
    editor.touch('Touch three points: a corner, one along X, one towards Y', 'point', ({ point }) => {
      points.push(point.clone())
      if (points.length < 3) return false
      const axes = axesFromPoints(points[0]!, points[1]!, points[2]!)
      if (axes) setBorrowed(axes, 'three points')
      else level.tell('No axes from these points', ['The three points lie on one line. Touch three that make a corner.'])
      return true
    })
  }

  function setBorrowed(axes: Quaternion, from: string): void {
    handling.borrowed = { axes: axes.toArray() as Quat, from }
    settings.kept.axes = 'borrowed'
  }

  /** Drops the pin where the stage is touched next. */
  function dropPin(): void {
    editor.touch('Touch where the pin goes', 'point', ({ point }) => {
      handling.pin = point.toArray()
      settings.kept.pivot = 'pin'
      return true
    })
  }

  /** Puts pivots to a place of each one's box; nothing moves. */
  function setPivotPlace(place: PivotPlace): void {
    const ids = picked().filter(id => !level.index.ownBox(id).isEmpty())
    level.change(label('Move the pivot of', ids), ids.flatMap(id => setPivots(level.document, [id], placeInBox(level.index.ownBox(id), place))))
  }

  /** Gives all instances of the last picked's part its pivot, here and for those placed from now on. */
  async function givePivotToPart(): Promise<void> {
    const last = handling.lead()
    if (last === null) return
    const { partId, pivot, name } = level.document.need(last)
    const part = partId === null ? undefined : kit.part(partId)
    if (!part) return
    await kit.online(async () => {
      await kit.setPivot(part.id, pivot)
      const others = instancesOf(part.id).filter(id => id !== last)
      level.change(`Give ${part.name} the pivot of ${name}`.slice(0, 200), setPivots(level.document, others, pivot))
    }, level.tell)
  }

  const instancesOf = (partId: string) => [...level.document.placements()].filter(placement => placement.partId === partId).map(({ id }) => id)

  /** Throws the turn or the size of what is picked away. */
  function resetPicked(what: 'size' | 'turn'): void {
    const ids = picked()
    level.change(label(`Reset the ${what} of`, ids), ids.map((id): Operation => ({ do: 'put', id, fields: reset(level.document.need(id), what) })))
  }

  /**
   * Folds the last picked's size, turn or both into its shape. Alone it gets a shape of its own; with all instances the new shape
   * takes the part's place in this level, and goes into the kit beside it.
   */
  async function bakeLast(what: BakeWhat, all: boolean): Promise<void> {
    const last = handling.lead()
    const shape = last === null ? null : level.document.shapeOf(last)
    const solid = shape === null ? undefined : kit.solid(shape)
    if (last === null || !solid) return
    const { partId, name } = level.document.need(last)
    const part = partId === null ? undefined : kit.part(partId)
    const newId = v7()
    const matrix = bakingMatrix(level.document.need(last), what)
    const made = partToBake(part, newId, all && part ? part.name : name, all && part !== undefined)
    await kit.online(async () => {
      await kit.create(made, bakeMesh(solid.mesh, matrix))
      // Things may have been moved, or taken away, while that was on its way: what is done is worked out from how they are now.
      if (!level.document.has(last) || level.document.shapeOf(last) !== shape) return level.tell(...CHANGED_MEANWHILE)
      const others = all && part ? instancesOf(part.id).filter(id => id !== last) : []
      const { operations, skewed } = bake(level.document, last, what, newId, others, matrix)
      const put = operations.map((operation): Operation => operation.do === 'put' && operation.fields.partId === newId
        ? { ...operation, fields: { ...operation.fields, kind: 'part', blockId: null } }
        : operation)
      edits.restructure(`Bake the ${what === 'both' ? 'size and turn' : what} of ${all && part ? `all ${part.name}` : name}`.slice(0, 200), { operations: put, skewed })
    }, level.tell)
  }

  function partToBake(part: Part | undefined, id: string, name: string, inKit: boolean): Pick<Part, 'id' | 'name' | 'kind' | 'tags' | 'inKit'> {
    return { id, name: `${name}, baked`.slice(0, 200), kind: part?.kind ?? 'prop', tags: part?.tags ?? [], inKit }
  }

  function copyTransform(): void {
    const last = handling.lead()
    if (last === null) return
    const { translation, rotation, scale, name } = level.document.need(last)
    copied.value = { translation, rotation, scale, from: name }
  }

  function pasteTransform(): void {
    if (!copied.value) return
    const { from: _from, ...fields } = copied.value
    const ids = picked()
    level.change(label('Give a transform to', ids), ids.map(id => ({ do: 'put', id, fields })))
  }

  return {
    copied, faceUpright, bakeQuestion, nudge, quickTurn, setDownPicked, face, borrowAxes, borrowFromPoints, dropPin, setPivotPlace, givePivotToPart, instancesOf,
    resetPicked, bakeLast, copyTransform, pasteTransform,
  }
})
