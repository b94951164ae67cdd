import type { ListedLevel } from '~~/core/api/schema'

/** By what levels are sorted. */
export const SORTS = {
  changed: 'changed last',
  opened: 'opened last',
  name: 'by name',
  size: 'largest first',
} as const
export type Sort = keyof typeof SORTS

/** What of the list is shown. */
export type Listing = { text: string; sort: Sort; tag: string | null; isArchive: boolean }

/** A level with its variants below it, those of variants among them. */
export type Listed = { level: ListedLevel; variants: ListedLevel[] }

const byName = new Intl.Collator('en', { numeric: true }).compare

/**
 * The levels that are shown, in their order. A variant stands below the level that it began from; where that is not
 * among them, by itself. What is looked for is found in names, tags and who was at work; every word has to be.
 *
 * @param openedAt when each was opened here last, in milliseconds
 */
export function listLevels(
  all: readonly ListedLevel[],
  { text, sort, tag, isArchive }: Listing,
  openedAt: Readonly<Record<string, number>>,
): Listed[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  const matches = ({ name, tags, lastBy, here }: ListedLevel) => {
    const said = [name, ...tags, lastBy ?? '', ...here].join(' ').toLowerCase()
    return words.every(word => said.includes(word)) && (tag === null || tags.includes(tag))
  }
  const shown = all.filter(({ archivedAt }) => (archivedAt !== null) === isArchive)
  const byId = new Map(shown.map(level => [level.id, level]))
  const below = new Map<string, ListedLevel[]>()
  const roots: ListedLevel[] = []
  for (const level of shown) {
    const root = rootOf(level, byId)
    if (root === level) roots.push(level)
    else below.set(root.id, [...(below.get(root.id) ?? []), level])
  }
  const order: Record<Sort, (a: ListedLevel, b: ListedLevel) => number> = {
    changed: (a, b) => b.changedAt.localeCompare(a.changedAt),
    opened: (a, b) => (openedAt[b.id] ?? 0) - (openedAt[a.id] ?? 0) || order.changed(a, b),
    name: (a, b) => byName(a.name, b.name),
    size: (a, b) => b.placementCount - a.placementCount,
  }
  return roots
    .map(level => ({ level, variants: (below.get(level.id) ?? []).sort(order[sort]) }))
    .filter(({ level, variants }) => matches(level) || variants.some(matches))
    .sort((a, b) => order[sort](a.level, b.level))
}

/** The level that a variant, or a variant of that, began from, as far as that is shown. */
function rootOf(level: ListedLevel, byId: ReadonlyMap<string, ListedLevel>): ListedLevel {
  const passed = new Set<string>()
  let at = level
  while (at.variantOf !== null && !passed.has(at.id)) {
    passed.add(at.id)
    const above = byId.get(at.variantOf)
    if (!above) break
    at = above
  }
  return at
}

/** The tags there are, with how many levels have each, the most used first. */
export function tagsOf(all: readonly ListedLevel[]): { tag: string; count: number }[] {
  const counts = new Map<string, number>()
  for (const { tags } of all) for (const tag of tags) counts.set(tag, (counts.get(tag) ?? 0) + 1)
  return [...counts].map(([tag, count]) => ({ tag, count })).sort((a, b) => b.count - a.count || byName(a.tag, b.tag))
}
