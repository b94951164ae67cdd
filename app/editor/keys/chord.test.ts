import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { KeyEvent } from './chord'
import { byPlace, chordOf, keyLabel, partsOf, ReadyChord } from './chord'

/** A key as a browser tells it. */
function press(key: string, code: string, ...held: string[]): KeyEvent {
  return {
    key,
    code,
    ctrlKey: held.includes('Control'),
    metaKey: held.includes('Meta'),
    altKey: held.includes('Alt'),
    shiftKey: held.includes('Shift'),
    getModifierState: modifier => held.includes(modifier),
  }
}
const is = (
  chord: string,
  event: KeyEvent,
  by: 'letter' | 'place' = 'letter',
  exactness: 'exact' | 'loose' = 'exact',
) => new ReadyChord(chord, exactness).isPressed(event, by)

describe('a chord', () => {
  it.each([
    ['Ctrl+z', press('z', 'KeyZ', 'Control')],
    ['Ctrl+z', press('z', 'KeyZ', 'Meta')],
    ['Ctrl+Shift+z', press('Z', 'KeyZ', 'Control', 'Shift')],
    ['Shift+l', press('L', 'KeyL', 'Shift')],
    ['Escape', press('Escape', 'Escape')],
    ['?', press('?', 'Slash', 'Shift')],
    ['Shift+ArrowUp', press('ArrowUp', 'ArrowUp', 'Shift')],
    ['Shift+Space', press(' ', 'Space', 'Shift')],
    ['+', press('+', 'Equal', 'Shift')],
    ['Ctrl++', press('+', 'Equal', 'Shift', 'Control')],
    ['[', press('[', 'Digit8', 'Control', 'Alt', 'AltGraph')],
  ])('%s is what is pressed', (chord, event) => expect(chordOf(event, 'letter')).toBe(chord))

  it('is none of a modifier alone, or of what is not known', () => {
    for (const key of ['Shift', 'Control', 'Alt', 'Meta', 'AltGraph', 'Dead', 'Unidentified'])
      expect(chordOf(press(key, 'ShiftLeft'), 'letter')).toBeNull()
  })

  it('by place says where a key lies, whatever it writes', () => {
    expect(chordOf(press('а', 'KeyF', 'Shift'), 'place')).toBe('Shift+KeyF')
    expect(chordOf(press('!', 'Digit1', 'Shift'), 'place')).toBe('Shift+Digit1')
    expect(chordOf(press('Escape', 'Escape'), 'place')).toBe('Escape')
    expect([byPlace('Ctrl+z'), byPlace('?'), byPlace('['), byPlace('7'), byPlace('F2')]).toEqual([
      'Ctrl+KeyZ',
      'Shift+Slash',
      'BracketLeft',
      'Digit7',
      'F2',
    ])
  })

  it('means its own modifiers and no others, but those that a keyboard needs to write it', () => {
    expect(is('z', press('z', 'KeyZ'))).toBe(true)
    for (const held of ['Control', 'Alt', 'Shift']) expect(is('z', press('z', 'KeyZ', held))).toBe(false)
    expect(is('Ctrl+z', press('z', 'KeyZ'))).toBe(false)
    // A German keyboard, from memory: [ by the right Alt and 8, / by Shift and 7; on a French one 6 by Shift.
    expect(is('[', press('[', 'Digit8', 'AltGraph'))).toBe(true)
    expect(is('/', press('/', 'Digit7', 'Shift'))).toBe(true)
    expect(is('6', press('6', 'Digit6', 'Shift'))).toBe(true)
    expect(is(',', press(',', 'Comma', 'Alt'))).toBe(false)
    expect(is('Alt+,', press(',', 'Comma', 'Alt'))).toBe(true)
  })

  it('follows the letter on keyboards that lie otherwise, or the place', () => {
    // A French keyboard, from memory: Z lies where W is on an English one.
    const frenchZ = press('z', 'KeyW', 'Control')
    expect([is('Ctrl+z', frenchZ), is('Ctrl+z', frenchZ, 'place'), is('Ctrl+w', frenchZ, 'place')]).toEqual([
      true,
      false,
      true,
    ])
    // A Greek one writes no Latin letters: there the place is meant.
    expect(is('m', press('μ', 'KeyM'))).toBe(true)
    expect(is('KeyW', press('z', 'KeyW'))).toBe(true)
    expect([is('?', press('_', 'Slash', 'Shift'), 'place'), is('/', press('_', 'Slash', 'Shift'), 'place')]).toEqual([
      true,
      false,
    ])
  })

  it('is heard besides the modifiers of a drag, if it is meant loosely', () => {
    expect(is('KeyV', press('v', 'KeyV', 'Control', 'Shift'), 'letter', 'loose')).toBe(true)
    expect(is('Shift+Digit1', press('1', 'Digit1', 'Control'), 'letter', 'loose')).toBe(false)
  })

  it('that was pressed is the one that is heard, by letter and by place', () => {
    const letters = fc.constantFrom(...'abcdefghijklmnopqrstuvwxyz')
    const held = fc.subarray(['Control', 'Alt', 'Shift'])
    fc.assert(
      fc.property(letters, held, fc.constantFrom('letter' as const, 'place' as const), (letter, modifiers, by) => {
        const isShift = modifiers.includes('Shift')
        const event = press(isShift ? letter.toUpperCase() : letter, `Key${letter.toUpperCase()}`, ...modifiers)
        const chord = chordOf(event, by)!
        expect(is(chord, event, by)).toBe(true)
        const { modifiers: named, key } = partsOf(chord)
        expect([...named, key].join('+')).toBe(chord)
      }),
    )
  })

  it('is shown as the keyboard writes it, where that is known', () => {
    expect(keyLabel('Ctrl+Shift+z')).toBe('Ctrl Shift Z')
    expect([keyLabel('KeyW'), keyLabel('Shift+Digit1'), keyLabel('Numpad1'), keyLabel('BracketLeft')]).toEqual([
      'W',
      'Shift 1',
      'Num 1',
      '[',
    ])
    expect(keyLabel('KeyW', new Map([['KeyW', 'z']]))).toBe('Z')
    expect([keyLabel('Ctrl++'), keyLabel('+'), keyLabel('Alt+ArrowUp')]).toEqual(['Ctrl +', '+', 'Alt ↑'])
  })
})
