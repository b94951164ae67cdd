import { describe, expect, it } from 'vitest'
import { readSettings } from '../settings-schema'
import type { PointingSet } from './pointing'
import {
  buttonChordOf,
  buttonLabel,
  POINTING_SETS,
  pointingOf,
  setOf,
  VIEW_GESTURE_NAMES,
  viewGestureOf,
  whyNotButton,
} from './pointing'

const NAMES = Object.keys(POINTING_SETS) as PointingSet[]
const press = (button: number, ...held: ('ctrl' | 'alt' | 'shift')[]) => ({
  button,
  ctrlKey: held.includes('ctrl'),
  metaKey: false,
  altKey: held.includes('alt'),
  shiftKey: held.includes('shift'),
})

describe('pointing devices', () => {
  it.each(NAMES)('%s: no press means two things, none is taken from picking, and it is itself', name => {
    const pointing = pointingOf(name)
    const all = VIEW_GESTURE_NAMES.flatMap(gesture => pointing[gesture])
    expect(new Set(all).size).toBe(all.length)
    for (const gesture of VIEW_GESTURE_NAMES)
      for (const chord of pointing[gesture]) expect(whyNotButton(pointing, gesture, chord), chord).toBeNull()
    expect(setOf(pointing)).toBe(name)
    expect(setOf({ ...pointing, orbitSpeed: 2 })).toBeNull()
    // Whoever has it can orbit, pan and look around.
    expect([pointing.orbit.length, pointing.pan.length, pointing.fly.length].every(count => count > 0)).toBe(true)
  })

  it('mean by each press what their table says, and nothing by the others', () => {
    const mouse = pointingOf('three-button mouse')
    expect(
      [press(0, 'alt'), press(1), press(0, 'alt', 'shift'), press(2)].map(each => viewGestureOf(mouse, each)),
    ).toEqual(['orbit', 'pan', 'pan', 'fly'])
    expect(
      [press(0), press(0, 'shift'), press(0, 'ctrl'), press(2, 'alt'), press(7)].map(each =>
        viewGestureOf(mouse, each),
      ),
    ).toEqual([null, null, null, null, null])
    expect(viewGestureOf(pointingOf('pen'), press(2))).toBe('orbit')
  })

  it('do not take the plain left button, nor what means something else', () => {
    const mouse = pointingOf('three-button mouse')
    expect(whyNotButton(mouse, 'orbit', 'left')).toContain('picks and drags')
    expect(whyNotButton(mouse, 'orbit', 'middle')).toBe('That is “Pan” already.')
    expect(whyNotButton(mouse, 'zoom', 'Ctrl+middle')).toBeNull()
    expect(buttonChordOf(press(7))).toBeNull()
    expect([buttonChordOf(press(3, 'ctrl', 'shift')), buttonLabel('Alt+Shift+left')]).toEqual([
      'Ctrl+Shift+back',
      'Alt Shift left button',
    ])
  })

  it('that were kept and are broken are ours, each by itself', () => {
    expect(setOf(readSettings({}).pointing)).toBe('three-button mouse')
    const kept = readSettings({ pointing: { ...pointingOf('trackpad'), orbit: ['nose'], zoomSpeed: 1e9 } }).pointing
    expect([kept.orbit, kept.zoomSpeed, kept.wheel]).toEqual([['Alt+left'], 1, 'pan'])
  })
})
