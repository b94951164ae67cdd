import { existsSync, readFileSync } from 'node:fs'
import { dirname, join, resolve } from 'node:path'
import ts from 'typescript'
import { describe, expect, it } from 'vitest'
import { LAYERS } from '../../.dependency-cruiser.mjs'
import { filesBelow } from '../files-below'

// What documents say has to be so: examples in doc comments run, and links lead somewhere.

const EXAMPLE = /^( *)\/\*\*(?:(?!\*\/)[\s\S])*?@example\n((?:\1 \*(?!\/).*\n)+)/gm
const IMPORT = /^import (\{.*\}) from '(.*)'$/

/** The lines of the examples of a file, without what makes them a comment. */
function examplesIn(path: string): string[][] {
  return [...readFileSync(path, 'utf8').matchAll(EXAMPLE)].map(([, , block]) =>
    block!.split('\n').flatMap(line => {
      const text = line.replace(/^ *\* ?/, '').trimEnd()
      return text === '' ? [] : [text]
    }),
  )
}

/** An example as a function: each line is done, and one that ends with a comment comes to what that says. */
async function run(path: string, lines: readonly string[]): Promise<number> {
  const scope: Record<string, unknown> = { ...(await import(resolve(path))) }
  const code: string[] = []
  let checked = 0
  for (const line of lines) {
    const [, names, from] = IMPORT.exec(line) ?? []
    if (names && from) Object.assign(scope, await import(from.startsWith('.') ? resolve(dirname(path), from) : from))
    else {
      const [, expression, value] = /^(.*?) +\/\/ (.*)$/.exec(line) ?? []
      if (value !== undefined) checked++
      code.push(value === undefined ? line : `expect(${expression}).toEqual(${value})`)
    }
  }
  const names = Object.keys(scope).filter(name => name !== 'default')
  const body = ts.transpile(code.join('\n'), { target: ts.ScriptTarget.ES2022 })
  const AsyncFunction = (async () => {}).constructor as new (...args: string[]) => (...args: unknown[]) => Promise<void>
  await new AsyncFunction('expect', ...names, body)(expect, ...names.map(name => scope[name]))
  return checked
}

const sources = filesBelow('core').filter(path => path.endsWith('.ts') && !path.endsWith('.test.ts'))
const withExamples = sources
  .map(path => ({ path, examples: examplesIn(path) }))
  .filter(each => each.examples.length > 0)

describe('examples in doc comments', () => {
  it.each(withExamples)('of $path come to what they say', async ({ path, examples }) => {
    for (const lines of examples) expect(await run(path, lines)).toBeGreaterThan(0)
  })

  it('are there in every layer of core', () => {
    const layers = new Set(withExamples.map(({ path }) => path.split('/')[1]))
    expect(LAYERS.filter(layer => !layers.has(layer))).toEqual([])
  })

  it('are not passed when they are wrong', async () => {
    const path = 'core/units/quantity.ts'
    await expect(run(path, ["parseQuantity('1 m', 'length').value // 2"])).rejects.toThrow()
  })
})

describe('documents', () => {
  it('have every decision in the index, with what became of it', () => {
    const text = readFileSync('docs/decisions.md', 'utf8')
    const made = [...text.matchAll(/^(\d+)\. /gm)].map(([, number]) => Number(number))
    const listed = [...text.matchAll(/^\| (\d+) \| .+ \| (holds|changed by (\d+)) \|$/gm)]
    expect(made).toEqual(made.map((_, i) => i + 1))
    expect(listed.map(([, number]) => Number(number))).toEqual(made)
    for (const [, number, , by] of listed) if (by) expect(Number(by)).toBeGreaterThan(Number(number))
  })

  const documents = [
    'README.md',
    'CONTRIBUTING.md',
    'CHANGELOG.md',
    ...filesBelow('docs').filter(path => path.endsWith('.md')),
  ]

  it.each(documents)('%s links only to what is there', path => {
    const links = [...readFileSync(path, 'utf8').matchAll(/\]\((?!https?:)([^)#\s]+)(?:#[^)]*)?\)/g)].map(
      ([, to]) => to!,
    )
    expect(links.filter(to => !existsSync(join(dirname(path), to)))).toEqual([])
  })

  it.each(documents.filter(path => !path.includes('decisions') && path !== 'CHANGELOG.md'))(
    '%s names only files that are there',
    path => {
      const text = readFileSync(path, 'utf8')
      const named = [
        ...text.matchAll(/`((?:app|core|server|tests|scripts|docs|bench|demo)\/[\w./[\]-]+\.(?:ts|vue|mjs|md))`/g),
      ]
      expect(named.map(([, to]) => to!).filter(to => !existsSync(to))).toEqual([])
    },
  )
})
