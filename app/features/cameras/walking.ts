import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'
import { MathUtils, Matrix4, Quaternion, Ray, Vector3 } from 'three'
import { isMarker } from '~~/core/level/kinds'
import { markerOwn } from '~~/core/level/create'
import type { Claim } from '~/stage/slot'
import type { ShownMark } from '~/stage/mark-shapes'
import type { View } from '~/stage/view'
import type { Walked } from './walk-tool'
import { WalkTool } from './walk-tool'
import { useCameras } from './cameras'
import { useLevel } from '~/editor/level'
import { useMarking } from './marking'
import { useModes } from '~/editor/modes'
import { useSettings } from '~/editor/settings'
import { useStageSession } from '~/editor/stage-session'

/** Places along each side of a view at which it is looked for ground. */
const LOOKED = 15

/** Walking through the level at eye height. */
export const useWalking = defineStore('walking', () => {
  const level = useLevel()
  const settings = useSettings()
  const session = useStageSession()
  const modes = useModes()
  const marking = useMarking()
  const cameras = useCameras()

  /** What came of the last walk, until it is put away. */
  const walked = shallowRef<Walked | null>(null)
  /** What shows the way of the last walk. */
  let showWay: Claim<ShownMark[]> | null = null
  const isWalking = computed(() => session.held('walk') !== null)
  const spawns = computed(() =>
    [...level.view.placements()].filter(
      ({ id, own }) => isMarker(own) && own.marker === 'spawn' && !level.view.isSource(id),
    ),
  )

  /** From where the active view is, on the ground below it. */
  function fromView(): void {
    const view = session.stage?.view
    if (!view) return
    const eye = view.eye.clone()
    const ground = level.index.raycast(new Ray(eye, new Vector3(0, -1, 0)))?.point ?? nearestGround(view)
    const foot =
      ground
      ?? (view.kind === 'walkaround' ? eye.setY(Math.max(eye.y - settings.kept.walk.eye, 0)) : view.target.clone())
    begin(foot, view.directions().forward)
  }

  /** Of the places in sight that can be stood on, the one nearest to the eye. */
  function nearestGround(view: View): Vector3 | null {
    const { x, y, width, height } = view.rect
    const steepest = Math.cos(MathUtils.degToRad(settings.kept.walk.slope))
    let [found, nearest]: [Vector3 | null, number] = [null, Infinity]
    for (let row = 0; row < LOOKED; row++) {
      for (let column = 0; column < LOOKED; column++) {
        const hit = level.index.raycast(
          view.rayAt({ x: x + (width * (column + 0.5)) / LOOKED, y: y + (height * (row + 0.5)) / LOOKED }),
        )
        if (hit && hit.normal.y >= steepest && hit.distance < nearest) [found, nearest] = [hit.point, hit.distance]
      }
    }
    return found
  }

  function fromClick(): void {
    modes.touch('Where to begin walking', 'point', ({ point }) => {
      begin(point, session.stage!.view.directions().forward)
      return true
    })
  }

  function fromSpawn(id: string): void {
    const matrix = level.view.worldMatrix(id)
    const turn = new Quaternion()
    matrix.decompose(new Vector3(), turn, new Vector3())
    begin(new Vector3().setFromMatrixPosition(matrix), new Vector3(0, 0, 1).applyQuaternion(turn))
  }

  function begin(foot: Vector3, sight: Vector3): void {
    const { stage, input } = session
    if (!stage || !input) return
    forget()
    cameras.lookFree()
    const kind = stage.view.kind
    if (kind !== 'walkaround') session.changePane({ kind: 'walkaround' })
    const way = sight.clone().setY(Math.abs(sight.y) > 0.98 ? 0 : sight.y)
    let tool: WalkTool | null = null
    modes.take(world => {
      tool = new WalkTool(
        world,
        input.canvas,
        settings.kept.walk,
        foot,
        way.lengthSq() < 1e-6 ? new Vector3(0, 0, -1) : way.normalize(),
        modes.stopMode,
        result => {
          if (kind !== 'walkaround') session.changePane({ kind })
          keep(result)
        },
      )
      return tool
    })
    const { moved, ok } = tool!.walker.findRoom()
    if (!ok) {
      modes.stopMode()
      return level.notify('There is no room to walk here', ['Nothing free was found within 6 m. Begin somewhere else.'])
    }
    if (moved) level.notify('Put beside what was in the way', ['A body does not fit where the walk was to begin.'])
    tool!.begin()
  }

  function keep(result: Walked): void {
    if (result.way.length < 2 && result.stops.length === 0) return
    walked.value = result
    showWay = session.stage?.shown.marks.shapes.claimDraft() ?? null
    if (result.way.length > 1)
      showWay?.([
        {
          own: markerOwn('walk', { points: result.way.slice(0, 1000), width: 2 * settings.kept.walk.radius }),
          matrix: new Matrix4(),
        },
      ])
    session.stage?.requestDraw()
  }

  /** Puts away what came of the last walk. */
  function forget(): void {
    if (!walked.value) return
    walked.value = null
    showWay?.(null)
    session.stage?.requestDraw()
  }

  function keepWay(): void {
    if (!walked.value || walked.value.way.length < 2) return
    marking.keepWalk(walked.value.way, 'Walking line')
    forget()
  }

  return { walked, isWalking, spawns, fromView, fromClick, fromSpawn, forget, keepWay }
})
