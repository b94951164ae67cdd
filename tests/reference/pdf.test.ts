import { readFileSync } from 'node:fs'
import { getDocument, OPS } from 'pdfjs-dist/legacy/build/pdf.mjs'
import { describe, expect, it } from 'vitest'
import { writePdf } from '../../core/formats/plan/pdf'
import type { Sheet } from '../../core/formats/plan/sheet'

const font = (name: string) =>
  new Uint8Array(readFileSync(`node_modules/@fontsource/barlow/files/barlow-latin-${name}-normal.woff`))
const FONTS = { regular: font('400'), bold: font('700') }
/** An A4 sheet (ISO 216: 210 by 297 mm) with a line of 40 mm, a triangle and two texts. */
const SHEET: Sheet = {
  width: 297,
  height: 210,
  scale: 100,
  groups: [
    {
      name: 'Ground',
      items: [
        { type: 'lines', width: 0.5, color: '#22303a', at: [20, 30, 60, 30] },
        { type: 'shape', fill: '#0e6e6e', at: [100, 100, 120, 100, 110, 120] },
        { type: 'text', text: 'Quay', x: 50, y: 60, size: 2.5, color: '#22303a', anchor: 'start' },
        { type: 'text', text: '1:100', x: 290, y: 200, size: 5, bold: true, color: '#22303a', anchor: 'end' },
      ],
    },
  ],
  remarks: [],
  bill: [],
}
/** Points to the inch and millimetres (ISO 32000-2, 8.3.2.3). */
const MM = 72 / 25.4

async function read(sheet: Sheet) {
  const bytes = await writePdf(sheet, FONTS, {
    title: 'Lantern Quay',
    made: new Date('2026-11-30T06:00:00Z'),
    withBill: false,
  })
  const pdf = await getDocument({ data: bytes, verbosity: 0 }).promise
  return { pdf, page: await pdf.getPage(1) }
}

describe('a plan sheet as PDF', () => {
  it('is as large as the paper, and one page without a bill', async () => {
    const { pdf, page } = await read(SHEET)
    expect(pdf.numPages).toBe(1)
    expect(page.view.map(value => Math.round(value * 100) / 100)).toEqual([0, 0, 841.89, 595.28])
    expect(await pdf.getMetadata()).toMatchObject({ info: { Title: 'Lantern Quay', Creator: 'Handy Grid' } })
  })

  it('has its texts as text where they stand, aligned as they are meant', async () => {
    const { items } = await (await read(SHEET)).page.getTextContent()
    const texts = items.flatMap(item => ('str' in item && item.str.trim() ? [item] : []))
    const at = (text: string) => {
      const { transform, width } = texts.find(({ str }) => str === text)!
      return { x: transform[4] / MM, y: 210 - transform[5] / MM, width: width / MM }
    }
    expect(at('Quay').x).toBeCloseTo(50, 1)
    expect(at('Quay').y).toBeCloseTo(60, 0)
    expect(at('1:100').x + at('1:100').width).toBeCloseTo(290, 0)
  })

  it('has its lines as long and as wide as on the sheet', async () => {
    const { fnArray, argsArray } = await (await read(SHEET)).page.getOperatorList()
    const widths = fnArray.flatMap((fn, i) => (fn === OPS.setLineWidth ? [argsArray[i][0] as number] : []))
    expect(widths.map(width => width / MM)).toEqual([expect.closeTo(0.5, 3)])
    const paths = fnArray.flatMap((fn, i) => (fn === OPS.constructPath ? [argsArray[i]] : []))
    const [line] = paths.map(([, coordinates]) => [...(coordinates as number[])])
    expect((line![2]! - line![0]!) / MM).toBeCloseTo(40, 2)
  })
})
