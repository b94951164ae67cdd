import { usePreferredContrast, usePreferredDark, usePreferredReducedMotion } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed } from 'vue'
import type { GridStep } from '~~/core/edit/snap/grid'
import type { ShownUnit } from '~~/core/units/quantity'
import type { DecimalMark } from '~~/core/units/mark'
import { withMark } from '~~/core/units/mark'
import { printArea, printLengths, printShort, SHOWN_UNITS, unitAfter } from '~~/core/units/quantity'
import type { BoardName } from '~/stage/palette'
import { useKeptHere } from './kept-here'
import type { Settings } from './settings-schema'
import { readSettings } from './settings-schema'
import type { StepKind } from './tools/tool-world'

const DECIMALS: Record<ShownUnit, number> = { 'mm': 0, 'cm': 1, 'm': 3, 'ft': 3, 'in': 2, 'ft-in': 4 }
const NAMES: Partial<Record<ShownUnit, string>> = { 'ft-in': 'ft and in' }

/** Four digits of a turn are a thirtieth of a degree. */
const ANGLES = {
  degrees: { unit: undefined, decimals: 2, suffix: '°' },
  turns: { unit: 'turn', decimals: 4, suffix: ' turn' },
} as const

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

  const decimals = computed(() => kept.value.digits ?? DECIMALS[kept.value.unit])
  const localMark: DecimalMark = (1.5).toLocaleString().includes(',') ? ',' : '.'
  const mark = computed((): DecimalMark => {
    const { decimalMark } = kept.value
    return decimalMark === 'locale' ? localMark : decimalMark === 'comma' ? ',' : '.'
  })

  const prefersDark = usePreferredDark()
  const prefersContrast = usePreferredContrast()
  const prefersMotion = usePreferredReducedMotion()
  const board = computed(() =>
    kept.value.board === 'system' ? (prefersDark.value ? 'night' : 'day') : kept.value.board,
  )
  const hasMoreContrast = computed(() =>
    kept.value.contrast === 'system' ? prefersContrast.value === 'more' : kept.value.contrast === 'more',
  )
  /** The board with its contrast. */
  const boardName = computed((): BoardName => (hasMoreContrast.value ? `${board.value}-more` : board.value))
  const movesLess = computed(() =>
    kept.value.motion === 'system' ? prefersMotion.value === 'reduce' : kept.value.motion === 'less',
  )

  /** What stands behind a field of a length. */
  const suffix = computed(() => unitAfter(kept.value.unit))
  const units = SHOWN_UNITS.map(value => ({ value, name: NAMES[value] ?? value }))

  /** Lengths in the unit worked in, with the unit. */
  const lengths = (metres: readonly number[], most = 9) =>
    marked(printLengths(metres, kept.value.unit, Math.min(decimals.value, most)))
  const area = (squareMetres: number) => marked(printArea(squareMetres, kept.value.unit))

  /** How angles are written. */
  const angles = computed(() => ANGLES[kept.value.angles])
  /** An angle of so many degrees, with its unit; without zeros at its end, or with all digits. */
  const angle = (degrees: number, print = printShort) => {
    const { unit, decimals: digits, suffix: after } = angles.value
    return `${marked(print(degrees, 'angle', unit, digits))}${after}`
  }

  /** A number as text, with the mark of whoever works here. */
  const marked = (text: string) => withMark(text, mark.value)

  return {
    kept,
    lookAt,
    setLook,
    stepInForce,
    decimals,
    mark,
    marked,
    board,
    boardName,
    movesLess,
    suffix,
    units,
    lengths,
    area,
    angles,
    angle,
  }
})
