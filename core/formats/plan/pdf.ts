import PDFDocument from 'pdfkit'
import type { BillLine } from '../bill'
import { joinBytes } from '../join-bytes'
import type { Sheet, SheetItem } from './sheet'
import { CAP_HEIGHT } from './svg'

/** Fonts in WOFF. */
export type PdfFonts = { regular: Uint8Array; bold: Uint8Array }

/** Points of PDF in a millimetre (ISO 32000-2, 8.3.2.3: 72 to an inch). */
const MM = 72 / 25.4

/**
 * A sheet as PDF, its text as text in fonts that lie in the file; with further pages for the bill of parts if that is
 * asked for.
 *
 * @param made when, for the file's own record
 */
export async function writePdf(
  sheet: Sheet,
  fonts: PdfFonts,
  { title, made, withBill }: { title: string; made: Date; withBill: boolean },
): Promise<Uint8Array> {
  const size: [number, number] = [sheet.width * MM, sheet.height * MM]
  const pdf = new PDFDocument({
    size,
    margin: 0,
    font: null as never,
    info: { Title: title, Creator: 'Handy Grid', Producer: 'Handy Grid', CreationDate: made },
  })
  const chunks: Uint8Array[] = []
  pdf.on('data', (chunk: Uint8Array) => void chunks.push(chunk))
  const done = new Promise<void>((resolve, reject) => pdf.once('end', resolve).once('error', reject))
  pdf.registerFont('regular', fonts.regular as never)
  pdf.registerFont('bold', fonts.bold as never)
  pdf.lineCap('round')
  for (const { items } of sheet.groups) for (const item of items) put(pdf, item)
  if (withBill)
    for (const page of billPages(sheet, title)) {
      pdf.addPage({ size, margin: 0 })
      for (const item of page) put(pdf, item)
    }
  pdf.end()
  await done
  return joinBytes(chunks)
}

function put(pdf: PDFKit.PDFDocument, item: SheetItem): void {
  if (item.type === 'lines') {
    for (let i = 0; i < item.at.length; i += 4)
      pdf.moveTo(item.at[i]! * MM, item.at[i + 1]! * MM).lineTo(item.at[i + 2]! * MM, item.at[i + 3]! * MM)
    pdf.lineWidth(item.width * MM)
    if (item.dashed) pdf.dash(1.5 * MM, { space: MM })
    pdf.stroke(item.color)
    if (item.dashed) pdf.undash()
    return
  }
  if (item.type === 'shape') {
    pdf.moveTo(item.at[0]! * MM, item.at[1]! * MM)
    for (let i = 2; i < item.at.length; i += 2) pdf.lineTo(item.at[i]! * MM, item.at[i + 1]! * MM)
    pdf.closePath().fill(item.fill)
    return
  }
  pdf.font(item.bold ? 'bold' : 'regular').fontSize((item.size / CAP_HEIGHT) * MM)
  const [x, y] = [item.x * MM, item.y * MM]
  const wide = item.anchor === 'start' ? 0 : pdf.widthOfString(item.text) / (item.anchor === 'middle' ? 2 : 1)
  // Over lines on a pale ground: letters drawn twice would be found twice by who looks for words.
  if (item.halo)
    pdf
      .rect(
        x - wide - MM / 2,
        y - item.size * 1.1 * MM,
        (item.anchor === 'middle' ? wide * 2 : wide) + MM,
        item.size * 1.4 * MM,
      )
      .fillOpacity(0.8)
      .fill('#ffffff')
      .fillOpacity(1)
  pdf.fillColor(item.color).text(item.text, x - wide, y, { lineBreak: false, baseline: 'alphabetic' })
}

const ROW = 6

/** A bill of parts on as many pages as it takes. */
function* billPages({ width, height, bill }: Sheet, title: string): Generator<SheetItem[]> {
  const left = 15
  const columns: [string, number, (line: BillLine) => string][] = [
    ['Part', 0, ({ name }) => name.slice(0, 60)],
    ['Count', 0.52, ({ count }) => count.toLocaleString('en')],
    ['Width × height × depth', 0.62, ({ size }) => `${size.map(side => side.toFixed(2)).join(' × ')} m`],
    ['Triangles', 0.84, ({ triangles }) => triangles.toLocaleString('en')],
  ]
  const wide = width - 2 * left
  const perPage = Math.max(1, Math.floor((height - 50) / ROW))
  for (let from = 0; from < Math.max(1, bill.length); from += perPage) {
    const rows = bill.slice(from, from + perPage)
    const text = (x: number, y: number, said: string, bold: boolean): SheetItem => ({
      type: 'text',
      text: said,
      x: left + wide * x,
      y,
      size: 2.5,
      ...(bold ? { bold } : {}),
      color: '#22303a',
      anchor: 'start',
    })
    yield [
      {
        type: 'text',
        text: `${title}: bill of parts`,
        x: left,
        y: 22,
        size: 5,
        bold: true,
        color: '#22303a',
        anchor: 'start',
      },
      ...columns.map(([label, x]) => text(x, 33, label, true)),
      { type: 'lines', width: 0.35, color: '#22303a', at: [left, 35, width - left, 35] },
      ...rows.flatMap((line, i) => columns.map(([, x, say]) => text(x, 41 + i * ROW, say(line), false))),
    ]
  }
}
