import type { NumberColumn } from './convention'
import { NUMBER_COLUMNS } from './convention'

/** The columns of text that a table of placements can have. */
export const TEXT_COLUMNS = [
  'id',
  'name',
  'kind',
  'part',
  'part id',
  'layer',
  'parent',
  'parent id',
  'hidden',
  'locked',
] as const
export type TextColumn = (typeof TEXT_COLUMNS)[number]
export type Column = TextColumn | NumberColumn

export const COLUMNS: readonly Column[] = [...TEXT_COLUMNS, ...NUMBER_COLUMNS]

/** What people call columns, in small letters and without what is no letter or figure (common practice). */
const OTHER_NAMES: Partial<Record<Column, readonly string[]>> = {
  id: ['uuid', 'guid', 'key'],
  name: ['label', 'object', 'objectname', 'title'],
  kind: ['type'],
  part: ['asset', 'mesh', 'model', 'prop', 'partname'],
  layer: ['layername', 'collection'],
  x: ['posx', 'px', 'tx', 'positionx', 'translationx', 'locationx', 'locx', 'xposition'],
  y: ['posy', 'py', 'ty', 'positiony', 'translationy', 'locationy', 'locy', 'yposition'],
  z: ['posz', 'pz', 'tz', 'positionz', 'translationz', 'locationz', 'locz', 'zposition'],
  rx: ['rotx', 'rotationx', 'anglex', 'xrotation', 'pitch'],
  ry: ['roty', 'rotationy', 'angley', 'yrotation', 'heading', 'yaw'],
  rz: ['rotz', 'rotationz', 'anglez', 'zrotation', 'roll'],
  qx: ['quatx', 'quaternionx'],
  qy: ['quaty', 'quaterniony'],
  qz: ['quatz', 'quaternionz'],
  qw: ['quatw', 'quaternionw'],
  sx: ['scalex', 'sizex', 'xscale'],
  sy: ['scaley', 'sizey', 'yscale'],
  sz: ['scalez', 'sizez', 'zscale'],
}

const plain = (text: string) => text.toLowerCase().replace(/[^a-z0-9]/g, '')
const byName = new Map(
  COLUMNS.flatMap(column => [column, ...(OTHER_NAMES[column] ?? [])].map(name => [plain(name), column] as const)),
)

/** What each column of a table most likely is, by its heading; null for those that are nothing known, or come twice. */
export function guessColumns(headings: readonly string[]): (Column | null)[] {
  const taken = new Set<Column>()
  return headings.map(heading => {
    const column = byName.get(plain(heading.replace(/\(.*\)|\[.*\]/g, ''))) ?? null
    if (column === null || taken.has(column)) return null
    taken.add(column)
    return column
  })
}
