import type { Sheet, SheetItem } from './sheet'

/** A font in WOFF2. */
export type SheetFonts = { regular: Uint8Array; bold: Uint8Array }

/** Lines that are put into one piece of text. */
const LINES = 2000

/**
 * A sheet as SVG 1.1, in millimetres: a group for each layer, text as text, with its fonts in it. In pieces, one after
 * the other.
 */
export function* writeSvg({ width, height, groups }: Sheet, fonts: SheetFonts): Generator<string> {
  const face = (name: string, bytes: Uint8Array) =>
    `@font-face{font-family:"${name}";src:url(data:font/woff2;base64,${base64(bytes)}) format("woff2")}`
  yield `<svg xmlns="http://www.w3.org/2000/svg" width="${width}mm" height="${height}mm" viewBox="0 0 ${width} ${height}">
<style>${face('Sheet', fonts.regular)}${face('Sheet Bold', fonts.bold)}text{font-family:"Sheet",sans-serif}.b{font-family:"Sheet Bold",sans-serif}line,path{stroke-linecap:round;fill:none}</style>
<rect width="${width}" height="${height}" fill="#ffffff"/>
`
  for (const [i, { name, items }] of groups.entries()) {
    yield `<g id="group-${i}" data-name="${escaped(name)}"><title>${escaped(name)}</title>\n`
    for (const item of items) {
      if (item.type === 'lines') yield* linesText(item)
      else yield itemText(item)
      yield '\n'
    }
    yield '</g>\n'
  }
  yield '</svg>\n'
}

function* linesText({ color, width, dashed, at }: SheetItem & { type: 'lines' }): Generator<string> {
  yield `<path stroke="${color}" stroke-width="${width}"${dashed ? ' stroke-dasharray="1.5 1"' : ''} d="`
  for (let from = 0; from < at.length; from += LINES * 4) {
    let steps = ''
    for (let i = from; i < Math.min(from + LINES * 4, at.length); i += 4)
      steps += `M${at[i]} ${at[i + 1]}L${at[i + 2]} ${at[i + 3]}`
    yield steps
  }
  yield '"/>'
}

function itemText(item: Exclude<SheetItem, { type: 'lines' }>): string {
  if (item.type === 'shape') return `<polygon fill="${item.fill}" points="${item.at.join(' ')}"/>`
  const { x, y, size, anchor, color, bold, halo } = item
  // The size of a font is that of its square; its letters are about seven tenths as high.
  return `<text x="${x}" y="${y}" font-size="${Number((size / CAP_HEIGHT).toFixed(3))}" fill="${color}"${anchor === 'start' ? '' : ` text-anchor="${anchor}"`}${bold ? ' class="b"' : ''}${halo ? ' stroke="#ffffff" stroke-width="0.8" stroke-linejoin="round" paint-order="stroke"' : ''}>${escaped(item.text)}</text>`
}

/** Of the letters of the sheet's fonts over the size of the font. */
export const CAP_HEIGHT = 0.7

const escaped = (text: string) =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;')

function base64(bytes: Uint8Array): string {
  let text = ''
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192))
  return btoa(text)
}
