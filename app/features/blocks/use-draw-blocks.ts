import { useModes } from '~/editor/modes'
import { useSettings } from '~/editor/settings'
import { BlockTool } from './block-tool'

/** @returns what gives the stage to drawing blocks, of the shape and colour chosen */
export function useDrawBlocks(): () => void {
  const modes = useModes()
  const { kept } = useSettings()
  return () =>
    modes.take(
      world =>
        new BlockTool(world, () => ({ shape: { ...kept.block.shapes[kept.block.kind] }, color: kept.block.color })),
    )
}
