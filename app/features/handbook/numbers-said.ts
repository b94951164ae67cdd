/** Rows of the tables of numbers: what a number is called, several with `;` between, and what it means. */
const ROW = /^\| (?!number|---)(.+?) \| (.+?) \|$/gm

/**
 * What the numbers of forms mean.
 *
 * @param page the handbook's page of numbers
 * @returns what the number of a name means, such as `Spacing X` or `Weight of Crate`; undefined if nothing is said
 */
export function readMeanings(page: string): (name: string) => string | undefined {
  const tables = page.split(/^\| number \| means \|$/m).slice(1)
  const byName = new Map(
    tables.flatMap(table =>
      [...table.split('\n\n')[0]!.matchAll(ROW)].flatMap(([, names, means]) =>
        names!.split('; ').map(name => [name, means!] as const),
      ),
    ),
  )
  return name => {
    for (let words = name.split(' '); words.length > 0; words = words.slice(0, -1)) {
      const means = byName.get(words.join(' '))
      if (means !== undefined) return means
    }
    return undefined
  }
}
