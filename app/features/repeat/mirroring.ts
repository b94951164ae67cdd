import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { v7 } from 'uuid'
import { z } from 'zod'
import { Vector3 } from 'three'
import type { MirrorPlane } from '~~/core/edit/mirror'
import { axesAcross, bySide, mirrorPlacements, moveMirrorPlane, planeOfMirror } from '~~/core/edit/mirror'
import { directionsOf } from '~~/core/edit/handles/axes'
import { vec3Schema } from '~~/core/level/fields'
import { removeWithChildren } from '~~/core/level/edit'
import type { Operation } from '~~/core/level/schema'
import type { Reparenting } from '~~/core/level/tree'
import type { Vec3 } from '~~/core/math/vectors'
import { tidy } from '~~/core/units/quantity'
import { useModes } from '~/editor/modes'
import { useStageSession } from '~/editor/stage-session'
import { useEdits } from '~/editor/edits'
import { useHandling } from '~/editor/handling'
import { useLevel } from '~/editor/level'
import { DRAFT_ID, useRepeating } from './repeating'

/** Of more things it is not shown before what would come of them. */
const MOST_SHOWN = 2000

/** What is chosen for it: what comes of it, across which of the axes in force, through what, and from which side. */
export const mirrorSchema = z.strictObject({
  as: z.enum(['live', 'instance', 'copy', 'move']),
  axis: z.literal([0, 1, 2]),
  through: z.enum(['pivot', 'middle', 'world', 'touched']),
  side: z.enum(['both', 'plus', 'minus']),
  point: vec3Schema.nullable(),
})
type MirrorChoice = z.infer<typeof mirrorSchema>
/** What the plane goes through. */
export type MirrorThrough = MirrorChoice['through']

/** Mirroring what is picked across a plane: itself, a duplicate of it, or live. */
export const useMirroring = defineStore('mirroring', () => {
  const level = useLevel()
  const modes = useModes()
  const session = useStageSession()
  const edits = useEdits()
  const handling = useHandling()
  const repeating = useRepeating()

  const as = ref<MirrorChoice['as']>('live')
  /** Of the axes in force: the one at right angles to the plane. */
  const axis = ref<0 | 1 | 2>(0)
  const through = ref<MirrorThrough>('pivot')
  const side = ref<MirrorChoice['side']>('both')
  const point = shallowRef<Vec3 | null>(null)

  /** All of it, as a preset keeps it. */
  const kept = computed(
    (): MirrorChoice => ({
      as: as.value,
      axis: axis.value,
      through: through.value,
      side: side.value,
      point: point.value,
    }),
  )

  /** Begins from what was kept. */
  function begin(given: MirrorChoice): void {
    as.value = given.as
    axis.value = given.axis
    through.value = given.through
    side.value = given.side
    point.value = given.point
  }

  const possible = computed(() => {
    return (
      level.selection.ids.size > 0
      && repeating.movable().length > 0
      && (through.value !== 'touched' || point.value !== null)
    )
  })

  function plane(): MirrorPlane | null {
    const view = session.stage?.view
    const pivot = handling.pivot()
    if (!view || !pivot) return null
    const normal = directionsOf(handling.axes(view.directions()))[axis.value].toArray() as Vec3
    const box = level.index.extents.boundsOf(repeating.movable().flatMap(id => level.view.subtree(id)))
    const places: Record<MirrorThrough, Vec3 | null> = {
      pivot: pivot.toArray(),
      middle: box.isEmpty() ? pivot.toArray() : box.getCenter(new Vector3()).toArray(),
      world: [0, 0, 0],
      touched: point.value,
    }
    const at = places[through.value]
    return at && { point: at, normal }
  }

  function touchPoint(): void {
    modes.touch('Touch a point of the plane', 'point', touched => {
      point.value = touched.point.toArray()
      return true
    })
  }

  /** Where the plane is along the axis that it lies across, from the world's origin, in metres. */
  const place = computed(() => {
    const across = plane()
    return across && tidy(new Vector3(...across.point).dot(new Vector3(...across.normal)))
  })

  /** Puts the plane to a place along that axis. */
  function setPlace(metres: number): void {
    const across = plane()
    if (!across) return
    point.value = new Vector3(...across.point)
      .addScaledVector(new Vector3(...across.normal), metres - place.value!)
      .toArray()
      .map(tidy) as Vec3
    through.value = 'touched'
  }

  function mirrorPicked(): void {
    const made = make(v7())
    if (!made) return
    if (made.ids.length === 0) {
      level.notify('Nothing to mirror', [
        'Nothing that is picked stands on the source side of the plane. Choose the other side, or all that is picked.',
      ])
      return
    }
    if (edits.restructure(edits.label('Mirror', made.ids), made)) level.pick(made.tops)
  }

  /**
   * The operations that mirror what is picked.
   *
   * @param id of a live mirror; `ids` are what is mirrored, `tops` what is picked then
   */
  function make(id: string): (Reparenting & { ids: string[]; tops: string[] }) | null {
    const across = plane()
    const picked = repeating.movable()
    if (!across || picked.length === 0) return null
    const sides = side.value === 'both' ? null : bySide(level.view, picked, across, side.value === 'plus' ? 1 : -1)
    const ids = sides?.on ?? picked
    if (ids.length === 0) return { ids, tops: [], operations: [], skewed: [] }
    const replaced = removeWithChildren(level.view, sides?.off ?? [])
    if (as.value === 'live') {
      const made = repeating.arrange({ rule: { type: 'mirror', axis: 0 } }, id, {
        ids,
        at: across.point,
        rotation: axesAcross(across),
      })
      return made && { ...made, operations: [...replaced, ...made.operations], tops: [id] }
    }
    const made = mirrorPlacements(level.view, ids, across, as.value === 'move' ? null : as.value, v7)
    return { ...made, operations: [...replaced, ...made.operations], ids }
  }

  /** What mirroring would make, for showing it: nothing of what it would take away. */
  const preview = (): Operation[] | null =>
    repeating.movable().length > MOST_SHOWN
      ? null
      : (make(DRAFT_ID)?.operations.filter(operation => operation.do !== 'remove') ?? null)

  /**
   * Where the plane of a live mirror is along its axis, from the world's origin, in metres; and how it is put
   * elsewhere, the things staying.
   */
  const livePlace = (id: string) => {
    const { point: at, normal } = planeOfMirror(level.view, id)
    return tidy(new Vector3(...at).dot(new Vector3(...normal)))
  }
  const setLivePlace = (id: string, metres: number) =>
    level.change(
      `Move the plane of ${level.view.need(id).name}`,
      moveMirrorPlane(level.view, id, metres - livePlace(id)),
    )

  return {
    kept,
    begin,
    as,
    axis,
    through,
    side,
    point,
    possible,
    place,
    setPlace,
    livePlace,
    setLivePlace,
    touchPoint,
    mirrorPicked,
    preview,
  }
})
