// A reader of the text form of USD for tests alone, by the grammar of the AOUSD Core Specification 1.0 (text format;
// from memory): prims with a specifier, a type, a name, metadata in brackets, and properties and prims within braces.

export type UsdValue = string | number | UsdValue[] | { [key: string]: UsdValue } | { path: string } | { asset: string }
export type UsdPrim = {
  specifier: string
  type: string
  name: string
  path: string
  metadata: Record<string, UsdValue>
  properties: Map<string, UsdValue>
  children: UsdPrim[]
}

const TOKEN =
  /\s+|#[^\n]*|"""[\s\S]*?"""|"(?:[^"\\\n]|\\.)*"|<[^>\n]*>|@[^@\n]*@|[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?|[A-Za-z_][\w:.]*(?:\[\])?|[(){}[\]=,;]/y

/** @throws Error with the place, where the text is not of the grammar */
export function parseUsda(text: string): { metadata: Record<string, UsdValue>; prims: UsdPrim[] } {
  if (!/^#usda 1\.0\r?\n/.test(text)) throw new Error('no header')
  const tokens: { text: string; line: boolean }[] = []
  TOKEN.lastIndex = 0
  let newLine = false
  while (TOKEN.lastIndex < text.length) {
    const from = TOKEN.lastIndex
    const found = TOKEN.exec(text)
    if (!found) throw new Error(`at ${from}: ${text.slice(from, from + 40)}`)
    if (/^\s|^#/.test(found[0])) newLine ||= found[0].includes('\n') || found[0].startsWith('#')
    else {
      tokens.push({ text: found[0], line: newLine })
      newLine = false
    }
  }
  let at = 0
  const peek = () => tokens[at]?.text
  const next = () => tokens[at++]!.text
  const expect = (wanted: string) => {
    const got = next()
    if (got !== wanted)
      throw new Error(
        `expected ${wanted}, got ${got} after ${tokens
          .slice(Math.max(0, at - 8), at)
          .map(({ text: each }) => each)
          .join(' ')}`,
      )
  }
  const value = (): UsdValue => {
    const token = next()
    if (token === '[' || token === '(') {
      const end = token === '[' ? ']' : ')'
      const items: UsdValue[] = []
      while (peek() !== end) {
        items.push(value())
        if (peek() === ',') next()
        else if (peek() !== end) throw new Error(`no comma before ${peek()}`)
      }
      expect(end)
      return items
    }
    if (token === '{') {
      const items: Record<string, UsdValue> = {}
      while (peek() !== '}') {
        next()
        const key = next().replace(/"/g, '')
        expect('=')
        items[key] = value()
      }
      expect('}')
      return items
    }
    if (token.startsWith('"')) return JSON.parse(token.replace(/\t/g, '\\t')) as string
    if (token.startsWith('<')) return { path: token.slice(1, -1) }
    if (token.startsWith('@')) return { asset: token.slice(1, -1) }
    if (/^[-+.\d]/.test(token)) return Number(token)
    if (token === 'true' || token === 'false') return token
    throw new Error(`no value: ${token}`)
  }
  const metadata = (): Record<string, UsdValue> => {
    const found: Record<string, UsdValue> = {}
    if (peek() !== '(') return found
    next()
    for (let isFirst = true; peek() !== ')'; isFirst = false) {
      if (!isFirst && !tokens[at]!.line) throw new Error(`metadata has to begin a line: ${peek()}`)
      const words = [next()]
      while (peek() !== '=') words.push(next())
      next()
      found[words.join(' ')] = value()
    }
    next()
    return found
  }
  const prim = (above: string): UsdPrim => {
    const specifier = next()
    const type = peek()!.startsWith('"') ? '' : next()
    const name = JSON.parse(next()) as string
    if (!/^[A-Za-z_]\w*$/.test(name)) throw new Error(`no name of a prim: ${name}`)
    const path = `${above}/${name}`
    const found: UsdPrim = { specifier, type, name, path, metadata: metadata(), properties: new Map(), children: [] }
    expect('{')
    while (peek() !== '}') {
      if (['def', 'over', 'class'].includes(peek()!)) {
        found.children.push(prim(path))
        continue
      }
      if (!tokens[at]!.line) throw new Error(`a property has to begin a line: ${peek()}`)
      const words = [next()]
      while (peek() !== '=' && peek() !== '}' && !tokens[at]!.line) words.push(next())
      const key = words.at(-1)!
      if (words.length < 2 || found.properties.has(key)) throw new Error(`no property: ${words.join(' ')}`)
      if (peek() === '=') {
        next()
        found.properties.set(key, value())
        metadata()
      } else found.properties.set(key, '')
    }
    next()
    if (new Set(found.children.map(child => child.name)).size < found.children.length)
      throw new Error(`two prims of one name in ${path}`)
    return found
  }
  const head = metadata()
  const prims: UsdPrim[] = []
  while (at < tokens.length) prims.push(prim(''))
  return { metadata: head, prims }
}
