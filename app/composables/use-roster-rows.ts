import { computed, ref, watch } from 'vue'
import type { Placement } from '~~/core/level/schema'
import { useLevel } from '~/stores/level'

export type RosterRow = { placement: Placement, depth: number, children: number, open: boolean }

/** The rows of the roster: the tree, flattened, without what hangs below closed ones. Opens the way to what is picked. */
export function useRosterRows() {
  const level = useLevel()
  const opened = ref<ReadonlySet<string>>(new Set())

  const rows = computed(() => {
    void level.version
    const found: RosterRow[] = []
    const walk = (parentId: string | null, depth: number) => {
      for (const id of level.document.children(parentId)) {
        const children = level.document.children(id).length
        const open = opened.value.has(id)
        found.push({ placement: level.document.need(id), depth, children, open })
        if (open && children > 0) walk(id, depth + 1)
      }
    }
    walk(null, 0)
    return found
  })

  function toggle(id: string): void {
    const next = new Set(opened.value)
    if (!next.delete(id)) next.add(id)
    opened.value = next
  }

  watch(() => level.selection.last, (last) => {
    const above = new Set<string>()
    for (let at = last === null ? null : level.document.need(last).parentId; at !== null; at = level.document.need(at).parentId) above.add(at)
    if (above.size > 0) opened.value = opened.value.union(above)
  })

  return { rows, toggle }
}
