import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed } from 'vue'
import type { Step } from '~~/core/edit/snap/grid'
import { LENGTH_UNITS } from '~~/core/units/quantity'
import type { LengthUnit } from '~~/core/units/quantity'
import type { Settings } from './settings-schema'
import { readSettings } from './settings-schema'
import type { StepKind } from '../tools/tool-world'

const DECIMALS: Record<LengthUnit, number> = { mm: 0, cm: 1, m: 3, ft: 3, in: 2 }

/** How this person works; kept in the browser. */
export const useSettings = defineStore('settings', () => {
  const kept = useLocalStorage<Settings>('handy-grid.settings', () => readSettings(null), {
    serializer: { read: text => readSettings(parsed(text)), write: settings => JSON.stringify(settings) },
  })

  /** The step in force; of size 0 while it is off. @param inverted as while Ctrl is held */
  function stepInForce(kind: StepKind, inverted: boolean): Step {
    const { on, size, lattice } = kept.value.steps[kind]
    return { size: on !== inverted ? size : 0, lattice }
  }

  const decimals = computed(() => DECIMALS[kept.value.unit])

  return { kept, stepInForce, decimals, units: LENGTH_UNITS }
})

function parsed(text: string): unknown {
  try {
    return JSON.parse(text)
  }
  catch {
    return null
  }
}
