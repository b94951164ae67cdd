const rules = new Intl.PluralRules('en')

/** The word that goes with a number: the one for a single thing, or the other. @param many left out where it is the one with an s */
export function wordFor(count: number, one: string, many = `${one}s`): string {
  return rules.select(count) === 'one' ? one : many
}

/** A number with its word: "1 thing", "2,400 things". */
export function counted(count: number, one: string, many?: string): string {
  return `${count.toLocaleString('en')} ${wordFor(count, one, many)}`
}
