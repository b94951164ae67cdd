import { computed } from 'vue'
import type { AxesMode } from '~~/core/edit/handles/axes'
import { AXES_MODES } from '~~/core/edit/handles/axes'
import type { HandleChoice } from '~~/core/edit/handles/handle'
import { HANDLE_CHOICES } from '~~/core/edit/handles/handle'
import type { PivotMode } from '~~/core/edit/handles/pivot'
import { PIVOT_MODES } from '~~/core/edit/handles/pivot'
import { useTools } from '~/editor/tools'
import { useHandling } from '~/editor/handling'
import { useSettings } from '~/editor/settings'
import { useBorrowing } from './borrowing'

const AXES: Record<AxesMode, [string, string]> = {
  world: ['World', 'straight, whatever is turned'],
  local: ['Local', 'along the thing itself'],
  parent: ['Parent', 'of what it hangs from'],
  view: ['View', 'right, up and towards you'],
  surface: ['Surface', 'up from what it stands on'],
  borrowed: ['Borrowed', 'taken from something else'],
}
const PIVOTS: Record<PivotMode, [string, string]> = {
  own: ['Own', 'its pivot; of several, the middle of theirs'],
  each: ['Each its own', 'every thing around its own'],
  middle: ['Middle', 'of the box around all'],
  last: ['Last picked', 'the pivot of that one'],
  origin: ['Origin', 'of the world'],
  pin: ['Pin', 'dropped anywhere'],
}
/** Each by what its button and its action are called, and our key. */
const CHOICES: Record<HandleChoice, { name: string; does: string; key?: string }> = {
  none: { name: 'Pick', does: 'Pick only, no handles' },
  move: { name: 'Move', does: 'Move handles', key: 'm' },
  turn: { name: 'Turn', does: 'Turn handles', key: 't' },
  size: { name: 'Size', does: 'Size handles', key: 's' },
  all: { name: 'All', does: 'All handles', key: 'c' },
}

/** The choices of handles, axes and pivots with their names, and how they are made. */
export function useGrips() {
  const handling = useHandling()
  const settings = useSettings()
  const tools = useTools()
  const borrowing = useBorrowing()

  const axesModes = AXES_MODES.map(mode => ({ mode, name: AXES[mode][0], about: AXES[mode][1] }))
  const pivotModes = PIVOT_MODES.map(mode => ({ mode, name: PIVOTS[mode][0], about: PIVOTS[mode][1] }))
  const choices = HANDLE_CHOICES.map(choice => ({ choice, ...CHOICES[choice] }))
  const borrowedFrom = computed(() => handling.borrowed?.from ?? null)
  const hasPin = computed(() => handling.pin !== null)
  const choice = computed(() => handling.choice)

  function setChoice(next: HandleChoice): void {
    handling.choice = next
    handling.editingPivot = false
    tools.placeHandles()
  }

  /** Borrowed axes have to be taken from something first. */
  function setAxes(mode: AxesMode): void {
    if (mode === 'borrowed' && handling.borrowed === null) borrowing.borrowAxes()
    else settings.kept.axes = mode
    tools.placeHandles()
  }

  function nextAxes(): void {
    const usable = AXES_MODES.filter(mode => mode !== 'borrowed' || handling.borrowed !== null)
    setAxes(usable[(usable.indexOf(settings.kept.axes) + 1) % usable.length]!)
  }

  /** A pin has to be dropped first. */
  function setPivot(mode: PivotMode): void {
    if (mode === 'pin' && handling.pin === null) borrowing.dropPin()
    else settings.kept.pivot = mode
    tools.placeHandles()
  }

  return { axesModes, pivotModes, choices, choice, borrowedFrom, hasPin, setChoice, setAxes, nextAxes, setPivot }
}
