import { defineStore } from 'pinia'
import { computed } from 'vue'
import type { GridStep } from '~~/core/edit/snap/grid'
import type { ShownUnit } from '~~/core/units/quantity'
import { printArea, printLengths, SHOWN_UNITS, unitAfter } from '~~/core/units/quantity'
import { useKeptHere } from './kept-here'
import type { Settings } from './settings-schema'
import { readSettings } from './settings-schema'
import type { StepKind } from './tools/tool-world'

const DECIMALS: Record<ShownUnit, number> = { 'mm': 0, 'cm': 1, 'm': 3, 'ft': 3, 'in': 2, 'ft-in': 4 }
const NAMES: Partial<Record<ShownUnit, string>> = { 'ft-in': 'ft and in' }

/** Levels that it is remembered for how they are looked at. */
const MOST_LOOKS = 200

/** How this person works; kept in the browser. */
export const useSettings = defineStore('settings', () => {
  const kept = useKeptHere('settings', readSettings)

  /** The step in force; of size 0 while it is off. @param inverted as while Ctrl is held */
  function stepInForce(kind: StepKind, inverted: boolean): GridStep {
    const { on, size, lattice } = kept.value.steps[kind]
    return { size: on !== inverted ? size : 0, lattice }
  }

  const FIRST_LOOK = { sky: 'board', strip: false } as const satisfies Settings['looks'][string]
  /** How this person looks at a level. */
  const lookAt = (levelId: string | undefined): Settings['looks'][string] =>
    kept.value.looks[levelId ?? ''] ?? FIRST_LOOK

  function setLook(levelId: string | undefined, fields: Partial<Settings['looks'][string]>): void {
    if (levelId === undefined) return
    const { [levelId]: before = FIRST_LOOK, ...others } = kept.value.looks
    // Those not looked at for the longest go first.
    kept.value.looks = {
      ...Object.fromEntries(Object.entries(others).slice(-MOST_LOOKS)),
      [levelId]: { ...before, ...fields },
    }
  }

  const decimals = computed(() => DECIMALS[kept.value.unit])

  /** What stands behind a field of a length. */
  const suffix = computed(() => unitAfter(kept.value.unit))
  const units = SHOWN_UNITS.map(value => ({ value, name: NAMES[value] ?? value }))

  /** Lengths in the unit worked in, with the unit. */
  const lengths = (metres: readonly number[], most = 9) =>
    printLengths(metres, kept.value.unit, Math.min(decimals.value, most))
  const area = (squareMetres: number) => printArea(squareMetres, kept.value.unit)

  return { kept, lookAt, setLook, stepInForce, decimals, suffix, units, lengths, area }
})
