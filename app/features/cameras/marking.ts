import { defineStore } from 'pinia'
import { computed } from 'vue'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { v7 } from 'uuid'
import { turnTo } from '~~/core/edit/aim'
import type { PointOn } from '~~/core/level/fields'
import { isCamera, isLight, isMarker, KINDS } from '~~/core/level/kinds'
import type { KindDefinition } from '~~/core/level/kind-definition'
import type { SunPlace } from '~~/core/level/kinds/light'
import { cameraOwn, createPlacement, freeName, lastOrder, markerOwn } from '~~/core/level/create'
import type { Placement } from '~~/core/level/schema'
import { sunRotation } from '~~/core/level/sun'
import type { Quat, Vec3 } from '~~/core/math/vectors'
import { firstIssue } from '~~/core/units/issue'
import { endAt } from '~~/core/measure/definition'
import { MarkTool } from './mark-tool'
import type { MarkTask } from '~/editor/tools/tool-id'
import { useLevel } from '~/editor/level'
import { useModes } from '~/editor/modes'
import type { PathOptions } from '~/editor/tools/path-tool'
import { useStageSession } from '~/editor/stage-session'

/** Putting down cameras, lights and markers, and changing what they are. */
export const useMarking = defineStore('marking', () => {
  const level = useLevel()
  const session = useStageSession()
  const modes = useModes()

  /** What is being put down; null for nothing. */
  const task = computed(() => session.held('mark')?.task ?? (session.held('path')?.draws === 'walk' ? 'walk' : null))

  function start(next: MarkTask | 'walk'): void {
    if (task.value === next) return modes.stopMode()
    if (next === 'walk') return drawWalk()
    modes.take(
      world =>
        new MarkTool(
          world,
          next,
          () => Math.round(session.stage?.view.fieldOfView ?? 50),
          () => modes.stopMode(),
        ),
    )
  }

  /** A camera that sees what the active view sees. */
  function cameraHere(): void {
    const view = session.stage?.view
    if (!view || view.kind !== 'walkaround')
      return level.notify('A camera can take the view of a Walkaround pane', [
        'This pane looks along an axis. Press 6, then try again.',
      ])
    const turn = new Quaternion().setFromRotationMatrix(view.camera.matrixWorld)
    put('Camera', {
      kind: 'camera',
      own: cameraOwn({ fieldOfView: Math.round(view.fieldOfView) }),
      translation: view.eye.toArray(),
      rotation: turn.normalize().toArray() as Quat,
    })
  }

  function drawWalk(): void {
    const showDraft = session.stage?.shown.marks.shapes.claimDraft()
    const show: PathOptions['show'] = points => {
      showDraft?.(points && [{ own: markerOwn('walk', { points }), matrix: new Matrix4() }])
      session.stage?.requestDraw()
    }
    const done: PathOptions['done'] = points => keepWalk(points, 'Walking line')
    modes.drawPath({ title: 'Drawing a walking line', show, done }, 'walk')
  }

  /** Keeps a way as a walking line. */
  function keepWalk(points: readonly Vec3[], name: string): void {
    const [x, y, z] = points[0]!
    const own = markerOwn('walk', {
      points: points.slice(0, 1000).map(point => [point[0] - x, point[1] - y, point[2] - z]),
    })
    put(name, { kind: 'marker', own, translation: [x, y, z] })
  }

  function put(name: string, fields: Pick<Placement, 'kind'> & Partial<Placement>): void {
    const made = createPlacement({
      id: v7(),
      name: freeName(level.view, name),
      order: lastOrder(level.view, null),
      ...fields,
    })
    const { id, ...all } = made
    if (level.change(`Put down ${made.name}`, [{ do: 'put', id, fields: all }])) level.pick([id])
  }

  /** The last picked thing, if it is a camera, a light or a marker. */
  const picked = computed(() => {
    const { last } = level.selection
    const placement = last === null ? undefined : level.view.get(last)
    return placement && KINDS[placement.kind].isMark ? placement : null
  })
  const camera = computed(() =>
    picked.value && isCamera(picked.value.own)
      ? { id: picked.value.id, name: picked.value.name, own: picked.value.own }
      : null,
  )
  const light = computed(() =>
    picked.value && isLight(picked.value.own)
      ? { id: picked.value.id, name: picked.value.name, own: picked.value.own }
      : null,
  )
  const marker = computed(() =>
    picked.value && isMarker(picked.value.own)
      ? { id: picked.value.id, name: picked.value.name, own: picked.value.own }
      : null,
  )

  /** Says what would be wrong with some own fields of a placement, or nothing. */
  function check(id: string, fields: object): string | null {
    const { kind, own } = level.view.need(id)
    const parsed = (KINDS[kind] as unknown as KindDefinition<object, boolean>).own.safeParse({ ...own, ...fields })
    if (parsed.success) return null
    const { message } = firstIssue(parsed.error)
    return `This ${message}.`
  }

  /** Changes own fields of the picked things of the same kind. @returns what is wrong, if it cannot be */
  function change(fields: object, what: string): string | null {
    const one = picked.value
    if (!one) return null
    const wrong = check(one.id, fields)
    if (wrong) return wrong
    const likeIt = (own: object) =>
      isLight(one.own)
        ? isLight(own) && own.light === one.own.light
        : isMarker(one.own)
          ? isMarker(own) && own.marker === one.own.marker
          : isCamera(own)
    const ids = [...level.selection.ids].filter(
      id => level.view.has(id) && likeIt(level.view.need(id).own) && check(id, fields) === null,
    )
    level.change(
      `${what} ${ids.length === 1 ? one.name : `${ids.length} things`}`,
      ids.map(id => ({
        do: 'put',
        id,
        fields: { own: { ...level.view.need(id).own, ...fields } as Placement['own'] },
      })),
      `${what} ${ids.join()}`,
    )
    return null
  }

  /** Asks for what a camera or a light is to stay turned to, or a note to be about. */
  function pickAim(): void {
    const one = picked.value
    if (!one) return
    const isNote = isMarker(one.own)
    modes.touch(isNote ? `What ${one.name} is about` : `Aim ${one.name} at a thing`, 'thing', ({ id, point }) => {
      if (id === one.id) return false
      const box = id === null ? null : level.index.extents.boundsOf(level.view.subtree(id))
      const at = box && !box.isEmpty() && !isNote ? box.getCenter(new Vector3()) : point
      const aim: PointOn = endAt(level.view, id, at)
      level.change(`Aim ${one.name}`, [
        {
          do: 'put',
          id: one.id,
          fields: {
            own: { ...level.view.need(one.id).own, ...(isNote ? { arrow: aim } : { aim }) } as Placement['own'],
          },
        },
      ])
      return true
    })
  }

  /** Turns a sun to where it stands by place and hour; null lets go of that. */
  function placeSun(place: SunPlace | null): string | null {
    const one = light.value
    if (!one) return null
    const wrong = check(one.id, { place })
    if (wrong) return wrong
    const { parentId, scale } = level.view.need(one.id)
    const above = parentId === null ? new Matrix4() : level.view.worldMatrix(parentId)
    const way = new Vector3(0, 0, -1).applyQuaternion(new Quaternion(...(place ? sunRotation(place) : [0, 0, 0, 1])))
    const rotation = place ? turnTo(new Vector3(), way, above, scale) : null
    level.change(
      place ? `Set the hour of ${one.name}` : `Turn ${one.name} by hand`,
      [{ do: 'put', id: one.id, fields: { own: { ...one.own, place, aim: null }, ...(rotation ? { rotation } : {}) } }],
      `sun ${one.id}`,
    )
    return null
  }

  return { task, start, cameraHere, keepWalk, picked, camera, light, marker, check, change, pickAim, placeSun }
})
