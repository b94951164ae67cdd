import type { Constraint } from '~~/core/edit/handles/lock'
import type { WrittenAxes } from '~~/core/units/height'
import type { Chord } from './chord'

/** Where a key means something. What has the stage to itself hears its keys before the page does. */
export const KEY_PLACES = {
  page: 'anywhere but in a field',
  drag: 'while something is dragged',
  draw: 'while something is drawn or measured',
  brush: 'with the brush',
  fly: 'while the right button is held',
  walk: 'while walking through',
  list: 'in the roster',
  menu: 'in menus, and in find or do',
} as const
export type KeyPlace = keyof typeof KEY_PLACES

/** What a key does that is no action by name: it is heard by a gesture or a tool, or as long as it is held. */
export type KeyUse = {
  name: string
  /** What it belongs to, in a list of all. */
  group: string
  places: readonly KeyPlace[]
  /** Ours; nobody's keyboard is without them. */
  keys: readonly Chord[]
  /** The browser answers it by itself: it can be no other. */
  isFixed?: true
}

const STAGE = 'Dragging and drawing'
const FLYING = 'Flying and walking'
const lock = (name: string, ...keys: Chord[]): KeyUse => ({
  name,
  group: STAGE,
  places: ['page', 'drag', 'draw'],
  keys,
})
const across = (axis: string, digit: number) =>
  lock(`Lock out of ${axis}`, `Shift+Digit${digit}`, `Shift+Numpad${digit}`)
const along = (axis: string, digit: number) => lock(`Lock to ${axis}`, `Digit${digit}`, `Numpad${digit}`)
const dragged = (name: string, key: Chord): KeyUse => ({ name, group: STAGE, places: ['drag'], keys: [key] })
const drawn = (name: string, key: Chord): KeyUse => ({ name, group: STAGE, places: ['draw'], keys: [key] })
const brush = (name: string, ...keys: Chord[]): KeyUse => ({ name, group: 'Brush', places: ['brush'], keys })
const way = (name: string, place: 'fly' | 'walk', ...keys: Chord[]): KeyUse => ({
  name,
  group: FLYING,
  places: [place],
  keys,
})
const row = (name: string, ...keys: Chord[]): KeyUse => ({ name, group: 'Roster', places: ['list'], keys })
const inMenus = (name: string, key: Chord): KeyUse => ({ name, group: 'Menus', places: ['menu'], keys: [key] })

/** All of them, each by what its hearer calls it. */
export const STAGE_USES = {
  lockX: along('X', 1),
  lockY: along('Y', 2),
  lockZ: along('Z', 3),
  lockOutOfX: across('X', 1),
  lockOutOfY: across('Y', 2),
  lockOutOfZ: across('Z', 3),
  unlock: lock('No lock', 'Digit0', 'Numpad0'),
  vertex: { name: 'Vertex snap while held', group: STAGE, places: ['page', 'drag', 'draw'], keys: ['KeyN'] },
  type: { name: 'Type numbers instead', group: STAGE, places: ['drag', 'draw'], keys: ['='] },
  keep: dragged('Keep what the drag has caught', 'KeyK'),
  loose: dragged('Let go of what it is kept to, while held', 'KeyJ'),
  takeCamera: dragged('Take the camera along, while held', 'KeyV'),
  finish: drawn('Finish what is drawn', 'Enter'),
  takeBack: drawn('Take back the last point', 'Backspace'),
  brushSmaller: brush('Smaller brush', ','),
  brushLarger: brush('Larger brush', '.'),
  brushWeaker: brush('Weaker brush', '<', ';'),
  brushStronger: brush('Stronger brush', '>', ':'),
  flyForward: way('Fly forward', 'fly', 'KeyW'),
  flyBack: way('Fly back', 'fly', 'KeyS'),
  flyLeft: way('Fly to the left', 'fly', 'KeyA'),
  flyRight: way('Fly to the right', 'fly', 'KeyD'),
  flyUp: way('Fly up', 'fly', 'KeyE'),
  flyDown: way('Fly down', 'fly', 'KeyQ'),
  flySlowly: way('Fly slowly, while held', 'fly', 'Shift'),
  walkForward: way('Walk forward', 'walk', 'KeyW', 'ArrowUp'),
  walkBack: way('Walk back', 'walk', 'KeyS', 'ArrowDown'),
  walkLeft: way('Walk to the left', 'walk', 'KeyA', 'ArrowLeft'),
  walkRight: way('Walk to the right', 'walk', 'KeyD', 'ArrowRight'),
  run: way('Run, while held', 'walk', 'Shift'),
  crouch: way('Crouch, while held', 'walk', 'KeyC'),
  jump: way('Jump', 'walk', 'Space'),
  rowBelow: row('Row below', 'ArrowDown'),
  rowAbove: row('Row above', 'ArrowUp'),
  rowOpen: row('Open the row, or go into it', 'ArrowRight'),
  rowClose: row('Close the row, or go to what it is in', 'ArrowLeft'),
  rowFirst: row('First row', 'Home'),
  rowLast: row('Last row', 'End'),
  favourite: inMenus('Favourite, or none any more', 'Alt+s'),
  favouriteUp: inMenus('Favourite further up', 'Alt+ArrowUp'),
  favouriteDown: inMenus('Favourite further down', 'Alt+ArrowDown'),
  rowPick: row('Pick the row', 'Enter', 'Space'),
} as const satisfies Record<string, KeyUse>

export type StageUse = keyof typeof STAGE_USES

/** What a drag is locked to by which use, by the letters of axes as they are written. */
export const LOCKS: Partial<Record<StageUse, Constraint>> = {
  lockX: { kind: 'axis', axis: 0 },
  lockY: { kind: 'axis', axis: 1 },
  lockZ: { kind: 'axis', axis: 2 },
  lockOutOfX: { kind: 'plane', axis: 0 },
  lockOutOfY: { kind: 'plane', axis: 1 },
  lockOutOfZ: { kind: 'plane', axis: 2 },
  unlock: { kind: 'view' },
}

/** The lock that a key asks for, by what it means; null if it asks for none. */
export function lockOf(is: (use: StageUse) => boolean, axes: WrittenAxes): Constraint | null {
  const lock = (Object.keys(LOCKS) as StageUse[]).flatMap(use => (is(use) ? LOCKS[use]! : []))[0] ?? null
  return lock === null || lock.kind === 'view' ? lock : { ...lock, axis: axes.written(lock.axis) }
}

/** Uses by the groups that they are in, in the order of their first. */
export function groupsOf(uses: readonly KeyUse[]): { group: string; uses: readonly KeyUse[] }[] {
  const groups = new Map<string, KeyUse[]>()
  for (const use of uses) groups.set(use.group, [...(groups.get(use.group) ?? []), use])
  return [...groups].map(([group, some]) => ({ group, uses: some }))
}
