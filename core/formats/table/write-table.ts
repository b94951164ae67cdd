import Papa from 'papaparse'
import { Matrix4 } from 'three'
import { z } from 'zod'
import type { Placement } from '../../level/schema'
import { isSheared, localMatrix } from '../../math/transform'
import type { LevelView } from '../../scene/level-view'
import { flag, Scope, scopeSchema } from '../out/scope'
import type { OnShare } from '../out/share'
import { Counted } from '../out/share'
import { TEXT_COLUMNS } from './columns'
import { conventionSchema, numberColumns, numbersIn, sayConvention } from './convention'

const SEPARATORS = { comma: ',', semicolon: ';', tab: '\t' } as const

/** How a level is handed over as a table. */
export const tableOptionsSchema = scopeSchema.extend(conventionSchema.shape).extend({
  /** Names of columns with commas between them; all that the convention has when left out. */
  columns: z
    .string()
    .max(1000)
    .default('')
    .transform(text =>
      text
        .split(',')
        .map(each => each.trim())
        .filter(Boolean),
    )
    .pipe(z.array(z.enum(TEXT_COLUMNS)).max(20)),
  separator: z.enum(['comma', 'semicolon', 'tab']).default('comma'),
  decimal: z.enum(['point', 'comma']).default('point'),
  /** A row for each copy of an arrangement as well. */
  copies: flag(false),
})

export type TableOptions = z.output<typeof tableOptionsSchema>

/** What a spreadsheet would take for a formula, or what is kept from being one; a negative number is none. */
const FORMULA = /^(?:'*[=+@\t\r]|'+-|-(?!\d+(?:[.,]\d+)?(?:e[+-]?\d+)?$))/i

export type TableReport = {
  rows: number
  /** Whose shape no position, turn and size describe; they are nearest to it. */
  skewed: number
}

/**
 * A level as a table, row by row (RFC 4180, after a comment that says how its numbers are meant). Cells that a
 * spreadsheet would take for formulas are made text.
 *
 * @param nameOf a part's name
 * @param write takes the text, some rows at a time
 * @throws RangeError if numbers have a comma and columns as well
 */
export async function writeTable(
  level: LevelView,
  options: TableOptions,
  nameOf: (partId: string) => string,
  write: (text: string) => void | Promise<void>,
  onShare?: OnShare,
): Promise<TableReport> {
  const { separator, decimal, space, turn, copies } = options
  if (separator === 'comma' && decimal === 'comma') throw new RangeError('columns and decimals cannot both have commas')
  const scope = new Scope(level, options)
  const counted = new Counted(onShare ? scope.size(copies) : 0, onShare)
  const columns = options.columns.length > 0 ? options.columns : TEXT_COLUMNS
  const numbersOf = numbersIn(options)
  const report: TableReport = { rows: 0, skewed: 0 }
  const print = (value: number) => (decimal === 'comma' ? String(value).replace('.', ',') : String(value))
  const unparse = (rows: string[][]) =>
    `${Papa.unparse(rows, { delimiter: SEPARATORS[separator], escapeFormulae: FORMULA, newline: '\r\n' })}\r\n`
  await write(
    `# Handy Grid table of placements: ${sayConvention(options)} decimal=${decimal}\r\n${unparse([[...columns, ...numberColumns(options)]])}`,
  )
  const rowOf = (id: string, placement: Placement, matrix: Matrix4): string[] => {
    if (turn !== 'matrix' && isSheared(matrix)) report.skewed++
    const parent = placement.parentId === null ? null : level.need(placement.parentId)
    const texts: Record<(typeof TEXT_COLUMNS)[number], string> = {
      'id': id,
      'name': placement.name,
      'kind': placement.kind,
      'part': placement.partId === null ? '' : nameOf(placement.partId),
      'part id': placement.partId ?? '',
      'layer': placement.layerId === null ? '' : (level.layers.get(placement.layerId)?.name ?? ''),
      'parent': parent?.name ?? '',
      'parent id': parent?.id ?? '',
      'hidden': String(placement.hidden),
      'locked': String(placement.locked),
    }
    return [...columns.map(column => texts[column]), ...numbersOf(matrix).map(print)]
  }
  let rows: string[][] = []
  const put = async (row: string[]) => {
    rows.push(row)
    report.rows++
    counted.pass()
    if (rows.length < 500) return
    await write(unparse(rows))
    rows = []
  }
  const waiting = scope.children(null).toReversed()
  for (let id = waiting.pop(); id !== undefined; id = waiting.pop()) {
    for (const child of scope.children(id).toReversed()) waiting.push(child)
    const placement = level.need(id)
    if (scope.wants(id))
      await put(rowOf(id, placement, space === 'world' ? level.worldMatrix(id) : localMatrix(placement, new Matrix4())))
    if (!copies || !scope.wants(id) || !level.arrangementIds.has(id) || level.isSource(id)) continue
    for (const { copy, matrix } of level.eachCopy(id))
      await put(
        rowOf(
          copy.placement.id,
          copy.placement,
          space === 'world' ? matrix : localMatrix(copy.placement, new Matrix4()),
        ),
      )
  }
  if (rows.length > 0) await write(unparse(rows))
  return report
}
