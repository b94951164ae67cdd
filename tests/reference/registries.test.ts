import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { ROUTES } from '../../core/api/routes'
import { FORMATS } from '../../core/formats/formats'

// Lists that have to agree and that no compiler sees together.

describe('routes', () => {
  it('have each a file that answers by it, and no file is without', () => {
    const files = readdirSync('server/api', { recursive: true, encoding: 'utf8' }).filter(name =>
      /\.(?:get|post|put|patch|delete)\.ts$/.test(name),
    )
    const answered = files.map(name => {
      const [, path, method] = /^(.*)\.(\w+)\.ts$/.exec(name)!
      const [, route] =
        /(?:defineRoute|handOverRoute)\(\s*'(\w+)'/.exec(readFileSync(`server/api/${name}`, 'utf8')) ?? []
      return `${route}: ${method!.toUpperCase()} /api/${path!.replace(/(^|\/)index$/, '').replace(/\[(\w+)\]/g, ':$1')}`
    })
    expect(answered.toSorted()).toEqual(
      Object.entries(ROUTES)
        .map(([name, { method, path }]) => `${name}: ${method} ${path}`)
        .toSorted(),
    )
  })
})

describe('the command line', () => {
  it('knows every format, by its ending and where the server has it', () => {
    const script = readFileSync('scripts/level.mjs', 'utf8')
    const known = [...script.matchAll(/'([.\w]+)': \['(\w+)', '([\w.]+)'\]/g)].map(([, by, format, path]) => ({
      by,
      format,
      path,
    }))
    expect(new Set(known.map(({ format }) => format))).toEqual(new Set(Object.keys(FORMATS)))
    const paths = new Set<string>(Object.values(ROUTES).map(({ path }) => path))
    for (const { path } of known) expect(paths).toContain(`/api/levels/:id/${path}`)
  })
})
