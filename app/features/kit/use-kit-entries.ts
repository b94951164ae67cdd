import { computed, ref } from 'vue'
import type { Part } from '~~/core/level/part'
import { partSize } from '~~/core/level/part'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'

/** The parts of the kit that are looked for, as they are sorted. */
export function useKitEntries() {
  const kit = useKit()
  const level = useLevel()
  const settings = useSettings()
  const search = ref('')
  const onlyFavourites = ref(false)

  /** How often each part is placed in this level. */
  const placed = computed(() => {
    const counts = new Map<string, number>()
    for (const { partId } of level.view.placements())
      if (partId !== null) counts.set(partId, (counts.get(partId) ?? 0) + 1)
    return counts
  })

  const favourites = computed(() => new Set(settings.kept.favourites))
  const isFound = (texts: readonly string[]) =>
    search.value
      .toLowerCase()
      .split(/\s+/)
      .filter(Boolean)
      .every(word => texts.some(text => text.toLowerCase().includes(word)))
  const isShown = (inKit: string) => kit.shownKit === null || kit.shownKit === inKit

  const found = computed(() => {
    const some = kit.parts.filter(
      part =>
        isShown(part.kit)
        && (!onlyFavourites.value || favourites.value.has(part.id))
        && isFound([part.name, part.kind, ...part.tags]),
    )
    const by = settings.kept.kitSort
    if (by === 'kit') return some
    const largest = (part: Part) => Math.max(...partSize(part))
    const lastUsed = new Map(settings.kept.lastUsed.map((id, i) => [id, i]))
    const order: Record<Exclude<typeof by, 'kit'>, (a: Part, b: Part) => number> = {
      name: (a, b) => a.name.localeCompare(b.name),
      size: (a, b) => largest(b) - largest(a),
      placed: (a, b) => (placed.value.get(b.id) ?? 0) - (placed.value.get(a.id) ?? 0),
      last: (a, b) => (lastUsed.get(a.id) ?? Infinity) - (lastUsed.get(b.id) ?? Infinity) || 0,
    }
    return some.toSorted(order[by])
  })

  const entries = computed(() =>
    onlyFavourites.value ? [] : kit.entries.filter(entry => isShown(entry.kit) && isFound([entry.name])),
  )

  function toggleFavourite(id: string): void {
    const { favourites: kept } = settings.kept
    settings.kept.favourites = kept.includes(id) ? kept.filter(each => each !== id) : [...kept, id]
  }

  return { search, onlyFavourites, placed, favourites, found, entries, toggleFavourite }
}
