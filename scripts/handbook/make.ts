// Draws the handbook's drawings and writes its made tables: `npm run handbook`.
import { readFileSync, writeFileSync } from 'node:fs'
import { DRAWINGS } from './drawings'
import { checksTable, withTable, wordsTable } from './tables'

const folder = new URL('../../docs/handbook/', import.meta.url)
const file = (name: string) => new URL(name, folder)
const read = (name: string) => readFileSync(file(name), 'utf8')

const titleOf = (slug: string) => {
  try {
    return /^# (.+)$/m.exec(read(`${slug}.md`))?.[1]
  } catch {
    return undefined
  }
}

for (const [name, draw] of Object.entries(DRAWINGS)) writeFileSync(file(`drawings/${name}.svg`), draw())
writeFileSync(file('checking.md'), withTable(read('checking.md'), '## What is looked for, and why', checksTable()))
writeFileSync(file('words.md'), withTable(read('words.md'), 'knows many of them:', wordsTable(titleOf)))
