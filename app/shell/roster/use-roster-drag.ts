import { ref } from 'vue'
import { useEdits } from '~/editor/edits'
import { useLevel } from '~/editor/level'
import type { RosterRow } from './use-roster-rows'

export type DropPlace = 'before' | 'into' | 'after'

/** Dragging rows of the roster: between two rows changes the order, onto one hangs them from it. */
export function useRosterDrag() {
  const level = useLevel()
  const edits = useEdits()
  const dragged = ref<string[]>([])
  const over = ref<{ id: string; place: DropPlace } | null>(null)

  function start(event: DragEvent, { placement: { id } }: RosterRow): void {
    dragged.value = level.selection.ids.has(id) ? [...level.selection.ids] : [id]
    event.dataTransfer?.setData('text/plain', level.view.need(id).name)
  }

  function move(event: DragEvent, { placement: { id } }: RosterRow): void {
    if (dragged.value.length === 0) return
    event.preventDefault()
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
    const share = (event.clientY - box.top) / box.height
    over.value = { id, place: share < 0.28 ? 'before' : share > 0.72 ? 'after' : 'into' }
  }

  function drop(event: DragEvent): void {
    event.preventDefault()
    const target = over.value
    const ids = dragged.value
    end()
    if (!target || ids.includes(target.id)) return
    if (target.place === 'into') edits.hang(ids, target.id)
    else hangBeside(ids, target.id, target.place)
  }

  /** Shares out the room between the target and its neighbour on that side. */
  function hangBeside(ids: string[], targetId: string, place: 'before' | 'after'): void {
    const { parentId, order } = level.view.need(targetId)
    const siblings = level.view.children(parentId).filter(id => !ids.includes(id))
    const at = siblings.indexOf(targetId)
    const neighbour = siblings[place === 'before' ? at - 1 : at + 1]
    const other = neighbour === undefined ? order + (place === 'before' ? -1 : 1) : level.view.need(neighbour).order
    const [low, high] = place === 'before' ? [other, order] : [order, other]
    edits.hang(
      ids,
      parentId,
      ids.map((_, i) => low + ((high - low) * (i + 1)) / (ids.length + 1)),
    )
  }

  function end(): void {
    dragged.value = []
    over.value = null
  }

  return { over, start, move, drop, end }
}
