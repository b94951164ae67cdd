import { defineStore } from 'pinia'
import type { Quaternion, Vector3 } from 'three'
import { axesFromPoints, localAxes } from '~~/core/edit/handles/axes'
import type { PivotPlace } from '~~/core/edit/handles/pivot'
import { placeInBox, setPivots } from '~~/core/edit/handles/pivot'
import type { Quat } from '~~/core/math/vectors'
import { useEdits } from '~/editor/edits'
import { useHandling } from '~/editor/handling'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useModes } from '~/editor/modes'
import { useSettings } from '~/editor/settings'
import { instancesOf } from '~~/core/level/find'

/** Where the handles get their axes and their pivot from: things and points that are touched, places of boxes. */
export const useBorrowing = defineStore('borrowing', () => {
  const level = useLevel()
  const kit = useKit()
  const modes = useModes()
  const edits = useEdits()
  const handling = useHandling()
  const settings = useSettings()
  const { picked, label } = edits

  /** Takes the axes of a thing that is touched next. */
  function borrowAxes(): void {
    modes.touch('Touch the thing to borrow the axes of', 'thing', ({ id }) => {
      setBorrowed(localAxes(level.view, id!), level.view.need(id!).name)
      return true
    })
  }

  /** Takes axes from three points: the origin, one along X, one towards Y. */
  function borrowFromPoints(): void {
    const points: Vector3[] = []
    modes.touch(
      `Touch three points: a corner, one along X, one towards ${settings.axes.letter(1)}`,
      'point',
      ({ point }) => {
        points.push(point.clone())
        if (points.length < 3) return false
        const axes = axesFromPoints(points[0]!, points[1]!, points[2]!)
        if (axes) setBorrowed(axes, 'three points')
        else
          level.notify('No axes from these points', [
            'The three points lie on one line. Touch three that make a corner.',
          ])
        return true
      },
    )
  }

  function setBorrowed(axes: Quaternion, from: string): void {
    handling.borrowed = { axes: axes.toArray() as Quat, from }
    settings.kept.axes = 'borrowed'
  }

  /** Drops the pin where the stage is touched next. */
  function dropPin(): void {
    modes.touch('Touch where the pin goes', 'point', ({ point }) => {
      handling.pin = point.toArray()
      settings.kept.pivot = 'pin'
      return true
    })
  }

  /** Puts pivots to a place of each one's box; nothing moves. */
  function setPivotPlace(place: PivotPlace): void {
    const ids = picked().filter(id => !level.index.extents.ownBox(id).isEmpty())
    level.change(
      label('Move the pivot of', ids),
      ids.flatMap(id => setPivots(level.view, [id], placeInBox(level.index.extents.ownBox(id), place))),
    )
  }

  /** Gives all instances of the last picked's part its pivot, here and for those placed from now on. */
  async function givePivotToPart(): Promise<void> {
    const last = handling.lead()
    if (last === null) return
    const { partId, pivot, name } = level.view.need(last)
    const part = partId === null ? undefined : kit.part(partId)
    if (!part) return
    await kit.online(async () => {
      await kit.patch(part.id, { pivot })
      const others = instancesOf(level.view, part.id).filter(id => id !== last)
      level.change(`Give ${part.name} the pivot of ${name}`, setPivots(level.view, others, pivot))
    }, level.notify)
  }

  return { borrowAxes, borrowFromPoints, dropPin, setPivotPlace, givePivotToPart }
})
