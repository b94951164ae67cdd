import { onBeforeUnmount, onMounted } from 'vue'
import { Vector3 } from 'three'
import type { MoveConstraint } from '~~/core/handles/move'
import type { Placement, Vec3 } from '~~/core/level/schema'
import type { ScreenPoint } from '~/stage/view'
import { useEditor } from '~/stores/editor'
import { useLevel } from '~/stores/level'

/** What scripts in the page can ask; described in docs/automation.md. Points of the screen are in the page's CSS pixels. */
export type Automation = {
  /** The level as it is now: all placements, and the revision last saved. */
  level: () => { id: string, name: string, revision: number, placements: Placement[] } | null
  /** Ids of what is picked, the last picked at the end. */
  picked: () => string[]
  /** A placement's matrix to the world, sixteen numbers, column by column. */
  worldMatrix: (id: string) => number[]
  /** Where a point of the world is on the screen; null if it is behind the eye. */
  project: (point: Vec3) => ScreenPoint | null
  /** Where a Move handle can be taken hold of; null if no handles are shown. */
  handle: (handle: MoveConstraint) => ScreenPoint | null
  /** Puts the eye somewhere, looking at a point. */
  lookFrom: (eye: Vec3, target: Vec3) => void
  /** Resolves when every change made so far has been saved, or rejects if the server is away. */
  saved: () => Promise<void>
  /** Resolves when the stage shows all there is to show. */
  drawn: () => Promise<void>
}

declare global {
  interface Window {
    handyGrid?: Automation
  }
}

export function useAutomation(): void {
  const level = useLevel()
  const editor = useEditor()

  const onPage = (point: ScreenPoint | null | undefined): ScreenPoint | null => {
    const box = document.querySelector('.stage-canvas')?.getBoundingClientRect()
    return point && box ? { x: point.x + box.left, y: point.y + box.top } : null
  }

  onMounted(() => {
    window.handyGrid = {
      level: () => level.summary && {
        id: level.summary.id,
        name: level.summary.name,
        revision: level.saving.kind === 'saved' ? level.saving.revision : level.summary.revision,
        placements: structuredClone([...level.document.placements()]),
      },
      picked: () => [...level.selection.ids],
      worldMatrix: id => level.document.worldMatrix(id).toArray(),
      project: point => onPage(editor.stage?.view.project(new Vector3(...point))),
      handle: handle => onPage(editor.stage && editor.stage.handles.grip(handle, editor.stage.view)),
      lookFrom: (eye, target) => {
        editor.stage?.view.lookFrom(new Vector3(...eye), new Vector3(...target))
        editor.stage?.requestDraw()
      },
      saved: async () => {
        await level.settled()
        if (level.saving.kind !== 'saved') throw new Error('the server is away')
      },
      drawn: async () => {
        if (!editor.stage) throw new Error('the stage is not there yet')
        await editor.stage.drawn()
      },
    }
  })
  onBeforeUnmount(() => delete window.handyGrid)
}
