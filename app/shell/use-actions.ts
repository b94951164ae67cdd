import { Vector3 } from 'three'
import type { NudgeWay } from '~~/core/edit/handles/nudge'
import { useGrips } from '~/features/transform/use-grips'
import { useClipboard } from '~/editor/clipboard'
import { useDuplicating } from '~/features/repeat/duplicating'
import { useModes } from '~/editor/modes'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { useEdits } from '~/editor/edits'
import { useLevel } from '~/editor/level'
import { usePanels } from '~/editor/panels'
import type { Bench } from '~/editor/settings-schema'
import { useRepeating } from '~/features/repeat/repeating'
import { useSettings } from '~/editor/settings'
import { useBaking } from '~/features/transform/baking'
import { useBorrowing } from '~/features/transform/borrowing'
import { useShaping } from '~/features/transform/shaping'
import { usePartMaking } from '~/features/kit/part-making'
import { ChainTool } from '~/features/kit/chain-tool'
import { useKit } from '~/editor/kit'
import { useSockets } from '~/features/kit/sockets'
import { useSwapping } from '~/features/kit/swapping'
import { useWorkshop } from '~/features/kit/workshop'
import { useCameras } from '~/features/cameras/cameras'
import { useSettling } from '~/features/settle/settling'
import { useWalking } from '~/features/cameras/walking'
import { useMarking } from '~/features/cameras/marking'
import { MARK_NAMES } from '~/features/cameras/mark-tool'
import { TASK_NAMES, useMeasuring } from '~/features/measure/measuring'
import { MARK_TASKS, MEASURE_TASKS } from '~/editor/tools/tool-id'
import { useStations } from './stage/use-stations'

export type Action = {
  name: string
  /** As `keyName` writes it. */
  key?: string
  run: () => void
  /** The browser answers the key with an event of its own, which is listened for. */
  byBrowser?: true
  /** Whether it means something now; always if left out. */
  can?: () => boolean
}

const nudges: [string, NudgeWay][] = [['ArrowRight', 'right'], ['ArrowLeft', 'left'], ['ArrowUp', 'up'], ['ArrowDown', 'down'], ['PageUp', 'higher'], ['PageDown', 'lower']]
const WAYS: Record<NudgeWay, string> = { right: 'right', left: 'left', up: 'away', down: 'nearer', higher: 'up', lower: 'down' }

/** Everything that can be done by a key or by name, in one list for the keys, find or do, and the menus. */
export function useActions(): { actions: Action[], possible: () => Action[] } {
  const clipboard = useClipboard()
  const level = useLevel()
  const modes = useModes()
  const session = useStageSession()
  const tools = useTools()
  const edits = useEdits()
  const settings = useSettings()
  const panels = usePanels()
  const stations = useStations()
  const repeating = useRepeating()
  const baking = useBaking()
  const borrowing = useBorrowing()
  const shaping = useShaping()
  const grips = useGrips()
  const duplicating = useDuplicating()
  const making = usePartMaking()
  const workshop = useWorkshop()
  const swapping = useSwapping()
  const sockets = useSockets()
  const kit = useKit()
  const measuring = useMeasuring()
  const marking = useMarking()
  const walking = useWalking()
  const settling = useSettling()
  const cameras = useCameras()
  const somePicked = () => level.selection.ids.size > 0
  const look = (x: number, y: number, z: number) => () => {
    session.changePane({ kind: 'walkaround' })
    session.stage?.view.lookFromDirection(new Vector3(x, y, z))
  }

  const partPicked = () => level.selection.last === null ? null : level.view.get(level.selection.last)?.partId ?? null
  const openPicked = () => {
    const partId = partPicked()
    if (partId !== null) void workshop.open(partId, level.selection.last)
  }

  const drawChain = () => modes.take(world => new ChainTool(world, kit.piecesFor))

  const openBench = (bench: Bench) => Object.assign(settings.kept, { bench, showBench: true })
  /** Begins something that has its form in a step: that is shown, if the bench is open. */
  const inBench = (bench: Bench, run: () => void) => () => {
    settings.kept.bench = bench
    run()
  }

  const actions: Action[] = [
    { name: 'Back to plain picking', key: 'Escape', run: modes.escape },
    { name: 'Find or do', key: '/', run: () => (panels.findOpen = true) },
    ...grips.choices.map(({ choice, name, key }): Action => ({ name: choice === 'none' ? 'Pick only, no handles' : `${name} handles`, key: key.toLowerCase() || undefined, run: () => grips.setChoice(choice) })),
    ...grips.axesModes.map(({ mode, name }): Action => ({ name: `${name} axes`, run: () => grips.setAxes(mode) })),
    { name: 'Next axes', key: 'x', run: grips.nextAxes },
    ...grips.pivotModes.map(({ mode, name }): Action => ({ name: `Around: ${name.toLowerCase()}`, run: () => grips.setPivot(mode) })),
    { name: 'Edit the pivot', key: 'p', run: tools.togglePivotEditing, can: somePicked },
    { name: 'Give the pivot to all instances of the part', run: () => void borrowing.givePivotToPart(), can: somePicked },
    { name: 'Drop a pin', run: borrowing.dropPin },
    { name: 'Type a change', key: '=', run: () => session.input?.typeNumbers(), can: somePicked },
    ...nudges.map(([key, way]): Action[] => [
      { name: `Nudge ${WAYS[way]}`, key, run: () => shaping.nudge(way, 1), can: somePicked },
      { name: `Nudge ${WAYS[way]} by ten steps`, key: `Shift+${key}`, run: () => shaping.nudge(way, 10), can: somePicked },
      { name: `Nudge ${WAYS[way]} by a tenth of a step`, key: `Ctrl+${key}`, run: () => shaping.nudge(way, 0.1), can: somePicked },
    ]).flat(),
    { name: 'Turn left by a step', key: ',', run: () => shaping.quickTurn(1), can: somePicked },
    { name: 'Turn right by a step', key: '.', run: () => shaping.quickTurn(-1), can: somePicked },
    { name: 'Set down', key: 'g', run: shaping.setDownPicked, can: somePicked },
    { name: 'Hug the surface, on or off', key: 'h', run: () => (settings.kept.hugOn = !settings.kept.hugOn) },
    { name: 'Abut, on or off', key: 'a', run: () => (settings.kept.abut = !settings.kept.abut) },
    { name: 'Vertex snap, on or off', run: () => (settings.kept.vertex = !settings.kept.vertex) },
    { name: 'Sockets click together, on or off', run: () => (settings.kept.sockets = !settings.kept.sockets) },
    { name: 'Draw a chain of pieces', key: 'k', run: inBench('kit', drawChain) },
    { name: 'Sockets of the part …', run: () => (sockets.partId = partPicked()), can: () => partPicked() !== null },
    { name: 'Face a point or a thing …', run: () => shaping.face('towards'), can: somePicked },
    { name: 'Face away from a surface …', run: () => shaping.face('away'), can: somePicked },
    { name: 'Reset turn …', run: () => (baking.bakeQuestion = { what: 'reset-turn' }), can: somePicked },
    { name: 'Reset size …', run: () => (baking.bakeQuestion = { what: 'reset-size' }), can: somePicked },
    { name: 'Bake size or turn into the shape …', run: () => (baking.bakeQuestion = { what: 'both' }), can: somePicked },
    { name: 'Copy', key: 'Ctrl+c', byBrowser: true, run: () => void clipboard.copyPicked(), can: somePicked },
    { name: 'Cut', key: 'Ctrl+x', byBrowser: true, run: () => void clipboard.cutPicked(), can: somePicked },
    { name: 'Paste under the pointer', key: 'Ctrl+v', byBrowser: true, run: () => void clipboard.paste('pointer') },
    { name: 'Paste exactly where it was', key: 'Ctrl+Shift+v', run: () => void clipboard.paste('same') },
    { name: 'Copy the transform', key: 'Ctrl+Alt+c', run: shaping.copyTransform, can: somePicked },
    { name: 'Paste the transform', key: 'Ctrl+Alt+v', run: shaping.pasteTransform, can: () => somePicked() && shaping.copied !== null },
    { name: 'Duplicate', key: 'Ctrl+d', run: () => void duplicating.duplicatePicked(), can: somePicked },
    { name: 'Duplicate again, the same step on', key: 'Ctrl+Shift+d', run: () => void duplicating.duplicateAgain(), can: () => somePicked() || duplicating.canRepeat() },
    { name: 'Make independent', run: () => void duplicating.makeIndependent(), can: somePicked },
    { name: 'Make instances of …', run: () => void duplicating.makeInstanceOf(), can: somePicked },
    { name: 'Save as a part …', key: 'Ctrl+Alt+p', run: making.ask, can: somePicked },
    { name: 'Edit the part', key: 'Ctrl+Alt+e', run: openPicked, can: () => partPicked() !== null },
    { name: 'Done with the part', run: () => void workshop.finish(), can: () => workshop.partId !== null },
    { name: 'Leave the part as it was', run: () => void workshop.dismiss(), can: () => workshop.partId !== null },
    { name: 'Swap for another part …', key: 'Ctrl+Alt+s', run: inBench('kit', swapping.start) },
    { name: 'Swap places', run: edits.swapPicked, can: () => level.selection.ids.size > 1 },
    { name: 'Repeat', run: () => openBench('repeat') },
    { name: 'Draw blocks', run: () => openBench('blocks') },
    { name: 'Line up', run: () => openBench('line-up') },
    ...MEASURE_TASKS.map((task): Action => ({ name: `Measure: ${TASK_NAMES[task].name.toLowerCase()}`, key: task === 'tape' ? 'u' : undefined, run: inBench('measure', () => measuring.start(task)) })),
    { name: 'Show or hide all measures', run: () => (settings.kept.show.measures = !settings.kept.show.measures) },
    { name: 'Sizes of what is picked on the stage, or not', key: 'Shift+u', run: () => (settings.kept.show.sizes = settings.kept.show.sizes === 'off' ? 'own' : 'off') },
    { name: 'Check the level', run: () => openBench('check') },
    { name: 'Look at what is picked', key: 'l', run: session.lookAtSelection },
    { name: 'Look at everything', key: 'Shift+l', run: session.lookAtAll },
    { name: 'Look from the front', run: look(0, 0, 1) },
    { name: 'Look from the back', run: look(0, 0, -1) },
    { name: 'Look from the left', run: look(-1, 0, 0) },
    { name: 'Look from the right', run: look(1, 0, 0) },
    { name: 'Look from above', run: look(0, 1, 0) },
    { name: 'Look from below', run: look(0, -1, 0) },
    { name: 'Look from 45 degrees above', run: look(0.5, Math.SQRT1_2, 0.5) },
    { name: 'Walkaround', key: '6', run: () => session.changePane({ kind: 'walkaround' }) },
    { name: 'Plan', key: '7', run: () => session.changePane({ kind: 'plan' }) },
    { name: 'Front', key: '8', run: () => session.changePane({ kind: 'front' }) },
    { name: 'Side', key: '9', run: () => session.changePane({ kind: 'side' }) },
    { name: 'Four panes, or the one under the pointer', key: '5', run: session.toggleFull },
    { name: 'Two panes', run: () => session.setLayout('two') },
    { name: 'Clear view', key: '\\', run: () => (session.cleared = !session.cleared) },
    { name: 'Show or put away the bench', run: () => (settings.kept.showBench = !settings.kept.showBench) },
    { name: 'Show or put away the roster', run: () => (settings.kept.showRoster = !settings.kept.showRoster) },
    { name: 'Show or put away the ledger', run: () => (settings.kept.showLedger = !settings.kept.showLedger) },
    { name: 'Next thing under the pointer', key: ';', run: () => session.input?.hoverNext() },
    { name: 'Pick everything', key: 'Ctrl+a', run: () => level.pick([...level.view.placements()].filter(({ id, kind }) => kind !== 'group' && tools.canPick(id) && !level.view.isHidden(id)).map(({ id }) => id)) },
    { name: 'Pick all instances of the same part', run: edits.pickInstances, can: somePicked },
    { name: 'Pick similar …', run: () => (panels.similarOpen = true), can: somePicked },
    { name: 'Group', key: 'Ctrl+g', run: edits.groupPicked, can: somePicked },
    { name: 'Ungroup', key: 'Ctrl+Shift+g', run: edits.ungroupPicked, can: somePicked },
    { name: 'Hide', run: () => edits.setHidden(true), can: somePicked },
    { name: 'Show everything hidden', run: edits.showEverything },
    { name: 'Lock', run: () => edits.setLocked(true), can: somePicked },
    { name: 'Unlock everything', run: edits.unlockEverything },
    { name: 'Show only what is picked, and back', key: 'i', run: edits.toggleShowOnly },
    { name: 'Rename', key: 'F2', run: () => panels.rename(level.selection.ids.size), can: somePicked },
    { name: 'Remove', key: 'Delete', run: () => repeating.removePointUnderPointer() || edits.removePicked(), can: somePicked },
    { name: 'Add a layer', run: edits.addLayer },
    { name: 'Place a camera at this view', run: marking.cameraHere },
    ...MARK_TASKS.map((task): Action => ({ name: `Put down: ${MARK_NAMES[task].name.toLowerCase()}`, run: inBench('cameras', () => marking.start(task)) })),
    { name: 'Draw a walking line', run: inBench('cameras', () => marking.start('walk')) },
    { name: 'Cameras, lights and markers', run: () => openBench('cameras') },
    { name: 'Walk through from this view', key: 'w', run: inBench('cameras', walking.fromView) },
    { name: 'Let what is picked settle', run: () => { openBench('settle'); settling.settle() }, can: somePicked },
    { name: 'Picture strip', key: 'o', run: () => (cameras.showStrip = !cameras.showStrip) },
    { name: 'Play the cut list', run: cameras.play },
    { name: 'Look through the next camera', run: () => cameras.step(1) },
    { name: 'Look through the camera before', run: () => cameras.step(-1) },
    { name: 'Next station', run: () => stations.step(1) },
    { name: 'Previous station', run: () => stations.step(-1) },
    { name: 'Halve the grid step', key: '[', run: () => (settings.kept.steps.grid.size /= 2) },
    { name: 'Double the grid step', key: ']', run: () => (settings.kept.steps.grid.size *= 2) },
    { name: 'Undo', key: 'Ctrl+z', run: modes.undo, can: () => modes.undoable !== null },
    { name: 'Redo', key: 'Ctrl+Shift+z', run: level.redo, can: () => level.redoSteps.length > 0 },
    { name: 'Day board or Night board', run: () => (settings.kept.board = settings.kept.board === 'day' ? 'night' : 'day') },
  ]
  return { actions, possible: () => actions.filter(action => action.can?.() ?? true) }
}
