import { movePlacements } from '../../edit/handles/move'
import { Vector3 } from 'three'
import { dropOnto } from '../../mesh/overlap'
import type { CheckDefinition } from '../definition'
import { FixError } from '../definition'
import { dropOf, lowestOf } from '../drop'
import { heldTogether } from '../held-together'
import type { CheckSite } from '../site'

const DOWN = new Vector3(0, -1, 0)

/** Touches what stands, but only beside it: it would fall if it were let go. */
export const hanging: CheckDefinition<'gap' | 'below'> = {
  name: 'Hanging beside',
  severity: 'warning',
  explains:
    'Nothing is right below it, and what it touches is only beside it. What hangs from another in the roster, brings a light, is let into something, or is on a modular piece may do so.',
  limits: {
    gap: { label: 'Gap', first: 0.001, quantity: 'length', least: 0 },
    below: { label: 'Look down', first: 50, quantity: 'length', least: 0 },
  },
  looksAt: 'shown',
  byContact: true,
  find: (site, id, { gap, below }) => {
    if (site.isGround(id) || site.own(id).length === 0 || mayHang(site, id)) return []
    const whole = wholeAround(site, id)
    // Most things stand on ground, which is told soonest; how far others would fall takes longest.
    if (lowestOf(site, whole) !== id || isHeld(site, whole) || heldTogether(site, id) !== null) return []
    const drop = dropOf(site, whole, below)
    if (drop === null || drop <= gap) return []
    return [{ things: [id], amount: drop, at: site.middleOf(id), more: whole.size }]
  },
  says: ({ things: [id], amount }, { name, length }) => `${name(id!)} hangs ${length(amount!)} above what is below`,
  fix: {
    does: 'Set down',
    by: 'operations',
    operations: (site, { things: [id] }, { below }) => {
      const whole = wholeAround(site, id!)
      const drop = dropOf(site, whole, below)
      if (!drop) throw new FixError('Nothing is below it.')
      return movePlacements(site.level, whole, DOWN.clone().multiplyScalar(drop))
    },
  },
}

/** A thing with all that is one with it, and with what stands on that and nothing else. */
function wholeAround(site: CheckSite, id: string): ReadonlySet<string> {
  const whole = site.wholeOf(id)
  return new Set((whole === id ? [id] : site.level.subtree(whole)).filter(each => site.own(each).length > 0))
}

/** What is made to hang: pieces, what hangs from another thing, and what brings a light. */
function mayHang(site: CheckSite, id: string): boolean {
  const { level } = site
  const { parentId, partId } = level.need(id)
  const parent = parentId === null ? null : level.need(parentId).kind
  return (
    site.isPiece(id) || parent === 'part' || parent === 'block' || (partId !== null && level.lampsOf(partId).length > 0)
  )
}

/**
 * Whether something holds things from beside or above: a piece or ground, what they are let into, or two that a block
 * is between.
 */
function isHeld(site: CheckSite, things: ReadonlySet<string>): boolean {
  const beside = new Set<string>()
  for (const id of things) {
    for (const other of site.touchedBy(id)) {
      if (things.has(other)) continue
      beside.add(other)
      if (site.isGround(other) || site.level.arrangementIds.has(other) || site.isPiece(other)) return true
      if (areIn(site, id, other)) return true
    }
  }
  const isBlock = [...things].every(id => site.level.need(id).kind === 'block')
  return isBlock && [...beside].filter(other => !standsOn(site, other, things)).length > 1
}

/** Whether one of two things is let into the other. */
function areIn(site: CheckSite, id: string, other: string): boolean {
  const [first, second] = id < other ? [id, other] : [other, id]
  return site.own(first).some(own => site.own(second).some(its => site.overlap(own, its) !== null))
}

/** Whether one thing stands on others, and does not hold them. */
const standsOn = (site: CheckSite, id: string, things: ReadonlySet<string>) =>
  [...things].some(below =>
    site.own(id).some(own => site.own(below).some(its => (dropOnto(own, its) ?? Infinity) <= site.gap)),
  )
