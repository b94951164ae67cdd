import { Box3, MathUtils, Quaternion, Vector3 } from 'three'
import { defineStore } from 'pinia'
import { useSettings } from '~/editor/settings'
import { ref, shallowRef } from 'vue'
import { named } from '~~/core/learn/conditions'
import type { ShownAt, ShownStep } from '~~/core/learn/exercise'
import type { Operation } from '~~/core/level/schema'
import type { ScreenPoint } from '~~/core/math/screen'
import type { Quat, Vec3 } from '~~/core/math/vectors'
import { useLevel } from '~/editor/level'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { useFirstSteps } from './first-steps'

/** Milliseconds in which the pointer goes somewhere, and for which it waits there. */
const [GOES, WAITS] = [900, 1100]

/** Plays on the stage how an exercise can be done, with a pointer that is nobody's. Nothing of it is kept. */
export const useShowing = defineStore('showing-exercise', () => {
  const level = useLevel()
  const session = useStageSession()
  const steps = useFirstSteps()
  const showPreview = useTools().claimPreview()
  const settings = useSettings()

  /** Where the pointer is on the page, and what is said beside it; null while nothing is shown. */
  const pointer = shallowRef<{ at: ScreenPoint; says: string; isPressed: boolean } | null>(null)
  const isShowing = ref(false)
  let run = 0

  async function show(): Promise<void> {
    const mine = ++run
    isShowing.value = true
    steps.where()
    await rest(settings.movesLess ? 100 : 900)
    let from = middle()
    for (const step of steps.exercise.shows) {
      const to = (step.at && onPage(placeOf(step.at))) ?? from
      const isPressed = Boolean(step.drags ?? step.turns)
      for (let share = settings.movesLess ? 1 : 0; ; share = Math.min(share + 0.04, 1)) {
        if (mine !== run) return
        const eased = share * share * (3 - 2 * share)
        const at = { x: from.x + (to.x - from.x) * eased, y: from.y + (to.y - from.y) * eased }
        pointer.value = { at, says: step.says, isPressed }
        if (isPressed) showPreview(previewOf(step, eased))
        session.stage?.requestDraw()
        if (share === 1) break
        await rest(GOES * 0.04)
      }
      await rest(WAITS)
      if (mine !== run) return
      from = to
    }
    stop()
  }

  function stop(): void {
    run++
    isShowing.value = false
    pointer.value = null
    showPreview(null)
    session.stage?.requestDraw()
  }

  /** What is dragged, as far as it has come. */
  function previewOf({ drags, turns }: ShownStep, share: number): Operation[] {
    const operations: Operation[] = []
    const [moved] = drags ? named(level.view, drags.thing) : []
    if (drags && moved !== undefined) {
      const from = new Vector3(...level.view.need(moved).translation)
      const to = 'to' in drags ? from.toArray().map((value, axis) => drags.to[axis] ?? value) : topOf(drags.on)
      if (to)
        operations.push({
          do: 'put',
          id: moved,
          fields: { translation: from.lerp(new Vector3(...(to as Vec3)), share).toArray() },
        })
    }
    const [turned] = turns ? named(level.view, turns.thing) : []
    if (turns && turned !== undefined) {
      const before = new Quaternion(...level.view.need(turned).rotation)
      const by = new Quaternion().setFromAxisAngle(new Vector3(0, 1, 0), MathUtils.degToRad(turns.by * share))
      operations.push({ do: 'put', id: turned, fields: { rotation: by.multiply(before).toArray() as Quat } })
    }
    return operations
  }

  function boxOf(name: string): Box3 | null {
    const [id] = named(level.view, name)
    if (id === undefined) return null
    const box = level.index.extents.boundsOf(level.view.subtree(id), new Box3())
    return box.isEmpty() ? box.expandByPoint(new Vector3().setFromMatrixPosition(level.view.worldMatrix(id))) : box
  }

  function topOf(name: string): Vec3 | null {
    const box = boxOf(name)
    return box && [(box.min.x + box.max.x) / 2, box.max.y, (box.min.z + box.max.z) / 2]
  }

  const placeOf = (at: ShownAt): Vector3 | null =>
    'place' in at ? new Vector3(...at.place) : (boxOf(at.thing)?.getCenter(new Vector3()) ?? null)

  /** Where a place of the world is on the page; null if that is not in front of the eye. */
  function onPage(place: Vector3 | null): ScreenPoint | null {
    const at = place && session.stage?.view.project(place)
    const rect = session.input?.canvas.getBoundingClientRect()
    return at && rect ? { x: rect.x + at.x, y: rect.y + at.y } : null
  }

  function middle(): ScreenPoint {
    const rect = session.input?.canvas.getBoundingClientRect()
    return rect ? { x: rect.x + rect.width / 2, y: rect.y + rect.height / 2 } : { x: 0, y: 0 }
  }

  return { pointer, isShowing, show, stop }
})

const rest = (milliseconds: number) => new Promise(resolve => setTimeout(resolve, milliseconds))
