import { z } from 'zod'

/** What can be done to the view by dragging over the stage. */
export const VIEW_GESTURES = {
  orbit: 'Orbit',
  pan: 'Pan',
  zoom: 'Zoom',
  fly: 'Look around and fly',
} as const
export type ViewGesture = keyof typeof VIEW_GESTURES
export const VIEW_GESTURE_NAMES = Object.keys(VIEW_GESTURES) as ViewGesture[]

/** A button of a pointing device with the keys held, such as `Alt+Shift+left`. */
export type ButtonChord = string

const BUTTONS = ['left', 'middle', 'right', 'back', 'forward', 'eraser'] as const
const CHORD = new RegExp(`^(?:Ctrl\\+)?(?:Alt\\+)?(?:Shift\\+)?(?:${BUTTONS.join('|')})$`)
const chords = z.array(z.string().regex(CHORD, 'is no button')).max(4)
const speed = (first: number) => z.number().min(0.1).max(10).catch(first)

/** How the pointing device of somebody steers the view. */
export const pointingSchema = z.object({
  orbit: chords.catch(['Alt+left']),
  pan: chords.catch(['middle', 'Alt+Shift+left']),
  zoom: chords.catch([]),
  fly: chords.catch(['right', 'Shift+right']),
  /** What two fingers on a trackpad, or the wheel, do; with a pinch they always zoom. */
  wheel: z.enum(['zoom', 'pan']).catch('zoom'),
  /** What two fingers on the stage do together; three do the other. */
  fingers: z.enum(['pan', 'orbit']).catch('pan'),
  /** The wheel the other way round. */
  wheelTurned: z.boolean().catch(false),
  /** Up and down the other way round while looking around. */
  lookTurned: z.boolean().catch(false),
  zoomAt: z.enum(['pointer', 'middle']).catch('pointer'),
  /** Of ours. */
  orbitSpeed: speed(1),
  zoomSpeed: speed(1),
  /** Seconds for which the view goes on after it was steered; 0 for not at all. */
  goesOn: z.number().min(0).max(3).catch(0),
})
export type Pointing = z.output<typeof pointingSchema>

const ORDINARY = {
  zoom: [],
  wheel: 'zoom',
  fingers: 'pan',
  wheelTurned: false,
  lookTurned: false,
  zoomAt: 'pointer',
  orbitSpeed: 1,
  zoomSpeed: 1,
  goesOn: 0,
} satisfies Partial<Pointing>

/** To begin with, for what one has at hand. A click with the right button, without a drag, is the menu in all. */
export const POINTING_SETS = {
  'three-button mouse': {
    ...ORDINARY,
    orbit: ['Alt+left'],
    pan: ['middle', 'Alt+Shift+left'],
    fly: ['right', 'Shift+right'],
  },
  'two-button mouse': {
    ...ORDINARY,
    orbit: ['Alt+left'],
    pan: ['Alt+Shift+left', 'Shift+right'],
    zoom: ['Alt+right'],
    fly: ['right'],
  },
  'trackpad': {
    ...ORDINARY,
    orbit: ['Alt+left'],
    pan: ['Alt+Shift+left'],
    fly: ['right', 'Shift+right'],
    wheel: 'pan',
  },
  // A pen's barrel button is the right one; it has no wheel.
  'pen': { ...ORDINARY, orbit: ['right'], pan: ['Shift+right'], zoom: ['Alt+right'], fly: ['Alt+Shift+right'] },
} as const satisfies Record<string, Record<keyof Pointing, unknown>>
export type PointingSet = keyof typeof POINTING_SETS

/** A set as it is at first, to be changed. */
export const pointingOf = (set: PointingSet): Pointing => pointingSchema.parse(structuredClone(POINTING_SETS[set]))

/** Which of the sets this is; null for one of somebody's own. */
export const setOf = (pointing: Pointing): PointingSet | null =>
  (Object.keys(POINTING_SETS) as PointingSet[]).find(
    set => JSON.stringify(pointingOf(set)) === JSON.stringify(pointingSchema.parse(pointing)),
  ) ?? null

type Pressed = Pick<MouseEvent, 'button' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>

/** The chord of a press; null for a button that has no name here. */
export function buttonChordOf(event: Pressed): ButtonChord | null {
  const button = BUTTONS[event.button]
  if (button === undefined) return null
  return [
    ...(event.ctrlKey || event.metaKey ? ['Ctrl'] : []),
    ...(event.altKey ? ['Alt'] : []),
    ...(event.shiftKey ? ['Shift'] : []),
    button,
  ].join('+')
}

/** What a press does to the view; null if it is for what is on the stage. */
export function viewGestureOf(pointing: Pointing, event: Pressed): ViewGesture | null {
  const chord = buttonChordOf(event)
  return chord === null ? null : (VIEW_GESTURE_NAMES.find(gesture => pointing[gesture].includes(chord)) ?? null)
}

/** What is wrong with a button for a gesture; null if it can be that. */
export function whyNotButton(pointing: Pointing, gesture: ViewGesture, chord: ButtonChord): string | null {
  if (chord === 'left' || chord === 'Shift+left' || chord === 'Ctrl+left')
    return 'The left button picks and drags; with Alt it can be something else.'
  const other = VIEW_GESTURE_NAMES.find(each => each !== gesture && pointing[each].includes(chord))
  return other ? `That is “${VIEW_GESTURES[other]}” already.` : null
}

/** A press as it is shown: `Alt Shift left button`. */
export const buttonLabel = (chord: ButtonChord): string =>
  chord === 'eraser' || chord.endsWith('+eraser') ? chord.replaceAll('+', ' ') : `${chord.replaceAll('+', ' ')} button`
