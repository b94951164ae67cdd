import { onBeforeUnmount, onMounted } from 'vue'
import { Vector3 } from 'three'
import type { Quat } from '~~/core/math/vectors'
import type { ScreenPoint } from '~~/core/math/screen'
import type {} from './automation'
import { useStageSession } from '~/editor/stage-session'
import { useHandling } from '~/editor/handling'
import { useLevel } from '~/editor/level'
import { usePeople } from '~/features/people/people'

export function useAutomation(): void {
  const level = useLevel()
  const session = useStageSession()
  const handling = useHandling()
  const people = usePeople()

  const onPage = (point: ScreenPoint | null | undefined): ScreenPoint | null => {
    const box = document.querySelector('.stage-canvas')?.getBoundingClientRect()
    return point && box ? { x: point.x + box.left, y: point.y + box.top } : null
  }

  const viewOf = (pane?: number) => (pane === undefined ? session.stage?.view : session.stage?.panes.views[pane])

  onMounted(() => {
    window.handyGrid = {
      level: () =>
        level.summary && {
          id: level.summary.id,
          name: level.summary.name,
          revision: level.saving.kind === 'saved' ? level.saving.revision : level.summary.revision,
          placements: structuredClone([...level.view.placements()]),
        },
      picked: () => [...level.selection.ids],
      worldMatrix: id => level.view.worldMatrix(id).toArray(),
      copies: id => level.index.shownBy(id).map(({ matrix }) => matrix.toArray()),
      project: (point, pane) => onPage(viewOf(pane)?.project(new Vector3(...point))),
      handle: (handle, pane) => {
        const view = viewOf(pane)
        return onPage(view && session.stage?.handles.grip(handle, view))
      },
      frame: () => {
        const frame = session.stage && handling.frame(session.stage.view.directions())
        return frame ? { origin: frame.origin.toArray(), axes: frame.axes.toArray() as Quat } : null
      },
      view: pane => {
        const view = viewOf(pane)
        return view
          ? { kind: view.kind, eye: view.eye.toArray(), target: view.target.toArray(), fieldOfView: view.fieldOfView }
          : null
      },
      others: () =>
        people.others.flatMap(({ id }) => {
          const person = people.right(id)
          if (!person) return []
          const { name, role, picked, drags, view, reserved } = person
          const dragging = drags?.things.map(thing => thing.id) ?? []
          return [{ name, role, picked, dragging, reserved, eye: view?.eye ?? null, target: view?.target ?? null }]
        }),
      lookFrom: (eye, target) => {
        session.stage?.view.lookFrom(new Vector3(...eye), new Vector3(...target))
        session.stage?.requestDraw()
      },
      picture: async (width, height) => {
        const blob = await session.stage!.picture(width, height)
        if (!blob) throw new Error('the stage was left')
        return new Promise(resolve => {
          const reader = new FileReader()
          reader.onload = () => resolve(String(reader.result))
          reader.readAsDataURL(blob)
        })
      },
      saved: async () => {
        await level.settled()
        if (level.saving.kind !== 'saved') throw new Error('the server is away')
      },
      drawn: async () => {
        if (!session.stage) throw new Error('the stage is not there yet')
        await session.stage.drawn()
      },
      rested: async () => {
        await session.stage?.rested()
      },
    }
  })
  onBeforeUnmount(() => delete window.handyGrid)
}
