import { computed } from 'vue'
import { changeWorldNumber, worldNumbers } from '~~/core/edit/world-numbers'
import type { TransformRow } from '~~/core/level/edit'
import { changeTransformNumber, transformNumbers } from '~~/core/level/edit'
import type { Vec3 } from '~~/core/math/vectors'
import type { Entry } from '~~/core/units/entry'
import { applyEntry } from '~~/core/units/entry'
import { tidy } from '~~/core/units/quantity'
import type { Operation } from '~~/core/level/schema'
import { previewMatrices } from '~~/core/scene/preview'
import { heldNumbers } from '~~/core/relate/held-numbers'
import { sayRelation } from '~~/core/relate/say'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { toMicrometre } from '~~/core/math/micrometre'

type Axis = 0 | 1 | 2
/** One of the three rows, with how its numbers are shown. */
export type NumberRow = {
  row: TransformRow
  label: string
  quantity: 'length' | 'angle' | 'factor'
  unit?: string
  decimals: number
  suffix: string
}

/** The exact numbers of what is picked: read, typed and stepped. */
export function useTransformNumbers() {
  const level = useLevel()
  const settings = useSettings()
  const picked = computed(() => [...level.selection.ids].filter(id => level.view.has(id)))
  const last = computed(() =>
    level.selection.last !== null && level.view.has(level.selection.last)
      ? level.view.need(level.selection.last)
      : null,
  )
  const inMetres = computed(() => settings.kept.sizeInMetres)
  /**
   * Whether a thing's numbers are the world's: as Axes says, for what hangs from something that is not picked as well.
   */
  function isInWorld(id: string): boolean {
    if (settings.kept.axes !== 'world' || level.view.need(id).parentId === null) return false
    for (let at = level.view.need(id).parentId; at !== null; at = level.view.need(at).parentId)
      if (level.selection.ids.has(at)) return false
    return true
  }

  /** As they are, or as a drag going on would make them. */
  const numbers = computed(() => {
    const previewed = [...level.previewed].filter(([id]) => level.view.has(id))
    const moved =
      previewed.length === 0
        ? null
        : previewMatrices(
            level.view,
            previewed.map(([id, fields]): Operation => ({ do: 'put', id, fields })),
          )
    return picked.value.map(id => {
      const now = { ...level.view.need(id), ...level.previewed.get(id) }
      return isInWorld(id) ? worldNumbers(now, moved?.get(id) ?? level.view.worldMatrix(id)) : transformNumbers(now)
    })
  })

  const rows = computed((): NumberRow[] => {
    const length = {
      quantity: 'length',
      unit: settings.kept.unit,
      decimals: settings.decimals,
      suffix: settings.suffix,
    } as const
    return [
      { row: 'position', label: 'Position', ...length },
      { row: 'turn', label: 'Turn', quantity: 'angle', ...settings.angles },
      inMetres.value
        ? { row: 'size', label: 'Size', ...length }
        : { row: 'size', label: 'Size', quantity: 'factor', decimals: 3, suffix: '×' },
    ]
  })

  /** What one thing's number is: as it is kept, or for a size in metres as it measures. */
  function numberOf(index: number, row: TransformRow, axis: Axis): number | null {
    const kept = (numbers.value[index]![row] as Vec3)[axis]
    if (row !== 'size' || !inMetres.value) return tidy(kept)
    const id = picked.value[index]!
    const metres = level.index.extents.localSizeOf(id)?.[axis]
    return metres ? toMicrometre((metres * kept) / level.view.need(id).scale[axis]) : null
  }

  /** The number all picked things share; null while they differ. */
  function shared(row: TransformRow, axis: Axis): number | null {
    const [first, ...rest] = picked.value.map((_, index) => numberOf(index, row, axis))
    return first !== undefined && rest.every(value => value === first) ? first : null
  }

  /** Of the last picked thing, what keeps its numbers. */
  const heldBy = computed(
    () => last.value && heldNumbers(level.view, level.index, last.value.id, isInWorld(last.value.id)),
  )

  const length = (metres: number) => settings.lengths([metres])

  /** What keeps a number as it is, in words; nothing if nothing does. */
  function held(row: TransformRow, axis: Axis): string | undefined {
    const by = heldBy.value?.[row][axis] ?? []
    return by.length > 0
      ? `Held: ${by.map(relation => sayRelation(level.view, relation, { length, axes: settings.axes })).join(', ')}`
      : undefined
  }

  function change(row: TransformRow, label: string, axis: Axis, next: (now: number) => number, joins?: string): void {
    const what = picked.value.length === 1 ? last.value!.name : `${picked.value.length} things`
    const change = (now: number, id: string) => {
      const metres = row === 'size' && inMetres.value ? level.index.extents.localSizeOf(id)?.[axis] : undefined
      // A size in metres is a factor on what the thing measures now.
      return metres ? tidy((now * next(metres)) / metres) : next(now)
    }
    const operations = picked.value.flatMap(id =>
      isInWorld(id)
        ? changeWorldNumber(level.view, id, row, axis, change)
        : changeTransformNumber(level.view, [id], row, axis, change),
    )
    level.change(`${label} ${settings.axes.letter(axis)} of ${what}`, operations, joins)
  }

  const commit = ({ row, label }: NumberRow, axis: Axis, entry: Entry) =>
    change(row, label, axis, now => applyEntry(entry, now))

  function step({ row, label }: NumberRow, axis: Axis, steps: number): void {
    const { grid, turn, size } = settings.kept.steps
    const by =
      row === 'position' || (row === 'size' && inMetres.value) ? grid.size : row === 'turn' ? turn.size : size.size
    // A size does not step to 0, where it could not come back from.
    change(
      row,
      label,
      axis,
      now => tidy(now + by * steps) || (row === 'size' ? now : 0),
      `step ${row} ${axis} ${picked.value.join()}`,
    )
  }

  const check = (row: TransformRow) => (value: number) =>
    row === 'size' && value === 0 ? 'A size of 0 would flatten the shape for good.' : null

  /** In whose axes position and turn are, in words; nothing for what hangs from nothing. */
  const axesSaid = computed(() => {
    const of = last.value
    if (!of || of.parentId === null) return undefined
    return isInWorld(of.id)
      ? "In the world's axes, as Axes says"
      : `In the axes of ${level.view.need(of.parentId).name}, which it hangs from`
  })

  return { axesSaid, picked, last, rows, inMetres, shared, held, commit, step, check }
}
