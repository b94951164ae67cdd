import type { Block } from '~~/core/level/schema'
import type { Entry } from '~~/core/units/entry'
import { applyEntry } from '~~/core/units/entry'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'
import { blockName, blockNumber, withNumber } from './use-block-fields'

/** Changes of blocks after they were drawn; all instances follow. */
export function useBlocks() {
  const level = useLevel()
  const settings = useSettings()

  function set(block: Block, key: string, value: number, joins?: string): void {
    const next = withNumber(block.shape, key, value)
    if (next.ok) level.change(`Change the ${key} of the ${blockName(block.shape.type).toLowerCase()}`, [{ do: 'put-block', id: block.id, fields: { shape: next.shape } }], joins)
    else level.tell('This number does not fit', [next.error])
  }

  const setNumber = (block: Block, key: string, entry: Entry) => set(block, key, applyEntry(entry, blockNumber(block.shape, key)))

  /** By grid steps, or by one for counts. */
  function stepNumber(block: Block, key: string, steps: number, isCount: boolean): void {
    const by = isCount ? Math.sign(steps) : steps * settings.kept.steps.grid.size
    const next = blockNumber(block.shape, key) + by
    if (next > 0) set(block, key, next, `step ${block.id} ${key}`)
  }

  const setColor = (block: Block, color: string) => level.change('Change the colour of a block', [{ do: 'put-block', id: block.id, fields: { color } }])

  function instances(block: Block): number {
    return [...level.view.placements()].filter(({ blockId }) => blockId === block.id).length
  }

  return { setNumber, stepNumber, setColor, instances }
}
