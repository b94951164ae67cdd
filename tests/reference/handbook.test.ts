import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { EVERYDAY_WORDS, meantBy, soughtIn } from '../../app/features/handbook/everyday-words'
import { PAGE_OF_BENCH, PLACES } from '../../app/features/handbook/places'
import { EXERCISES } from '../../core/learn/exercises'
import { DRAWINGS } from '../../scripts/handbook/drawings'
import { checksTable, withTable, wordsTable } from '../../scripts/handbook/tables'

const folder = 'docs/handbook'
const slugs = readdirSync(folder)
  .filter(name => name.endsWith('.md'))
  .map(name => name.replace('.md', ''))
const read = (slug: string) => readFileSync(`${folder}/${slug}.md`, 'utf8')
const titleOf = (slug: string) => (slugs.includes(slug) ? /^# (.+)$/m.exec(read(slug))?.[1] : undefined)

/** As the places that show Markdown name a heading. */
const anchorsOf = (path: string) =>
  [...readFileSync(path, 'utf8').matchAll(/^#{1,4} (.+)$/gm)].map(([, heading]) =>
    heading!
      .toLowerCase()
      .replace(/[^\p{L}\p{N}\s-]/gu, '')
      .trim()
      .replace(/\s+/g, '-'),
  )

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

  it('understands everyday words, also within a question', () => {
    expect(soughtIn('How do I rotate the crate?')).toBe('rotate the crate')
    expect(soughtIn('help')).toBe('help')
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
