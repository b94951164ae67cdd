import { defineStore } from 'pinia'
import type { KitEntry } from '~~/core/level/part'
import { useKit } from '~/editor/kit'
import { useModes } from '~/editor/modes'
import { useSettings } from '~/editor/settings'
import { ChainTool } from './chain-tool'
import type { ThingToPlace } from './place-tool'
import { PlaceTool } from './place-tool'

/** Parts last used that are remembered. */
const REMEMBERED = 40

/** Gives the stage to what puts parts of the kit down. */
export const usePlacing = defineStore('placing', () => {
  const kit = useKit()
  const modes = useModes()
  const settings = useSettings()

  function start(partId: string): void {
    const thing = thingOf(partId)
    if (!thing) return modes.stopMode()
    modes.take(world => new PlaceTool(world, { tool: 'place', what: partId }, `Placing ${thing.name}`, () => thing))
  }

  /** Places one of several parts at a time: in turn, or any of them. */
  function startOneOf({ id, name, by, parts }: KitEntry): void {
    const things = parts.flatMap(part => thingOf(part) ?? [])
    if (things.length === 0) return modes.stopMode()
    let at = -1
    const next = () => {
      at = by === 'turn' ? (at + 1) % things.length : Math.floor(Math.random() * things.length)
      return things[at]!
    }
    modes.take(world => new PlaceTool(world, { tool: 'place', what: id }, `Placing one of ${name}`, next))
  }

  const drawChain = () => modes.take(world => new ChainTool(world, kit.piecesFor))

  function thingOf(partId: string): ThingToPlace | null {
    const part = kit.part(partId)
    const solid = kit.solid(partId)
    if (!part || !solid) return null
    return {
      name: part.name,
      solid,
      pivot: part.pivot,
      make: () => {
        settings.kept.lastUsed = [partId, ...settings.kept.lastUsed.filter(id => id !== partId)].slice(0, REMEMBERED)
        return { fields: { kind: 'part', partId }, before: [] }
      },
    }
  }

  return { start, startOneOf, drawChain }
})
