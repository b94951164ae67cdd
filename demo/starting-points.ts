import type { StartingPoint } from '../core/api/starting-points'
import type { MadeLevel } from './builder'
import { boathouseYard } from './starting-points/boathouse-yard'
import { bridgeSquare } from './starting-points/bridge-square'
import { reedBank } from './starting-points/reed-bank'
import { warehousePassage } from './starting-points/warehouse-passage'

/** The small levels that others are begun from, each a file and a line here. */
export const MADE: Record<StartingPoint, () => MadeLevel> = {
  'bridge-square': bridgeSquare,
  'warehouse-passage': warehousePassage,
  'reed-bank': reedBank,
  'boathouse-yard': boathouseYard,
}
