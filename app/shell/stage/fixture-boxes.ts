import type { ScreenBox } from '~/stage/label-place'

/** Where bars, figures and the compass lie on the stage, in its pixels. They do not move while a drag lasts. */
export const fixtureBoxes = (stage: Element): ScreenBox[] =>
  [...stage.querySelectorAll('[data-fixture]')].map(of => boxWithin(stage, of))

/** Where something lies on the stage. */
export function boxWithin(stage: Element, of: Element): ScreenBox {
  const [origin, { left, top, right, bottom }] = [stage.getBoundingClientRect(), of.getBoundingClientRect()]
  return { left: left - origin.left, top: top - origin.top, right: right - origin.left, bottom: bottom - origin.top }
}
