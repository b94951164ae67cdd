/** How to rename many; every part may be left empty. */
export type RenameRule = {
  /** Takes the place of the name; empty keeps each name. */
  base: string
  /** Between base and number. */
  separator: string
  /** Digits of the number, filled up with zeros; 0 for no number. */
  width: number
  start: number
  prefix: string
  suffix: string
  /** Text to be replaced in what is there then, wherever it stands; not a pattern. */
  find: string
  replace: string
}

export const plainRename: RenameRule = { base: '', separator: ' ', width: 0, start: 1, prefix: '', suffix: '', find: '', replace: '' }

/** The new names, in the order of the old ones: base or old name, find and replace, number, prefix and suffix. */
export function renameMany(names: readonly string[], rule: RenameRule): string[] {
  return names.map((name, i) => {
    const stem = rule.base.trim() === '' ? name : rule.base.trim()
    const replaced = rule.find === '' ? stem : stem.replaceAll(rule.find, () => rule.replace)
    const number = rule.width > 0 ? `${rule.separator}${String(rule.start + i).padStart(rule.width, '0')}` : ''
    return `${rule.prefix}${replaced}${number}${rule.suffix}`.trim()
  })
}
