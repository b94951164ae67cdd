import Papa from 'papaparse'
import { Matrix4 } from 'three'
import { z } from 'zod'
import { createPlacement, lastOrder } from '../../level/create'
import type { Part } from '../../level/part'
import type { Operation, Placement } from '../../level/schema'
import { placementSchema } from '../../level/schema'
import { idSchema, nameSchema } from '../../level/fields'
import { KIND_NAMES } from '../../level/kinds'
import { decompose, isSheared, localMatrix } from '../../math/transform'
import { copyOf } from '../../scene/copy-id'
import type { LevelView } from '../../scene/level-view'
import { firstIssue } from '../../units/issue'
import { plainLine } from '../../units/text'
import { FormatError } from '../format-error'
import type { Column, TextColumn } from './columns'
import { guessColumns, TEXT_COLUMNS } from './columns'
import type { Convention, Numbers } from './convention'
import { conventionSchema, fromNumbers, numberColumns, readConvention, toNumbers } from './convention'

/** Rows and columns of a table that are brought in at once. */
export const MOST_ROWS = 100_000
const MOST_COLUMNS = 200
/** Errors that are listed; all are counted. */
const MOST_ERRORS = 200

/** A table as it was read, before it is known what its columns mean. */
export type Table = {
  headings: string[]
  /** Each with the line of the file it begins on, counted from 1. */
  rows: { line: number; cells: string[] }[]
  /** What the table says of itself, or what it looks like. */
  guess: TableMapping
}

/** What the columns and numbers of a table mean. */
export type TableMapping = Convention & {
  /** Of each column; null if it is passed over. */
  columns: (Column | null)[]
  decimal: 'point' | 'comma'
  /** Parts for names that no part has, or several. */
  parts: Record<string, string>
}

export const mappingSchema: z.ZodType<TableMapping> = conventionSchema.extend({
  columns: z
    .array(
      z
        .string()
        .nullable()
        .transform((text, context) => {
          const known = text === null ? null : guessColumns([text])[0]!
          if (text !== null && known === null)
            context.addIssue({ code: 'custom', message: 'is no column that is known here' })
          return known
        }),
    )
    .max(MOST_COLUMNS),
  decimal: z.enum(['point', 'comma']),
  parts: z.record(z.string().max(400), idSchema),
}) as unknown as z.ZodType<TableMapping>

/**
 * Reads the cells of a table: separated by commas, semicolons or tabs, with lines of `#` as comments and one line of
 * headings.
 *
 * @param usual what stands where the table says nothing of its convention
 * @throws FormatError with the line
 */
export function readCells(text: string, usual: Partial<Convention> = {}): Table {
  if (text.includes('\u0000')) throw new FormatError('it is no text')
  const comments: string[] = []
  const body = text.replace(/^\uFEFF/, '').replace(/^(?:[ \t]*#[^\n]*(?:\n|$))+/, head => {
    comments.push(head)
    return ''
  })
  const skipped = comments.join('').split('\n').length - 1
  const lines: number[] = []
  let [line, at] = [skipped + 1, 0]
  const cells: string[][] = []
  checkWidth(body, skipped + 1)
  Papa.parse<string[]>(body, {
    delimiter: separatorOf(body),
    skipEmptyLines: false,
    step: ({ data, errors, meta }) => {
      const [wrong] = errors.filter(({ code }) => code !== 'UndetectableDelimiter')
      if (wrong) throw new FormatError(`line ${line}: ${wrong.message}`)
      lines.push(line)
      cells.push(data)
      for (; at < meta.cursor; at++) if (body.charCodeAt(at) === 10) line++
      if (cells.length > MOST_ROWS + 1) throw new FormatError(`it has more than ${MOST_ROWS.toLocaleString('en')} rows`)
    },
  })
  const [headings, ...rest] = cells
    .map((row, i) => ({ row, line: lines[i]! }))
    .filter(({ row }) => row.some(cell => cell.trim() !== ''))
  if (!headings) throw new FormatError('it is empty')
  if (headings.row.length > MOST_COLUMNS) throw new FormatError(`it has more than ${MOST_COLUMNS} columns`)
  const rows = rest
    .filter(({ row }) => !row[0]!.trimStart().startsWith('#'))
    .map(({ row, line: begins }) => ({ line: begins, cells: row }))
  const columns = guessColumns(headings.row)
  const said = comments.join(' ')
  const numbers = rows
    .slice(0, 100)
    .flatMap(({ cells: row }) => row.filter((_, i) => columns[i] && !isText(columns[i]!)))
  const decimal =
    /decimal=(point|comma)/.exec(said)?.[1]
    ?? (numbers.some(cell => /^\s*-?\d+,\d+\s*$/.test(cell)) && !numbers.some(cell => /^\s*-?\d+\.\d+\s*$/.test(cell))
      ? 'comma'
      : 'point')
  const turn = columns.includes('m11')
    ? ('matrix' as const)
    : columns.includes('qw')
      ? ('quaternion' as const)
      : undefined
  return {
    headings: headings.row,
    rows,
    guess: {
      ...conventionSchema.parse({ ...usual, ...(turn && { turn }), ...readConvention(said) }),
      columns,
      decimal: decimal as 'point' | 'comma',
      parts: {},
    },
  }
}

/** Before any cell is made: a line of nothing but separators would be millions of them. */
function checkWidth(body: string, first: number): void {
  let [line, count] = [first, 0]
  for (let i = 0; i < body.length; i++) {
    const code = body.charCodeAt(i)
    if (code === 10) {
      line++
      count = 0
    } else if ((code === 44 || code === 59 || code === 9) && ++count > MOST_COLUMNS * 20)
      throw new FormatError(`line ${line}: it has more than ${MOST_COLUMNS} columns`)
  }
}

/** What stands between the headings most often. */
function separatorOf(body: string): string {
  const headings = (/^[^\n]*\S[^\n]*$/m.exec(body)?.[0] ?? '').replace(/"[^"]*"/g, '')
  const countOf = (separator: string) => headings.split(separator).length
  return [',', ';', '\t'].reduce((best, each) => (countOf(each) > countOf(best) ? each : best))
}

const isText = (column: Column): column is TextColumn => (TEXT_COLUMNS as readonly string[]).includes(column)

/** Something wrong in a table: where, counted from 1; the column is that of the file. */
export type TableError = { line: number; column: number | null; heading: string; message: string }

/** What a table would do to a level. */
export type ImportedTable = {
  operations: Operation[]
  added: number
  updated: number
  same: number
  /** Rows that say where copies are, which go by their rule. */
  copies: number
  /** Rows with the id of one before them, new to the level, which are one thing with it. */
  joined: number
  /** The first of them, and how many there are. */
  errors: TableError[]
  errorCount: number
  /** Names of parts that none has, or several; by how many rows each is named. */
  unmatched: { name: string; rows: number; candidates: string[] }[]
}

/**
 * What a table does to a level by a mapping: rows with the id of a placement update what they give of it, others add.
 * Columns that are not there leave what is there.
 *
 * @param parts of the kit
 * @param newId for rows without one
 */
export function readTable(
  { rows, headings }: Table,
  mapping: TableMapping,
  level: LevelView,
  parts: readonly Pick<Part, 'id' | 'name' | 'pivot'>[],
  newId: () => string,
): ImportedTable {
  const reader = new RowReader(mapping, level, parts, headings, newId)
  // What rows hang from may come after them: ids first.
  const things = reader.announce(rows)
  for (const row of things) reader.read(row)
  return { ...reader.result(), joined: rows.length - things.length }
}

type Row = Table['rows'][number]

class RowReader {
  private readonly operations: Operation[] = []
  private readonly layers: Operation[] = []
  private readonly errors: TableError[] = []
  private readonly counts = { added: 0, updated: 0, same: 0, copies: 0, errors: 0 }
  private readonly unmatched = new Map<string, { rows: number; candidates: string[] }>()
  private readonly partsById: ReadonlyMap<string, Pick<Part, 'id' | 'name' | 'pivot'>>
  private readonly partsByName = new Map<string, string[]>()
  private readonly layerByName: Map<string, string>
  private readonly at: ReadonlyMap<Column, number>
  /** Of rows that add, with where they are to stand. */
  private readonly fresh = new Map<string, Row>()
  private readonly ids = new Map<Row, string>()
  private readonly worlds = new Map<string, Matrix4>()
  private order: number

  constructor(
    private readonly mapping: TableMapping,
    private readonly level: LevelView,
    parts: readonly Pick<Part, 'id' | 'name' | 'pivot'>[],
    private readonly headings: readonly string[],
    private readonly newId: () => string,
  ) {
    this.partsById = new Map(parts.map(part => [part.id, part]))
    for (const { id, name } of parts)
      this.partsByName.set(name.toLowerCase(), [...(this.partsByName.get(name.toLowerCase()) ?? []), id])
    this.layerByName = new Map([...level.layers.values()].map(({ id, name }) => [name.toLowerCase(), id]))
    this.at = new Map(mapping.columns.flatMap((column, i) => (column === null ? [] : [[column, i]])))
    this.order = lastOrder(level, null)
  }

  /** Rows as things: those with one new id are one thing, of which the later say what they say. */
  announce(rows: readonly Row[]): Row[] {
    const byId = new Map<string, Row>()
    const things = rows.flatMap(row => {
      const given = this.idIn(row)
      const isNew = given !== undefined && !this.level.has(given) && idSchema.safeParse(given).success
      const first = isNew ? byId.get(given) : undefined
      if (first) {
        first.cells = Array.from({ length: Math.max(first.cells.length, row.cells.length) }, (_, i) =>
          row.cells[i]?.trim() ? row.cells[i] : (first.cells[i] ?? ''),
        )
        return []
      }
      const thing = { ...row }
      if (isNew) byId.set(given, thing)
      return [thing]
    })
    for (const row of things) {
      const given = this.idIn(row)
      if (given && (this.level.has(given) || copyOf(given))) continue
      const id = given && idSchema.safeParse(given).success ? given : this.newId()
      this.fresh.set(id, row)
      this.ids.set(row, id)
    }
    return things
  }

  read(row: Row): void {
    const given = this.idIn(row)
    if (given && copyOf(given)) {
      this.counts.copies++
      return
    }
    if (given && !this.level.has(given) && !idSchema.safeParse(given).success)
      return this.wrong(row, 'id', 'is no id; leave it empty for a new thing')
    const numbers = this.numbersOf(row)
    if (!numbers) return
    const id = this.ids.get(row)
    if (id === undefined) this.update(row, this.level.need(given!), numbers)
    else this.add(row, id, numbers)
  }

  result(): Omit<ImportedTable, 'joined'> {
    const { added, updated, same, copies, errors } = this.counts
    return {
      operations: [...this.layers, ...this.operations],
      added,
      updated,
      same,
      copies,
      errors: this.errors,
      errorCount: errors,
      unmatched: [...this.unmatched].map(([name, found]) => ({ name, ...found })),
    }
  }

  private update(row: Row, before: Placement, numbers: Numbers): void {
    const fields: Partial<Placement> = {}
    const parentId = this.parentOf(row, before.parentId)
    if (parentId === undefined) return
    if (parentId !== before.parentId) fields.parentId = parentId
    const standing = this.standing(row, before, numbers, parentId, before.pivot)
    if (!standing) return
    Object.assign(fields, standing.fields)
    const name = this.name(row, 'name')
    if (name && name !== before.name) fields.name = name
    if (!this.textFields(row, fields, before)) return
    if (before.kind === 'part') {
      const partId = this.partOf(row, before.partId)
      if (partId === undefined) return
      if (partId !== null && partId !== before.partId) fields.partId = partId
    }
    if (Object.keys(fields).length === 0) {
      this.counts.same++
      return
    }
    if (!this.fits(row, { ...before, ...fields })) return
    this.counts.updated++
    this.operations.push({ do: 'put', id: before.id, fields })
  }

  private add(row: Row, id: string, numbers: Numbers): void {
    const partId = this.partOf(row, null)
    if (partId === undefined) return
    const given = this.text(row, 'kind')
    const kind = given ? KIND_NAMES.find(each => each === given.toLowerCase()) : partId ? 'part' : 'group'
    if (!kind) return this.wrong(row, 'kind', `is none of ${KIND_NAMES.join(', ')}`)
    if (kind === 'part' && partId === null) return this.wrong(row, 'part', 'names no part')
    if (kind === 'block') return this.wrong(row, 'kind', 'cannot be added by a table: a block needs a shape')
    const part = partId === null ? undefined : this.partsById.get(partId)
    const parentId = this.parentOf(row, null)
    if (parentId === undefined) return
    const whole = createPlacement({
      id,
      name: this.name(row, 'name') || part?.name || kind,
      kind,
      partId: kind === 'part' ? partId : null,
      pivot: part?.pivot ?? [0, 0, 0],
      parentId,
      order: this.order++,
    })
    const standing = this.standing(row, whole, numbers, parentId, whole.pivot)
    if (!standing) return
    const fields: Partial<Placement> = {}
    if (!this.textFields(row, fields, whole)) return
    const made = { ...whole, ...standing.fields, ...fields }
    if (!this.fits(row, made)) return
    const { id: _id, ...rest } = made
    this.counts.added++
    this.operations.push({ do: 'put', id, fields: rest })
  }

  /** Position, turn and size as far as they differ; what the table does not give stays. */
  private standing(
    row: Row,
    before: Placement,
    numbers: Numbers,
    parentId: string | null,
    pivot: Placement['pivot'],
  ): { fields: Partial<Placement> } | null {
    if (Object.keys(numbers).length === 0) return { fields: {} }
    const isWorld = this.mapping.space === 'world'
    const isNew = this.fresh.has(before.id)
    const stood = isNew
      ? new Matrix4()
      : isWorld
        ? this.level.worldMatrix(before.id)
        : localMatrix(before, new Matrix4())
    const matrix = fromNumbers({ ...(isNew ? {} : this.numbersAsIs(stood)), ...numbers }, this.mapping)
    if (!isNew && sameMatrix(matrix, stood)) return { fields: {} }
    if (Math.abs(matrix.determinant()) < 1e-18) {
      this.wrong(row, this.at.has('sx') ? 'sx' : 'm11', 'has no size')
      return null
    }
    const above = isWorld && parentId !== null ? this.worldOf(parentId, 0) : null
    const local = above ? matrix.clone().premultiply(above.clone().invert()) : matrix
    if (isSheared(local)) {
      this.wrong(
        row,
        null,
        "stands skewed in what it hangs from; give it a place in the world's axes, or hang it elsewhere",
      )
      return null
    }
    return { fields: decompose(local, pivot) }
  }

  private numbersAsIs(matrix: Matrix4): Numbers {
    return toNumbers(matrix, this.mapping)
  }

  /** Where what a row hangs from will stand: as in the level, or as its own row says. */
  private worldOf(id: string, depth: number): Matrix4 {
    const known = this.worlds.get(id)
    if (known) return known
    const row = this.fresh.get(id)
    const numbers = row && this.numbersOf(row, true)
    const world =
      row && numbers && depth < 100
        ? fromNumbers(numbers, this.mapping)
        : this.level.has(id)
          ? this.level.worldMatrix(id)
          : new Matrix4()
    this.worlds.set(id, world)
    return world
  }

  /** Undefined, with an error, if it is not there. */
  private parentOf(row: Row, before: string | null): string | null | undefined {
    if (!this.at.has('parent id')) return before
    const given = this.text(row, 'parent id')?.toLowerCase()
    if (!given) return null
    if ((this.level.has(given) && !copyOf(given)) || this.fresh.has(given)) return given
    this.wrong(row, 'parent id', 'is the id of nothing in the level or the table')
    return undefined
  }

  /** Undefined, with an error or as unmatched, if there is no such part. */
  private partOf(row: Row, before: string | null): string | null | undefined {
    const id = this.text(row, 'part id')?.toLowerCase()
    if (id && this.partsById.has(id)) return id
    const name = this.text(row, 'part')
    if (!name) {
      if (!id) return before
      this.wrong(row, 'part id', 'is the id of no part of the kit')
      return undefined
    }
    const chosen = this.mapping.parts[name]
    if (chosen !== undefined && this.partsById.has(chosen)) return chosen
    const candidates = this.partsByName.get(name.toLowerCase()) ?? []
    if (candidates.length === 1) return candidates[0]!
    if (before !== null && candidates.includes(before)) return before
    const known = this.unmatched.get(name) ?? { rows: 0, candidates }
    known.rows++
    this.unmatched.set(name, known)
    this.wrong(
      row,
      'part',
      candidates.length > 1 ? 'is the name of several parts' : 'is the name of no part of the kit',
    )
    return undefined
  }

  private textFields(row: Row, fields: Partial<Placement>, before: Placement): boolean {
    for (const column of ['hidden', 'locked'] as const) {
      const text = this.text(row, column)?.toLowerCase()
      if (!text) continue
      const value = /^(true|yes|1)$/.test(text) ? true : /^(false|no|0)$/.test(text) ? false : null
      if (value === null) {
        this.wrong(row, column, 'is neither true nor false')
        return false
      }
      if (value !== before[column]) fields[column] = value
    }
    if (!this.at.has('layer')) return true
    const name = this.name(row, 'layer')
    const fits = name ? nameSchema.safeParse(name) : null
    if (fits?.error) {
      this.wrong(row, 'layer', firstIssue(fits.error).message)
      return false
    }
    const layerId = name ? this.layerNamed(name) : null
    if (layerId !== before.layerId) fields.layerId = layerId
    return true
  }

  /** A layer by its name, which is made if there is none. */
  private layerNamed(name: string): string {
    const known = this.layerByName.get(name.toLowerCase())
    if (known !== undefined) return known
    const id = this.newId()
    this.layerByName.set(name.toLowerCase(), id)
    this.layers.push({
      do: 'put-layer',
      id,
      fields: {
        name,
        color: '#0e6e6e',
        visible: true,
        locked: false,
        order: Math.max(0, ...[...this.level.layers.values()].map(layer => layer.order + 1)) + this.layers.length,
      },
    })
    return id
  }

  /** @param quietly errors were told already */
  private numbersOf(row: Row, quietly = false): Numbers | null {
    const numbers: Numbers = {}
    for (const column of numberColumns(this.mapping)) {
      const cell = this.text(row, column)
      if (cell === undefined || cell === '') continue
      const value = readNumber(cell, this.mapping.decimal)
      if (value === null) {
        if (!quietly) this.wrong(row, column, `"${cell.slice(0, 40)}" is no number`)
        return null
      }
      numbers[column] = value
    }
    return numbers
  }

  private fits(row: Row, whole: Placement): boolean {
    const read = placementSchema.safeParse(whole)
    if (read.success) return true
    const { path, message } = firstIssue(read.error)
    const [field] = path
    this.wrong(
      row,
      field === 'name' ? 'name' : field === 'translation' ? 'x' : field === 'scale' ? 'sx' : null,
      message,
    )
    return false
  }

  /** A name as a cell gives it, on one line; one that is too long is refused where it is used. */
  private name(row: Row, column: 'name' | 'layer'): string {
    return plainLine(this.text(row, column) ?? '')
  }

  /** The id that a row gives, in small letters as far as it is one; undefined if it gives none. */
  private idIn(row: Row): string | undefined {
    const given = this.text(row, 'id')
    return given ? (idSchema.safeParse(given).data ?? given) : undefined
  }

  /** What a cell says; undefined if there is no such column. */
  private text(row: Row, column: Column): string | undefined {
    const at = this.at.get(column)
    const cell = at === undefined ? undefined : (row.cells[at] ?? '')
    // A quotation mark makes text of what a spreadsheet would take for a formula.
    return cell?.trim().replace(/^'(?='*[=+\-@])/, '')
  }

  private wrong(row: Row, column: Column | null, message: string): void {
    this.counts.errors++
    const at = column === null ? undefined : this.at.get(column)
    if (this.errors.length < MOST_ERRORS)
      this.errors.push({
        line: row.line,
        column: at === undefined ? null : at + 1,
        heading: at === undefined ? '' : this.headings[at]!,
        message,
      })
  }
}

/** A number as people and programs write it; null if it is none. */
function readNumber(cell: string, decimal: 'point' | 'comma'): number | null {
  const text = decimal === 'comma' ? cell.replace(',', '.') : cell
  if (!/^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i.test(text)) return null
  const value = Number(text)
  return Number.isFinite(value) ? value : null
}

function sameMatrix(a: Matrix4, b: Matrix4): boolean {
  const size = Math.max(1, ...b.elements.map(Math.abs))
  return a.elements.every((value, i) => Math.abs(value - b.elements[i]!) <= 1e-9 * size)
}
