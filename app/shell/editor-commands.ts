import { Vector3 } from 'three'
import { useClipboard } from '~/editor/clipboard'
import type { Command, CommandGroup } from '~/editor/commands'
import { useEdits } from '~/editor/edits'
import { useLevel } from '~/editor/level'
import { useContextMenu } from '~/editor/menu/context-menu'
import { ON_PICKED, ON_THINGS } from '~/editor/menu/menu-places'
import { useModes } from '~/editor/modes'
import { usePanels } from '~/editor/panels'
import { useSettings } from '~/editor/settings'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { useChosenLink } from '~/features/line-up/chosen-link'
import { useRepeating } from '~/features/repeat/repeating'
import { useStations } from './stage/use-stations'

const some = () => {
  const { somePicked } = useEdits()
  return somePicked
}

/** What can be done by key or name that belongs to no feature. */
export function editorCommands(): CommandGroup[] {
  return [
    { group: 'Picking and things', commands: [...pickCommands(), ...treeCommands()] },
    { group: 'The way back, and the clipboard', commands: [...modeCommands(), ...clipboardCommands()] },
    { group: 'View', commands: viewCommands() },
    { group: 'The page', commands: panelCommands() },
  ]
}

function modeCommands(): Command[] {
  const [modes, level] = [useModes(), useLevel()]
  return [
    { name: 'Back to plain picking', key: 'Escape', ends: true, run: modes.escape },
    { name: 'Undo', key: 'Ctrl+z', run: modes.undo, can: () => modes.undoable !== null },
    { name: 'Redo', key: 'Ctrl+Shift+z', also: ['Ctrl+y'], run: level.redo, can: () => level.redoSteps.length > 0 },
  ]
}

function clipboardCommands(): Command[] {
  const [clipboard, somePicked] = [useClipboard(), some()]
  return [
    {
      name: 'Copy',
      key: 'Ctrl+c',
      byBrowser: true,
      run: () => void clipboard.copyPicked(),
      can: somePicked,
      on: ON_PICKED,
    },
    {
      name: 'Cut',
      key: 'Ctrl+x',
      byBrowser: true,
      run: () => void clipboard.cutPicked(),
      can: somePicked,
      on: ON_PICKED,
    },
    {
      name: 'Paste under the pointer',
      key: 'Ctrl+v',
      byBrowser: true,
      run: () => void clipboard.paste('pointer'),
      on: ['thing', 'ground'],
    },
    {
      name: 'Paste exactly where it was',
      key: 'Ctrl+Shift+v',
      run: () => void clipboard.paste('same'),
      on: ['ground'],
    },
  ]
}

function viewCommands(): Command[] {
  const [session, stations] = [useStageSession(), useStations()]
  const look = (x: number, y: number, z: number) => () => {
    session.changePane({ kind: 'walkaround' })
    session.stage?.view.lookFromDirection(new Vector3(x, y, z))
  }
  return [
    { name: 'Look at what is picked', key: 'l', run: session.lookAtSelection, on: ON_PICKED },
    { name: 'Look at everything', key: 'Shift+l', run: session.lookAtAll, on: ['ground'] },
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
    { name: 'Next station', run: () => stations.step(1) },
    { name: 'Previous station', run: () => stations.step(-1) },
  ]
}

function pickCommands(): Command[] {
  const [level, edits, panels, session, tools, somePicked] = [
    useLevel(),
    useEdits(),
    usePanels(),
    useStageSession(),
    useTools(),
    some(),
  ]
  const pickable = () =>
    [...level.view.placements()].filter(
      ({ id, kind }) => kind !== 'group' && tools.canPick(id) && !level.view.isHidden(id),
    )
  return [
    { name: 'Next thing under the pointer', key: ';', run: () => session.input?.hoverNext() },
    { name: 'Pick everything', key: 'Ctrl+a', run: () => level.pick(pickable().map(({ id }) => id)), on: ['ground'] },
    { name: 'Pick all instances of the same part', run: edits.pickInstances, can: somePicked, on: ON_PICKED },
    { name: 'Pick similar …', run: () => (panels.similarOpen = true), can: somePicked, on: ON_PICKED },
  ]
}

function treeCommands(): Command[] {
  const [level, edits, panels, somePicked] = [useLevel(), useEdits(), usePanels(), some()]
  const [repeating, link] = [useRepeating(), useChosenLink()]
  return [
    { name: 'Swap places', run: edits.swapPicked, can: () => level.selection.ids.size > 1 },
    { name: 'Group', key: 'Ctrl+g', run: edits.groupPicked, can: somePicked, on: ON_THINGS },
    { name: 'Ungroup', key: 'Ctrl+Shift+g', run: edits.ungroupPicked, can: somePicked, on: ON_THINGS },
    { name: 'Hide', run: () => edits.setHidden(true), can: somePicked, on: ON_PICKED },
    { name: 'Show everything hidden', run: edits.showEverything, on: ['ground'] },
    { name: 'Lock', run: () => edits.setLocked(true), can: somePicked, on: ON_THINGS },
    { name: 'Unlock everything', run: edits.unlockEverything, on: ['ground'] },
    { name: 'Show only what is picked, and back', key: 'i', run: edits.toggleShowOnly, on: ON_THINGS },
    { name: 'Rename', key: 'F2', run: () => panels.rename(level.selection.ids.size), can: somePicked, on: ON_THINGS },
    {
      name: 'Remove',
      on: ON_PICKED,
      key: 'Delete',
      also: ['Backspace'],
      run: () => link.letGo() || repeating.removePointUnderPointer() || edits.removePicked(),
      can: somePicked,
    },
    { name: 'Add a layer', run: edits.addLayer, on: ['row'] },
  ]
}

function panelCommands(): Command[] {
  const [panels, session, menu] = [usePanels(), useStageSession(), useContextMenu()]
  const settings = useSettings()
  const { kept } = settings
  const toggle = (panel: 'showBench' | 'showRoster' | 'showLedger') => () => {
    settings.panels[panel] = !settings.panels[panel]
  }
  return [
    { name: 'Menu of what is picked', key: 'Shift+F10', also: ['ContextMenu'], run: menu.openByKey },
    { name: 'Find or do', key: '/', run: () => (panels.findOpen = true) },
    { name: 'Clear view', key: '\\', run: () => (session.cleared = !session.cleared) },
    { name: 'Show or put away the bench', key: 'Ctrl+Alt+Digit1', run: toggle('showBench') },
    { name: 'Show or put away the roster', key: 'Ctrl+Alt+Digit2', run: toggle('showRoster') },
    { name: 'Show or put away the ledger', key: 'Ctrl+Alt+Digit3', run: toggle('showLedger') },
    { name: 'Halve the grid step', key: '[', run: () => (kept.steps.grid.size /= 2) },
    { name: 'Double the grid step', key: ']', run: () => (kept.steps.grid.size *= 2) },
    { name: 'Day board or Night board', run: () => (kept.board = settings.board === 'day' ? 'night' : 'day') },
  ]
}
