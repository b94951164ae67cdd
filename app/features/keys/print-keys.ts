import type { KeyUse } from '~/editor/keys/stage-uses'
import { groupsOf } from '~/editor/keys/stage-uses'

/** What is needed to say which keys something has. */
type Said = { keysOf: (name: string) => readonly string[]; label: (key: string) => string }

/** Text alone, on paper: two columns of what has a key, by its groups. */
const LOOK = `
  body { columns: 2; column-gap: 10mm; margin: 0; font: 9.5pt/1.35 'Barlow', sans-serif; }
  h1 { column-span: all; margin: 0 0 4mm; font-size: 16pt; }
  h2 { margin: 3mm 0 1mm; font-size: 11pt; break-after: avoid; }
  p { display: flex; gap: 4mm; justify-content: space-between; margin: 0; border-bottom: 0.2mm solid #ccc; }
  b { font-weight: 600; white-space: nowrap; }`

/** The sheet of keys as a page of its own, in a frame that nobody sees. */
export function keysSheet(uses: readonly KeyUse[], { keysOf, label }: Said): Document {
  const sheet = document.implementation.createHTMLDocument('Keys of Handy Grid')
  const add = (within: HTMLElement, tag: string, text = '') => {
    const element = sheet.createElement(tag)
    element.textContent = text
    within.append(element)
    return element
  }
  add(sheet.head, 'style', LOOK)
  add(sheet.body, 'h1', 'Keys')
  const withKeys = uses.filter(({ name }) => keysOf(name).length > 0)
  for (const { group, uses: some } of groupsOf(withKeys)) {
    add(sheet.body, 'h2', group)
    for (const { name } of some) {
      const line = add(sheet.body, 'p', name)
      add(line, 'b', keysOf(name).map(label).join(', '))
    }
  }
  return sheet
}

/** Opens the printer's form with the sheet. */
export function printKeys(uses: readonly KeyUse[], said: Said): void {
  const frame = document.createElement('iframe')
  // One that is not displayed is printed by some browsers and by others not.
  frame.style.cssText = 'position: fixed; width: 0; height: 0; border: 0'
  frame.title = 'Keys, to print'
  document.body.append(frame)
  const page = frame.contentWindow!
  page.document.replaceChild(
    page.document.adoptNode(keysSheet(uses, said).documentElement),
    page.document.documentElement,
  )
  page.addEventListener('afterprint', () => frame.remove())
  page.print()
}
