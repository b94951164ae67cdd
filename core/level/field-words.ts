import type { PlacementFields } from './schema'

/** What people call each field of a placement. */
const WORDS: Record<keyof PlacementFields, string> = {
  name: 'name',
  kind: 'kind',
  parentId: 'place in the roster',
  order: 'place in the roster',
  partId: 'part',
  blockId: 'block',
  layerId: 'layer',
  translation: 'position',
  rotation: 'turn',
  scale: 'size',
  pivot: 'pivot',
  hidden: 'hiding',
  locked: 'lock',
  own: 'settings',
}

/** Of what is kept and measured, fields whose names alone say too little. */
const OTHERS: Readonly<Record<string, string>> = {
  holders: 'holder',
  held: 'what is held',
  at: 'stood at',
  point: 'touches at',
}

/** A field in words: those of placements as they are called, others by the words their names are made of. */
export function fieldWord(name: string): string {
  return (
    WORDS[name as keyof PlacementFields]
    ?? OTHERS[name]
    ?? name
      .replace(/Id$/, '')
      .replace(/([a-z])([A-Z])/g, (_, before: string, after: string) => `${before} ${after.toLowerCase()}`)
  )
}

/** Where in a record something is wrong, in words: the last name on the way there. */
export function placeInWords(path: readonly PropertyKey[]): string {
  const name = path.findLast(part => typeof part === 'string')
  return name === undefined ? 'something' : fieldWord(String(name))
}
