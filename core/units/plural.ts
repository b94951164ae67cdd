const rules = new Intl.PluralRules('en')

/**
 * The word that goes with a number: the one for a single thing, or the other.
 *
 * @param many left out where it is the one with an s
 */
export function wordFor(count: number, one: string, many = `${one}s`): string {
  return rules.select(count) === 'one' ? one : many
}

/** Words whose one is not the many without an s. */
const ONE: Record<string, string> = {
  copies: 'copy',
  meshes: 'mesh',
  vertices: 'vertex',
  boxes: 'box',
  geometries: 'geometry',
}

/** A number with a word that is given for many, whatever follows it: "1 part known" for `parts known`. */
export function countedOf(count: number, many: string): string {
  const [noun = '', ...rest] = many.split(' ')
  const one = ONE[noun] ?? (noun.endsWith('s') ? noun.slice(0, -1) : noun)
  return [counted(count, one, noun), ...rest].join(' ')
}

/** A number with its word: "1 thing", "2,400 things". */
export function counted(count: number, one: string, many?: string): string {
  return `${count.toLocaleString('en')} ${wordFor(count, one, many)}`
}
