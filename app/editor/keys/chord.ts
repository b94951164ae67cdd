import type { KeyBindingPress } from 'tinykeys'
import { matchKeyBindingPress, parseKeybinding } from 'tinykeys'

/**
 * A key with its modifiers: by what it writes, such as `Ctrl+Shift+z`, `[` or `Escape`, or by its place on the
 * keyboard, such as `KeyW` or `Shift+Digit1`. Letters are lower case; Shift is named only with letters, places and
 * named keys, for on others it already shows in the character. Command counts as Ctrl where there is one.
 */
export type Chord = string

/** Whether keys mean what they write or where they lie. */
export type KeysBy = 'letter' | 'place'

export type KeyEvent = Pick<
  KeyboardEvent,
  'key' | 'code' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey' | 'getModifierState'
>

const MODIFIERS: ReadonlySet<string> = new Set(['Control', 'Meta', 'Alt', 'AltGraph', 'Shift'])
const LETTER = /^\p{L}$/u

/** Where characters that are no letters lie on a keyboard with English letters, without and with Shift. */
const PLACES: Readonly<Record<string, string>> = {
  '`': 'Backquote',
  '-': 'Minus',
  '=': 'Equal',
  '[': 'BracketLeft',
  ']': 'BracketRight',
  '\\': 'Backslash',
  ';': 'Semicolon',
  "'": 'Quote',
  ',': 'Comma',
  '.': 'Period',
  '/': 'Slash',
}
const SHIFTED: Readonly<Record<string, string>> = {
  '?': '/',
  '<': ',',
  '>': '.',
  ':': ';',
  '"': "'",
  '+': '=',
  '_': '-',
}

/** The modifiers and the key. */
export function partsOf(chord: Chord): { modifiers: string[]; key: string } {
  const key = /(?:^|\+)(\+|[^+]+)$/.exec(chord)![1]!
  return { modifiers: chord.slice(0, -key.length).split('+').filter(Boolean), key }
}

/** Whether a text is a chord as it is written here. */
export const isChord = (text: string): boolean =>
  /^(?:Ctrl\+)?(?:Alt\+)?(?:Shift\+)?(?:[^\s\p{C}]|[A-Z][A-Za-z0-9]+)$/u.test(text)

const joined = (modifiers: readonly string[], key: string): Chord => [...modifiers, key].join('+')

/** The chord of a key that is pressed; null for a modifier alone, or a key that the browser does not know. */
export function chordOf(event: KeyEvent, by: KeysBy): Chord | null {
  const { key, code } = event
  if (MODIFIERS.has(key) || key === 'Dead' || key === 'Unidentified') return null
  const isLetter = LETTER.test(key)
  const isByPlace = by === 'place' && PLACE.test(code)
  const isShiftNamed = isByPlace || isLetter || key.length > 1 || key === ' '
  // Some systems tell the right Alt as Ctrl and Alt.
  const isWritten = event.getModifierState('AltGraph')
  const modifiers = [
    ...((event.ctrlKey || event.metaKey) && !isWritten ? ['Ctrl'] : []),
    ...(event.altKey && !isWritten ? ['Alt'] : []),
    ...(event.shiftKey && isShiftNamed ? ['Shift'] : []),
  ]
  return joined(modifiers, isByPlace ? code : key === ' ' ? 'Space' : isLetter ? key.toLowerCase() : key)
}

/** Keys that write something, by their places. */
const PLACE =
  /^(Key[A-Z]|Digit\d|Numpad\w+|Backquote|Minus|Equal|Bracket(?:Left|Right)|Backslash|Semicolon|Quote|Comma|Period|Slash|IntlBackslash)$/

/** The same by the place where it lies with English letters; what has no such place as it is. */
export function byPlace(chord: Chord): Chord {
  const { modifiers, key } = partsOf(chord)
  const plain = SHIFTED[key] ?? key
  const place = /^[a-z]$/.test(plain)
    ? `Key${plain.toUpperCase()}`
    : /^\d$/.test(plain)
      ? `Digit${plain}`
      : PLACES[plain]
  if (place === undefined) return chord
  return joined(plain === key ? modifiers : [...modifiers, 'Shift'], place)
}

/** How exactly modifiers are meant: `loose`: others may be held besides, as those of a drag. */
export type Exactness = 'exact' | 'loose'

/** A chord made ready to be compared with keys. */
export class ReadyChord {
  private readonly press: KeyBindingPress
  private readonly placed: KeyBindingPress
  /** Modifiers that may be held or not. */
  private readonly besides: ReadonlySet<string>
  private readonly isCharacter: boolean
  /** How many modifiers have to be held: of two that are pressed the one with more is meant. */
  readonly modifiers: number

  constructor(
    readonly chord: Chord,
    exactness: Exactness,
  ) {
    const { modifiers, key } = partsOf(chord)
    this.press = pressOf(chord)
    this.placed = pressOf(byPlace(chord))
    this.isCharacter = key.length === 1 && !LETTER.test(key)
    const free = exactness === 'loose' ? ['Control', 'Meta', 'Alt', 'Shift'] : this.isCharacter ? ['Shift'] : []
    this.besides = new Set(free.filter(one => !modifiers.includes(one === 'Control' || one === 'Meta' ? 'Ctrl' : one)))
    this.modifiers = modifiers.length
  }

  /** Where a keyboard writes no Latin letters, places are meant whatever is chosen. */
  isPressed(event: KeyEvent, by: KeysBy): boolean {
    const isForeign = LETTER.test(event.key) && !/^\p{Script=Latin}$/u.test(event.key)
    const isPlaced = by === 'place' || isForeign
    // A character may need Shift or the right Alt, which some systems tell as Ctrl and Alt, to be written.
    const isWritten = this.isCharacter && !isPlaced && event.getModifierState('AltGraph')
    const getModifierState = (modifier: string) =>
      !(isWritten && WRITING.has(modifier))
      && !(this.besides.has(modifier) && !(isPlaced && modifier === 'Shift' && this.isCharacter))
      && event.getModifierState(modifier)
    return matchKeyBindingPress(
      { key: event.key, code: event.code, getModifierState } as KeyboardEvent,
      isPlaced ? this.placed : this.press,
    )
  }
}

const WRITING: ReadonlySet<string> = new Set(['AltGraph', 'Alt', 'Control'])

const pressOf = (chord: Chord): KeyBindingPress => {
  const { modifiers, key } = partsOf(chord)
  return parseKeybinding([...modifiers.map(each => (each === 'Ctrl' ? '$mod' : each)), key].join('+'))[0]!
}

const NAMES: Readonly<Record<string, string>> = {
  ArrowRight: '→',
  ArrowLeft: '←',
  ArrowUp: '↑',
  ArrowDown: '↓',
  PageUp: 'Page Up',
  PageDown: 'Page Down',
  Escape: 'Esc',
  ...Object.fromEntries(Object.entries(PLACES).map(([character, place]) => [place, character])),
}

/**
 * A chord as it is shown: `Ctrl Shift Z` for `Ctrl+Shift+z`.
 *
 * @param written what keys write on this keyboard, by their places, where that is known
 */
export function keyLabel(chord: Chord, written?: ReadonlyMap<string, string>): string {
  const { modifiers, key } = partsOf(chord)
  const named =
    written?.get(key) ?? NAMES[key] ?? key.replace(/^(?:Key|Digit)(?=.$)/, '').replace(/^Numpad(?=.)/, 'Num ')
  return [...modifiers, LETTER.test(named) ? named.toUpperCase() : named].join(' ')
}
