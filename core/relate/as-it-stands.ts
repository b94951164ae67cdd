import { Vector3 } from 'three'
import { isRuleInBounds } from '../level/relation'
import type { Finder } from '../scene/finder'
import type { LevelView } from '../scene/level-view'
import type { Offer } from './definition'
import { givenOf } from './definition'
import { definitionOf } from './kinds'
import { missOf } from './miss'
import { Standing } from './standing'
import { onOffers } from './suggest'

/** Metres off by which something still counts as standing where it is kept. */
const OFF = 1e-6

/**
 * A relation as its thing stands now: resting on what is below by now, at another distance or gap; null if it makes no
 * sense there. What it asks of the turn and the size it goes on asking.
 */
export function asItStands(level: LevelView, finder: Finder, offer: Offer): Offer | null {
  const { rule, held, holders } = offer
  if (!level.has(held)) return null
  if (rule.kind === 'on') {
    const [found] = onOffers(level, finder, held, rule)
    const isOther = found && found.holders[0]!.on !== holders[0]!.on
    return found && found.rule.kind === 'on' && !(rule.stays && isOther)
      ? { ...found, rule: { ...found.rule, stays: rule.stays } }
      : null
  }
  const standing = new Standing(level, [])
  if (missOf(standing, finder, offer) === null) return null
  const moved = new Vector3(1, 1, 1)
  const adopted = definitionOf(rule).adopt(givenOf(standing, finder, offer), { moved, isTurned: false, isSized: false })
  if (adopted === 'let go' || (adopted.rule && !isRuleInBounds(adopted.rule))) return null
  const next = { ...offer, ...adopted }
  const miss = missOf(standing, finder, next)
  return miss && miss.metres <= OFF ? next : null
}
