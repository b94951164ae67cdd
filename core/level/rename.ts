/**
 * What stands in a new name where it is not text: the old name, the part's, the layer's, or a number that counts on.
 */
export const NAME_PARTS = ['old', 'number', 'part', 'layer'] as const
export type NamePart = (typeof NAME_PARTS)[number]

/** A piece of a pattern. `width`: digits of the number, filled up with zeros. */
export type NamePiece =
  | { text: string }
  | { is: Exclude<NamePart, 'number'> }
  | { is: 'number'; width: number; start: number; step: number }

/**
 * How to rename many: pieces one after the other, and text that is replaced in what comes of them, wherever it stands;
 * not a pattern.
 */
export type NamePattern = { pieces: NamePiece[]; replace: { find: string; by: string } | null }

/** What a pattern knows of each thing. */
export type Named = { name: string; part: string; layer: string }

/** A number as it comes into a pattern. */
export const FIRST_NUMBER = { is: 'number', width: 1, start: 1, step: 1 } as const satisfies NamePiece

/** What a pattern begins with: what the names have in common at their beginning, numbered; or the old names. */
export function patternFor(names: readonly string[]): NamePattern {
  const [first = ''] = names
  const base = first.replace(/[\s\d]+$/, '')
  const isShared = base !== '' && names.every(name => name.replace(/[\s\d]+$/, '') === base)
  return { pieces: isShared ? [{ text: `${base} ` }, { ...FIRST_NUMBER }] : [{ is: 'old' }], replace: null }
}

/** The new names, in the order of the things. */
export function renameMany(things: readonly Named[], { pieces, replace }: NamePattern): string[] {
  return things.map((thing, i) => {
    const made = pieces.map(piece => textOf(piece, thing, i)).join('')
    return (replace && replace.find !== '' ? made.replaceAll(replace.find, () => replace.by) : made).trim()
  })
}

function textOf(piece: NamePiece, thing: Named, i: number): string {
  if ('text' in piece) return piece.text
  switch (piece.is) {
    case 'old':
      return thing.name
    case 'part':
      return thing.part
    case 'layer':
      return thing.layer
    case 'number': {
      const number = piece.start + i * piece.step
      return `${number < 0 ? '-' : ''}${String(Math.abs(number)).padStart(piece.width, '0')}`
    }
  }
}
