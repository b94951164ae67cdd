import type { NudgeWay } from '~~/core/edit/handles/nudge'
import { useBaking } from '~/editor/baking'
import type { Command } from '~/editor/commands'
import { useEdits } from '~/editor/edits'
import { defineFeature } from '~/editor/feature'
import { useSettings } from '~/editor/settings'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import BakeDialog from './BakeDialog.vue'
import { useBorrowing } from './borrowing'
import { useShaping } from './shaping'
import { useGrips } from './use-grips'

const NUDGES: [string, NudgeWay][] = [
  ['ArrowRight', 'right'],
  ['ArrowLeft', 'left'],
  ['ArrowUp', 'up'],
  ['ArrowDown', 'down'],
  ['PageUp', 'higher'],
  ['PageDown', 'lower'],
]
const WAYS: Record<NudgeWay, string> = {
  right: 'right',
  left: 'left',
  up: 'away',
  down: 'nearer',
  higher: 'up',
  lower: 'down',
}

/** Handles with their axes and pivots, and what moves, turns and sizes without them. */
export const transform = defineFeature({
  name: 'Moving, turning and sizing',
  dialogs: [BakeDialog],
  commands: () => {
    const [grips, tools, borrowing, session, shaping, baking] = [
      useGrips(),
      useTools(),
      useBorrowing(),
      useStageSession(),
      useShaping(),
      useBaking(),
    ]
    const { kept } = useSettings()
    const { somePicked } = useEdits()
    const nudges = NUDGES.flatMap(([key, way]): Command[] => [
      { name: `Nudge ${WAYS[way]}`, key, run: () => shaping.nudge(way, 1), can: somePicked },
      {
        name: `Nudge ${WAYS[way]} by ten steps`,
        key: `Shift+${key}`,
        run: () => shaping.nudge(way, 10),
        can: somePicked,
      },
      {
        name: `Nudge ${WAYS[way]} by a tenth of a step`,
        // Browsers keep Ctrl with these for their tabs.
        key: `${key.startsWith('Page') ? 'Alt' : 'Ctrl'}+${key}`,
        run: () => shaping.nudge(way, 0.1),
        can: somePicked,
      },
    ])
    return [
      ...grips.choices.map(
        ({ choice, does, key }): Command => ({ name: does, key, run: () => grips.setChoice(choice), on: ['handle'] }),
      ),
      ...grips.axesModes.map(
        ({ mode, name }): Command => ({ name: `${name} axes`, run: () => grips.setAxes(mode), on: ['handle'] }),
      ),
      { name: 'Next axes', key: 'x', run: grips.nextAxes, on: ['handle'] },
      ...grips.pivotModes.map(
        ({ mode, name }): Command => ({
          name: `Around: ${name.toLowerCase()}`,
          run: () => grips.setPivot(mode),
          on: ['handle'],
        }),
      ),
      { name: 'Edit the pivot', key: 'p', run: tools.togglePivotEditing, can: somePicked, on: ['handle'] },
      {
        name: 'Give the pivot to all instances of the part',
        run: () => void borrowing.givePivotToPart(),
        can: somePicked,
      },
      { name: 'Drop a pin', run: borrowing.dropPin, on: ['handle'] },
      { name: 'Type a change', key: '=', run: () => session.input?.typeNumbers(), can: somePicked, on: ['handle'] },
      ...nudges,
      { name: 'Turn left by a step', key: ',', run: () => shaping.quickTurn(1), can: somePicked, on: ['handle'] },
      { name: 'Turn right by a step', key: '.', run: () => shaping.quickTurn(-1), can: somePicked, on: ['handle'] },
      { name: 'Hug the surface, on or off', key: 'h', run: () => (kept.hugOn = !kept.hugOn), on: ['handle'] },
      { name: 'Abut, on or off', key: 'a', run: () => (kept.abut = !kept.abut), on: ['handle'] },
      { name: 'Vertex snap, on or off', run: () => (kept.vertex = !kept.vertex), on: ['handle'] },
      {
        name: 'Reset turn …',
        run: () => (baking.bakeQuestion = { what: 'reset-turn' }),
        can: somePicked,
        on: ['handle'],
      },
      {
        name: 'Reset size …',
        run: () => (baking.bakeQuestion = { what: 'reset-size' }),
        can: somePicked,
        on: ['handle'],
      },
      {
        name: 'Bake size or turn into the shape …',
        run: () => (baking.bakeQuestion = { what: 'both' }),
        can: somePicked,
      },
      { name: 'Copy the transform', key: 'Ctrl+Alt+c', run: shaping.copyTransform, can: somePicked },
      {
        name: 'Paste the transform',
        key: 'Ctrl+Alt+v',
        run: shaping.pasteTransform,
        can: () => somePicked() && shaping.copied !== null,
      },
    ]
  },
})
