import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { useCommands } from '~/editor/commands'
import { testEditor } from '~/editor/test-editor'
import { useKeys } from '~/editor/keys/keys'
import { EVERYDAY_WORDS } from '~/features/handbook/everyday-words'
import { beginFeatures, STEPS } from './features'

const folder = 'docs/handbook'
const pages = new Map(
  readdirSync(folder)
    .filter(name => name.endsWith('.md'))
    .map(name => [name.replace('.md', ''), readFileSync(`${folder}/${name}`, 'utf8')]),
)

/** The rows of the tables of actions: which action, with which key, on which page. */
const listed = [...pages].flatMap(([page, text]) => {
  const table = text.split('## Actions')[1]?.split('\n## ')[0] ?? ''
  return [...table.matchAll(/^\| (?!action|---)(.+?) \| (?:`(.+)`)? *\|$/gm)].map(([, name, key = '']) => ({
    page,
    name: name!,
    key,
  }))
})

describe('the handbook and what can be done', () => {
  it('has every action on one page, with the key that it has, and none that there is not', () => {
    testEditor([])
    beginFeatures()
    const all = useCommands().all.map(({ name }) => ({ name, key: useKeys().labelOf(name) ?? '' }))
    const byName = (a: { name: string }, b: { name: string }) => (a.name < b.name ? -1 : 1)
    expect(listed.map(({ name, key }) => ({ name, key })).toSorted(byName)).toEqual(all.toSorted(byName))
  })

  it('says something of each step of the job', () => {
    const whole = [...pages.values()].join('\n')
    for (const { name } of STEPS) expect(whole, name).toMatch(new RegExp(`step \\*{0,2}${name}`))
  })

  it('means actions and pages that there are by everyday words', () => {
    testEditor([])
    beginFeatures()
    const names = new Set(useCommands().all.map(({ name }) => name))
    for (const ours of Object.keys(EVERYDAY_WORDS)) expect(names.has(ours) || pages.has(ours), ours).toBe(true)
  })
})
