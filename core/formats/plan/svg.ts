import type { Sheet, SheetItem } from './sheet'

/** A font in WOFF2. */
export type SheetFonts = { regular: Uint8Array; bold: Uint8Array }

/** A sheet as SVG 1.1, in millimetres: a group for each layer, text as text, with its fonts in it. */
export function writeSvg({ width, height, groups }: Sheet, fonts: SheetFonts): string {
  const face = (name: string, bytes: Uint8Array) =>
    `@font-face{font-family:"${name}";src:url(data:font/woff2;base64,${base64(bytes)}) format("woff2")}`
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}mm" height="${height}mm" viewBox="0 0 ${width} ${height}">`,
    `<style>${face('Sheet', fonts.regular)}${face('Sheet Bold', fonts.bold)}text{font-family:"Sheet",sans-serif}.b{font-family:"Sheet Bold",sans-serif}line,path{stroke-linecap:round;fill:none}</style>`,
    `<rect width="${width}" height="${height}" fill="#ffffff"/>`,
    ...groups.map(
      ({ name, items }, i) =>
        `<g id="group-${i}" data-name="${escaped(name)}"><title>${escaped(name)}</title>\n${items.map(itemText).join('\n')}\n</g>`,
    ),
    '</svg>\n',
  ].join('\n')
}

function itemText(item: SheetItem): string {
  if (item.type === 'lines') {
    const steps: string[] = []
    for (let i = 0; i < item.at.length; i += 4)
      steps.push(`M${item.at[i]} ${item.at[i + 1]}L${item.at[i + 2]} ${item.at[i + 3]}`)
    return `<path stroke="${item.color}" stroke-width="${item.width}"${item.dashed ? ' stroke-dasharray="1.5 1"' : ''} d="${steps.join('')}"/>`
  }
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
