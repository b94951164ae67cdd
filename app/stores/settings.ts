import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed } from 'vue'
import type { LengthUnit } from '~~/core/units/quantity'
import { LENGTH_UNITS } from '~~/core/units/quantity'
import type { Board } from '../stage/board'

export type Settings = {
  board: Board['name']
  unit: LengthUnit
  gridOn: boolean
  /** Metres. */
  gridStep: number
  /** Degrees. */
  turnStep: number
  leaning: boolean
  showBench: boolean
  showRoster: boolean
  showLedger: boolean
  author: string
  show: { grid: boolean, sky: boolean, camera: boolean, light: boolean, marker: boolean, hover: boolean }
  /** Pixels. */
  markSize: number
  marksPickable: boolean
  /** Metres a second, by level. */
  flySpeeds: Record<string, number>
}

const DECIMALS: Record<LengthUnit, number> = { mm: 0, cm: 1, m: 3, ft: 3, in: 2 }

/** How this person works; kept in the browser. */
export const useSettings = defineStore('settings', () => {
  const kept = useLocalStorage<Settings>('handy-grid.settings', {
    board: 'day', unit: 'm', gridOn: true, gridStep: 0.25, turnStep: 15, leaning: false,
    showBench: true, showRoster: true, showLedger: true, author: `Guest ${Math.floor(Math.random() * 9000) + 1000}`,
    show: { grid: true, sky: true, camera: true, light: true, marker: true, hover: true }, markSize: 24, marksPickable: false, flySpeeds: {},
  }, { mergeDefaults: true })

  /** The grid step in force, 0 while the grid is off. @param inverted as while Ctrl is held */
  const stepInForce = (inverted: boolean) => kept.value.gridOn !== inverted ? kept.value.gridStep : 0

  const decimals = computed(() => DECIMALS[kept.value.unit])

  return { kept, stepInForce, decimals, units: LENGTH_UNITS }
})
