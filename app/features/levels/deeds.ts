import type { Role } from '~~/core/api/roles'
import type { ListedLevel } from '~~/core/api/schema'

/** What can be done to a level in the list. */
export type LevelDeed = 'rename' | 'tag' | 'duplicate' | 'start' | 'archive' | 'delete'

/** The same with what it is called for a level, and who may. */
export const deedsFor = ({
  archivedAt,
  startingPoint,
}: ListedLevel): { does: LevelDeed; title: string; may: Role }[] => [
  { does: 'rename', title: 'Rename', may: 'work' },
  { does: 'tag', title: 'Tags …', may: 'work' },
  { does: 'duplicate', title: 'Duplicate', may: 'work' },
  { does: 'start', title: startingPoint ? 'No starting point any more' : 'Save as a starting point', may: 'work' },
  { does: 'archive', title: archivedAt === null ? 'Put into the archive' : 'Back from the archive', may: 'work' },
  { does: 'delete', title: 'Delete', may: 'keep' },
]
