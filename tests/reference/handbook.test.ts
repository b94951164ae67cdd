import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { EVERYDAY_WORDS, meantBy, soughtIn } from '../../app/features/handbook/everyday-words'
import { PAGE_OF_BENCH, PLACES } from '../../app/features/handbook/places'
import { readMeanings } from '../../app/features/handbook/numbers-said'
import { EXERCISES } from '../../core/learn/exercises'
import { DRAWINGS } from '../../scripts/handbook/drawings'
import { checksTable, withTable, wordsTable } from '../../scripts/handbook/tables'

const folder = 'docs/handbook'
const slugs = readdirSync(folder)
  .filter(name => name.endsWith('.md'))
  .map(name => name.replace('.md', ''))
const read = (slug: string) => readFileSync(`${folder}/${slug}.md`, 'utf8')
const titleOf = (slug: string) => (slugs.includes(slug) ? /^# (.+)$/m.exec(read(slug))?.[1] : undefined)

const sources = (path: string, ending: string) =>
  readdirSync(path, { recursive: true, encoding: 'utf8' })
    .filter(name => name.endsWith(ending) && !name.includes('.test.'))
    .map(name => readFileSync(join(path, name), 'utf8'))

/** As the places that show Markdown name a heading. */
const anchorsOf = (path: string) =>
  [...readFileSync(path, 'utf8').matchAll(/^#{1,4} (.+)$/gm)].map(([, heading]) =>
    heading!
      .toLowerCase()
      .replace(/[^\p{L}\p{N}\s-]/gu, '')
      .trim()
      .replace(/\s+/g, '-'),
  )

/** A number in the description of a form, and one in a form itself. */
const MADE_NUMBER =
  /\b(?:numberField|gapField|walkerField|threeFields|number|cone|side)\(([^[]+?),\s*(?:i,|\['|'|\[key)/g
const SHOWN_NUMBER = /<(?:NumberLine|QuantityField|v-number-input)\b[^>]*?:?(?:aria-label|label)="`?([A-Z][^"$`]*)/g

describe('the handbook', () => {
  it('lists all of its pages, each once', () => {
    const listed = [...read('README').matchAll(/^- \[(.+?)\]\((.+?)\.md\)/gm)].map(([, title, slug]) => [slug, title])
    expect(listed.map(([slug]) => slug).toSorted()).toEqual(slugs.filter(slug => slug !== 'README').toSorted())
    for (const [slug, title] of listed) expect(titleOf(slug!)).toBe(title)
  })

  it('has no dead links, pictures or drawings', () => {
    for (const slug of slugs)
      for (const [, target] of read(slug).matchAll(/\]\(([^)]+)\)/g)) {
        const [path = '', anchor] = target!.split('#')
        const file = path === '' ? `${folder}/${slug}.md` : join(dirname(`${folder}/${slug}.md`), path)
        expect(existsSync(file), `${slug}: ${target}`).toBe(true)
        if (anchor) expect(anchorsOf(file), `${slug}: ${target}`).toContain(anchor)
      }
  })

  it('has drawings and tables as the program makes them now', () => {
    for (const [name, draw] of Object.entries(DRAWINGS)) {
      expect(readFileSync(`${folder}/drawings/${name}.svg`, 'utf8'), name).toBe(draw())
      expect(
        slugs.some(slug => read(slug).includes(`drawings/${name}.svg`)),
        name,
      ).toBe(true)
    }
    expect(readdirSync(`${folder}/drawings`).toSorted()).toEqual(
      Object.keys(DRAWINGS)
        .map(name => `${name}.svg`)
        .toSorted(),
    )
    expect(read('checking')).toBe(withTable(read('checking'), '## What is looked for, and why', checksTable()))
    expect(read('words')).toBe(withTable(read('words'), 'knows many of them:', wordsTable(titleOf)))
  })

  it('has a page for each exercise, each step of the job and each place that is asked about', () => {
    const wanted = [...Object.values(EXERCISES), ...PLACES].map(({ page }) => page).concat(Object.values(PAGE_OF_BENCH))
    for (const page of wanted) expect(slugs, page).toContain(page)
  })

  it('has the page that each dialog says it is on, with a sentence about it', () => {
    const pages = sources('app', '.vue').flatMap(text => [...text.matchAll(/<FormDialog\s+page="([^"]+)"/g)])
    expect(pages.length).toBeGreaterThan(20)
    for (const [, page] of pages) {
      expect(slugs, page).toContain(page)
      expect(read(page!), page).toMatch(/^# .+\n+[A-Z].+\.$/m)
    }
  })

  it('says of every number of a form what it means', () => {
    const meaningOf = readMeanings(read('numbers'))
    expect(meaningOf('Spacing X')).toMatch(/pivot to pivot/)
    expect(meaningOf('Weight of Crate')).toMatch(/how often a source comes/)
    expect(meaningOf('Nothing')).toBeUndefined()
    const made = [...sources('core', '.ts'), ...sources('app', '.ts'), ...sources('app', '.vue')].flatMap(text =>
      [...text.matchAll(MADE_NUMBER)].flatMap(([, name]) => [...name!.matchAll(/'([A-Z][^']+)'/g)]),
    )
    const shown = sources('app', '.vue').flatMap(text => [...text.matchAll(SHOWN_NUMBER)])
    const kept = sources('core/relate/kinds', '.ts').flatMap(text => [...text.matchAll(/\blabel: '([^']+)'/g)])
    const labels = new Set([...made, ...shown, ...kept].map(([, label]) => label!.trim()))
    expect(labels.size).toBeGreaterThan(70)
    for (const label of labels) expect(meaningOf(label), label).toBeDefined()
  })

  it('understands everyday words, also within a question', () => {
    expect(soughtIn('How do I rotate the crate?')).toBe('rotate the crate')
    expect(soughtIn('help')).toBe('help')
    expect(soughtIn('how do I copy it')).toBe('copy')
    expect(meantBy('how do I copy it')).toEqual(['Duplicate'])
    expect(meantBy('How do I rotate it?')).toContain('Turn handles')
    expect(meantBy('help')).toContain('Handbook')
    expect(meantBy('how can I export this')).toContain('handing-over')
    expect(meantBy('x')).toEqual([])
    for (const [ours, words] of Object.entries(EVERYDAY_WORDS))
      for (const word of words) expect(meantBy(word), word).toContain(ours)
    // No word means more than a few things.
    for (const words of Object.values(EVERYDAY_WORDS))
      for (const word of words) expect(meantBy(word).length, word).toBeLessThanOrEqual(4)
  })
})
