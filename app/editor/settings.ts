import {
  toReactive,
  useMediaQuery,
  usePreferredContrast,
  usePreferredDark,
  usePreferredReducedMotion,
  useWindowSize,
} from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed } from 'vue'
import type { GridStep } from '~~/core/edit/snap/grid'
import type { ShownUnit } from '~~/core/units/quantity'
import type { DecimalMark } from '~~/core/units/mark'
import { withMark } from '~~/core/units/mark'
import { AXES_WRITTEN } from '~~/core/units/height'
import { printArea, printLengths, printShort, SHOWN_UNITS, unitAfter } from '~~/core/units/quantity'
import type { BoardName } from '~/stage/palette'
import { useKeptHere } from './kept-here'
import type { Settings } from './settings-schema'
import { readSettings, widthOf } from './settings-schema'
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
  // One object for good, also when another window has set something: whoever holds it has what is set now.
  const kept = toReactive<Settings>(useKeptHere('settings', readSettings))

  /** The step in force; of size 0 while it is off. @param inverted as while Ctrl is held */
  function stepInForce(kind: StepKind, inverted: boolean): GridStep {
    const { on, size, lattice } = kept.steps[kind]
    return { size: on !== inverted ? size : 0, lattice }
  }

  const FIRST_LOOK = { sky: 'board', strip: false } as const satisfies Settings['looks'][string]
  /** How this person looks at a level. */
  const lookAt = (levelId: string | undefined): Settings['looks'][string] => kept.looks[levelId ?? ''] ?? FIRST_LOOK

  function setLook(levelId: string | undefined, fields: Partial<Settings['looks'][string]>): void {
    if (levelId === undefined) return
    const { [levelId]: before = FIRST_LOOK, ...others } = kept.looks
    // Those not looked at for the longest go first.
    kept.looks = {
      ...Object.fromEntries(Object.entries(others).slice(-MOST_LOOKS)),
      [levelId]: { ...before, ...fields },
    }
  }

  const decimals = computed(() => kept.digits ?? DECIMALS[kept.unit])
  const localMark: DecimalMark = (1.5).toLocaleString().includes(',') ? ',' : '.'
  const mark = computed((): DecimalMark => {
    const { decimalMark } = kept
    return decimalMark === 'locale' ? localMark : decimalMark === 'comma' ? ',' : '.'
  })

  const prefersDark = usePreferredDark()
  const prefersContrast = usePreferredContrast()
  const prefersMotion = usePreferredReducedMotion()
  const isCoarse = useMediaQuery('(pointer: coarse)')
  /** Whether buttons and fields are large enough for fingers. */
  const byFinger = computed(() => (kept.hand === 'system' ? isCoarse.value : kept.hand === 'finger'))
  const board = computed(() => (kept.board === 'system' ? (prefersDark.value ? 'night' : 'day') : kept.board))
  const hasMoreContrast = computed(() =>
    kept.contrast === 'system' ? prefersContrast.value === 'more' : kept.contrast === 'more',
  )
  /** The board with its contrast. */
  const boardName = computed((): BoardName => (hasMoreContrast.value ? `${board.value}-more` : board.value))
  const movesLess = computed(() =>
    kept.motion === 'system' ? prefersMotion.value === 'reduce' : kept.motion === 'less',
  )

  const { width } = useWindowSize({ initialWidth: 1280 })
  /** Where panels are in a window as wide as this. */
  const panels = computed(() => kept.panels[widthOf(width.value)])

  /** What stands behind a field of a length. */
  const suffix = computed(() => unitAfter(kept.unit))
  const units = SHOWN_UNITS.map(value => ({ value, name: NAMES[value] ?? value }))

  /** Lengths in the unit worked in, with the unit. */
  const lengths = (metres: readonly number[], most = 9) =>
    marked(printLengths(metres, kept.unit, Math.min(decimals.value, most)))
  /** How axes are written. */
  const axes = computed(() => AXES_WRITTEN[kept.height])
  /** Three sizes along the axes of the level, in the order in which those are written. */
  const sizes = (metres: readonly number[], most = 9) => lengths(axes.value.sorted(metres), most)
  const area = (squareMetres: number) => marked(printArea(squareMetres, kept.unit))

  /** How angles are written. */
  const angles = computed(() => ANGLES[kept.angles])
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
    byFinger,
    panels,
    suffix,
    units,
    lengths,
    axes,
    sizes,
    area,
    angles,
    angle,
  }
})
