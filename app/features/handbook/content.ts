import MarkdownIt from 'markdown-it'
import MiniSearch from 'minisearch'
import { readMeanings } from './numbers-said'

// The handbook as it lies in docs/: loaded when it is first opened, and searched here.

/** Pages that are for those who run it or build on it, besides the handbook's own. */
const texts = import.meta.glob<string>(
  [
    '../../../docs/handbook/*.md',
    '../../../docs/{formats,words,lantern-quay,api,automation,live,running,architecture}.md',
  ],
  { query: '?raw', import: 'default', eager: true },
)
const pictures = import.meta.glob<string>(
  ['../../../docs/screenshots/*.png', '../../../docs/handbook/drawings/*.svg', '../../../docs/architecture.svg'],
  { query: '?url&no-inline', import: 'default', eager: true },
)

/** The page that lists all. */
export const CONTENTS = 'README'

const slugOf = (path: string) => path.split('/').at(-1)!.replace(/\.md$/, '')
const bySlug = new Map(Object.entries(texts).map(([path, text]) => [slugOf(path), text]))
const pictureOf = (source: string) =>
  Object.entries(pictures).find(([path]) => path.endsWith(`/${source.split('/').at(-1)!}`))?.[1]

/** The name of a heading in an address, as the places that show Markdown make it. */
export const anchorOf = (heading: string) =>
  heading
    .toLowerCase()
    .replace(/[^\p{L}\p{N}\s-]/gu, '')
    .trim()
    .replace(/\s+/g, '-')

/** Where a link of a page leads: to another page of the handbook, elsewhere, or nowhere that is here. */
export function leadsTo(href: string): { page: string; anchor: string } | null {
  if (/^[a-z]+:/.test(href)) return null
  const [path = '', anchor = ''] = href.split('#')
  if (path === '') return { page: '', anchor }
  const page = slugOf(path)
  return path.endsWith('.md') && bySlug.has(page) ? { page, anchor } : null
}

const markdown = new MarkdownIt({ html: false, linkify: false })
markdown.renderer.rules.heading_open = (tokens, i) => {
  const { tag } = tokens[i]!
  return `<${tag} id="hb-${anchorOf(tokens[i + 1]!.content)}" tabindex="-1">`
}
markdown.renderer.rules.image = (tokens, i) => {
  const token = tokens[i]!
  const address = pictureOf(String(token.attrGet('src')))
  const says = markdown.utils.escapeHtml(token.content)
  return address ? `<img src="${address}" alt="${says}" loading="lazy">` : says
}
markdown.renderer.rules.link_open = (tokens, i) => {
  const href = String(tokens[i]!.attrGet('href'))
  const to = leadsTo(href)
  if (to) return `<a href="#${to.anchor}" data-page="${to.page}" data-anchor="${to.anchor}">`
  // What leads out of the program, or to a file of its making, is there on paper only.
  return '<span class="elsewhere">'
}
markdown.renderer.rules.link_close = (tokens, i) => {
  const open = tokens.slice(0, i).findLast(({ type }) => type === 'link_open')
  return open && leadsTo(String(open.attrGet('href'))) ? '</a>' : '</span>'
}

/** The table at the end of a page of what can be done, and by which keys. */
const HEADING_OF_ACTIONS = '## Actions'
const ACTION = /^\| (.+?) \| (?:`.*`)? *\|$/gm

/** What a page is called; undefined if there is none. */
export const titleOf = (slug: string): string | undefined => /^# (.+)$/m.exec(bySlug.get(slug) ?? '')?.[1]

/** The sentence under its title, that says what a page is about. */
export const leadOf = (slug: string): string => /^# .+\n+(.+)$/m.exec(bySlug.get(slug) ?? '')?.[1] ?? ''

/** How keys are set: of an action by its name, and in the place of one of ours. */
type KeysSet = { labelOf: (action: string) => string | undefined; asSet: (ours: string) => string }

/** A page as HTML, with keys as they are set. Its texts are our own, and have no HTML in them. */
export const pageAsHtml = (slug: string, { labelOf, asSet }: KeysSet): string => {
  const [ours = '', actions] = (bySlug.get(slug) ?? '').split(HEADING_OF_ACTIONS)
  const text = ours.replace(/`([^`\n]+)`/g, (_span, key: string) => `\`${asSet(key)}\``)
  if (actions === undefined) return markdown.render(text)
  const keyed = actions.replace(ACTION, (_row, name: string) => {
    const key = labelOf(name)
    return `| ${name} | ${key === undefined ? '' : `\`${key}\``} |`
  })
  return markdown.render(text + HEADING_OF_ACTIONS + keyed)
}

export const PAGES: readonly string[] = [...bySlug.keys()]

/** A part of a page from one heading to the next. */
type Section = { id: string; page: string; title: string; heading: string; text: string }

function sectionsOf(page: string, text: string): Section[] {
  const title = titleOf(page) ?? page
  return text.split(/^(?=#{1,3} )/m).flatMap((part, i): Section[] => {
    const heading = /^#{1,3} (.+)$/m.exec(part)?.[1]
    if (heading === undefined) return []
    return [{ id: `${page}/${i}`, page, title, heading, text: part.replace(/[|`#*[\]()]/g, ' ') }]
  })
}

const index = new MiniSearch<Section>({
  fields: ['title', 'heading', 'text'],
  storeFields: ['page', 'title', 'heading'],
  searchOptions: { prefix: true, fuzzy: 0.15, boost: { title: 4, heading: 3 }, combineWith: 'AND' },
})
index.addAll([...bySlug].flatMap(([page, text]) => (page === CONTENTS ? [] : sectionsOf(page, text))))

export type Found = { page: string; anchor: string; title: string; heading: string }

/** Sections that some words are in, the likeliest first, each page once. */
export function searchPages(text: string, most: number): Found[] {
  const found = new Map<string, Found>()
  for (const { page, title, heading } of index.search(text) as unknown as Section[]) {
    if (!found.has(page)) found.set(page, { page, title, heading, anchor: title === heading ? '' : anchorOf(heading) })
    if (found.size === most) break
  }
  return [...found.values()]
}

const byAction = new Map(
  [...bySlug].flatMap(([slug, text]) => {
    const [, table = ''] = text.split(HEADING_OF_ACTIONS)
    return [...table.split('\n## ')[0]!.matchAll(ACTION)].map(([, name]) => [name!, slug] as const)
  }),
)

/** The page that an action is on. */
export const pageOfAction = (name: string): string | undefined => byAction.get(name)

/** What a number of a form means; undefined if nothing is said of it. */
export const meaningOf = readMeanings(bySlug.get('numbers') ?? '')
