import { computed, shallowRef, watch } from 'vue'
import { KIND_NAMES } from '~~/core/level/kinds'
import type { Placement } from '~~/core/level/schema'
import { copyOf } from '~~/core/scene/copy-id'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'

export type RosterRow = {
  placement: Placement
  depth: number
  children: number
  open: boolean
  /** Its place among its siblings, from 1, and how many they are. */
  place: number
  siblings: number
}

/**
 * The rows of the roster: the tree, flattened, without what hangs below closed ones. Opens the way to what is picked.
 */
export function useRosterRows() {
  const level = useLevel()
  const settings = useSettings()
  const opened = shallowRef<ReadonlySet<string>>(new Set())

  const byName = new Intl.Collator('en', { numeric: true })
  const compare = {
    name: (a: Placement, b: Placement) => byName.compare(a.name, b.name),
    kind: (a: Placement, b: Placement) =>
      KIND_NAMES.indexOf(a.kind) - KIND_NAMES.indexOf(b.kind) || byName.compare(a.name, b.name),
  }

  function sorted(parentId: string | null): readonly string[] {
    const children = level.view.children(parentId)
    const by = settings.kept.rosterSort
    return by === 'order'
      ? children
      : children
          .map(id => level.view.need(id))
          .sort(compare[by])
          .map(({ id }) => id)
  }

  const rows = computed(() => {
    const found: RosterRow[] = []
    const walk = (parentId: string | null, depth: number) => {
      const ids = sorted(parentId)
      ids.forEach((id, i) => {
        const children = level.view.children(id).length
        const open = opened.value.has(id)
        found.push({ placement: level.view.need(id), depth, children, open, place: i + 1, siblings: ids.length })
        if (open && children > 0) walk(id, depth + 1)
      })
    }
    walk(null, 0)
    return found
  })

  /** From a thing upwards to the top, itself first; of a copy its arrangement. */
  function pathUp(id: string): string[] {
    const path: string[] = []
    for (
      let at: string | null = copyOf(id)?.arrangementId ?? id;
      at !== null && level.view.has(at);
      at = level.view.need(at).parentId
    )
      path.push(at)
    return path
  }

  /** The rows in which something that is picked is not to be seen, because they are closed or it is a copy. */
  const holding = computed(() => {
    const found = new Set<string>()
    for (const id of level.selection.ids) {
      const path = pathUp(id)
      const closed = path.slice(1).findLast(above => !opened.value.has(above))
      if (closed !== undefined) found.add(closed)
      else if (copyOf(id) && path[0] !== undefined) found.add(path[0])
    }
    return found
  })

  function toggle(id: string): void {
    const next = new Set(opened.value)
    if (!next.delete(id)) next.add(id)
    opened.value = next
  }

  watch(
    () => level.selection.last,
    last => {
      if (!settings.kept.rosterFollows || last === null) return
      const above = pathUp(last).slice(1)
      if (above.some(id => !opened.value.has(id))) opened.value = new Set([...opened.value, ...above])
    },
    { immediate: true },
  )

  /** The row of a thing, or of what holds it while it is not to be seen; -1 if there is none. */
  const rowOf = (id: string) => {
    const path = pathUp(id)
    const shown = path.findLast((each, i) => i === 0 || !opened.value.has(each))
    return rows.value.findIndex(({ placement }) => placement.id === shown)
  }

  return { rows, holding, toggle, rowOf }
}
