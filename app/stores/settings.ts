import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed } from 'vue'
import type { Preset } from '~~/core/arrange/presets'
import type { AxesMode } from '~~/core/handles/axes'
import type { PivotMode } from '~~/core/handles/pivot'
import type { BlockKind, BlockShape } from '~~/core/kit/block'
import { FIRST_BLOCKS } from '~~/core/kit/block'
import type { DuplicateAs } from '~~/core/level/duplicate'
import type { Vec3 } from '~~/core/level/schema'
import type { Step } from '~~/core/snap/grid'
import type { HugRule } from '~~/core/snap/hug'
import type { RestRule } from '~~/core/snap/rest'
import type { SetDownLimits } from '~~/core/snap/set-down'
import { SET_DOWN_LIMITS } from '~~/core/snap/set-down'
import type { SnapPointKind } from '~~/core/snap/vertex'
import { SNAP_POINT_KINDS } from '~~/core/snap/vertex'
import type { LengthUnit } from '~~/core/units/quantity'
import { LENGTH_UNITS } from '~~/core/units/quantity'
import type { Board } from '../stage/board'
import type { StepKind } from '../tools/gesture'

export const BENCHES = ['kit', 'blocks', 'line-up', 'repeat'] as const
export type Bench = (typeof BENCHES)[number]

export type Settings = {
  board: Board['name']
  unit: LengthUnit
  /** Grid step in metres, turn step in degrees, size step as a factor. */
  steps: Record<StepKind, Step & { on: boolean }>
  /** Whether the grid lies along the world's axes or those of the handles. */
  gridAlong: 'world' | 'axes'
  axes: AxesMode
  pivot: PivotMode
  abut: boolean
  vertex: boolean
  snapPoints: SnapPointKind[]
  hugOn: boolean
  hug: HugRule
  setDown: RestRule & SetDownLimits
  leaning: boolean
  /** How things are duplicated, and how far the duplicate is moved, in metres along the axes in force. */
  duplicate: { as: DuplicateAs | 'baked', by: Vec3 }
  bench: Bench
  block: { kind: BlockKind, shapes: Record<BlockKind, BlockShape>, color: string }
  /** Arrangements kept to begin from. */
  presets: Preset[]
  showBench: boolean
  showRoster: boolean
  showLedger: boolean
  /** The ledger gives sizes in units of length instead of as factors. */
  sizeInMetres: boolean
  author: string
  show: { grid: boolean, sky: boolean, camera: boolean, light: boolean, marker: boolean, hover: boolean }
  /** Pixels. */
  markSize: number
  marksPickable: boolean
  /** Metres a second, by level. */
  flySpeeds: Record<string, number>
}

const DECIMALS: Record<LengthUnit, number> = { mm: 0, cm: 1, m: 3, ft: 3, in: 2 }

const FIRST: Settings = {
  board: 'day', unit: 'm',
  steps: { grid: { on: true, size: 0.25, lattice: true }, turn: { on: true, size: 15, lattice: false }, size: { on: false, size: 0.1, lattice: false } },
  gridAlong: 'axes', axes: 'world', pivot: 'own', abut: false, vertex: false, snapPoints: [...SNAP_POINT_KINDS],
  hugOn: false, hug: { onto: 'everything', leaning: false, rest: 'pivot', offset: 0 },
  setDown: { rest: 'lowest', leaning: false, offset: 0, ...SET_DOWN_LIMITS },
  leaning: false, duplicate: { as: 'instance', by: [0, 0, 0] }, bench: 'kit', block: { kind: 'box', shapes: FIRST_BLOCKS, color: '#b9a58b' },
  presets: [], showBench: true, showRoster: true, showLedger: true, sizeInMetres: false, author: `Guest ${Math.floor(Math.random() * 9000) + 1000}`,
  show: { grid: true, sky: true, camera: true, light: true, marker: true, hover: true }, markSize: 24, marksPickable: false, flySpeeds: {},
}

/** How this person works; kept in the browser. */
export const useSettings = defineStore('settings', () => {
  const kept = useLocalStorage<Settings>('handy-grid.settings', FIRST, { mergeDefaults: true })

  /** The step in force; of size 0 while it is off. @param inverted as while Ctrl is held */
  function stepInForce(kind: StepKind, inverted: boolean): Step {
    const { on, size, lattice } = kept.value.steps[kind]
    return { size: on !== inverted ? size : 0, lattice }
  }

  const decimals = computed(() => DECIMALS[kept.value.unit])

  return { kept, stepInForce, decimals, units: LENGTH_UNITS }
})
