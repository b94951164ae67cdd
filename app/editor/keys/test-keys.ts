import type { KeyPress } from '../tools/gesture'
import type { KeyEvent } from './chord'
import type { StageUse } from './stage-uses'

/** A key that is pressed, as a browser tells it, for tests. @param held modifiers */
export function keyDown(key: string, ...held: string[]): KeyEvent {
  return {
    key,
    code: /^[a-z]$/i.test(key) ? `Key${key.toUpperCase()}` : '',
    ctrlKey: held.includes('Control'),
    metaKey: held.includes('Meta'),
    altKey: held.includes('Alt'),
    shiftKey: held.includes('Shift'),
    getModifierState: modifier => held.includes(modifier),
  }
}

/** A key that means this, pressed or let go, for tests; without a use one that means nothing. */
export const keyFor = (use?: StageUse, down = true): KeyPress => ({
  is: asked => asked === use,
  isOnPage: asked => asked === use,
  down,
})
