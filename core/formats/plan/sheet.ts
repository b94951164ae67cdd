import { Box3, Matrix4, Quaternion, Vector3 } from 'three'
import { isLight } from '../../level/kinds'
import type { LevelView } from '../../scene/level-view'
import { measureNow } from '../../measure/measures'
import type { Figure } from '../../measure/definition'
import { dimensionOf } from '../../relate/dimension'
import { keptOfTape } from '../../relate/tape'
import { printLengths } from '../../units/quantity'
import type { BillLine } from '../bill'
import { billOf } from '../bill'
import type { PartSource } from '../out/shapes'
import { Scope } from '../out/scope'
import type { OnShare } from '../out/share'
import type { PlanOutline, Weight } from './drawing'
import { drawLevel, WEIGHTS } from './drawing'
import type { PlanOptions } from './options'
import { PAPERS, USUAL_SCALES } from './options'
import { VIEW_NAMES, viewMatrix } from './view'

/** What is on a sheet: millimetres from its upper left corner; sizes of letters are their heights in millimetres. */
export type SheetItem =
  | { type: 'lines'; width: number; color: string; /** Four numbers each. */ at: readonly number[]; dashed?: true }
  | { type: 'shape'; fill: string; /** Two numbers each. */ at: readonly number[] }
  | {
      type: 'text'
      text: string
      x: number
      y: number
      size: number
      bold?: true
      color: string
      anchor: 'start' | 'middle' | 'end'
      /** With a pale border, to be read over lines. */
      halo?: true
    }

/** A drawing on paper. Its groups are the level's layers, and what is drawn over them. */
export type Sheet = {
  width: number
  height: number
  scale: number
  groups: { name: string; items: SheetItem[] }[]
  /** What did not come out as asked for. */
  remarks: string[]
  bill: BillLine[]
}

/** What is said in the title block. @param date as it is to be read */
export type SheetTitle = { name: string; date: string; revision: number }

const INK = '#22303a'
const QUIET = '#5c6a70'
const TAPE = '#0e6e6e'
/** Widths of lines in millimetres (ISO 128-2:2022). */
const WIDTHS: Record<Weight, number> = { cut: 0.5, near: 0.25, middle: 0.18, far: 0.13 }
/**
 * Millimetres: around the frame, between things, of the column on the right, and of the title block (ISO 7200:2004 has
 * at most 180 wide).
 */
const [MARGIN, GAP, COLUMN, TITLE] = [10, 4, 62, 34]
const LETTERS = 2.5
/** A letter is about so much wider than half its height is. */
const LETTER_WIDTH = 0.55

/**
 * Puts a level on a sheet of paper, to scale.
 *
 * @throws RangeError if a part is not there; TooMuchToDraw
 */
export async function planSheet(
  level: LevelView,
  partOf: PartSource,
  options: PlanOptions,
  title: SheetTitle,
  onShare?: OnShare,
): Promise<Sheet> {
  const [long, short] = PAPERS[options.paper]
  const [width, height] = options.upright ? [short, long] : [long, short]
  const area = {
    left: MARGIN + GAP,
    top: MARGIN + GAP,
    right: width - MARGIN - GAP - (options.legend ? COLUMN : 0),
    bottom: height - MARGIN - GAP - TITLE,
  }
  const scope = new Scope(level, options)
  // A tenth of a millimetre on the smallest scale that may come of it: the drawing is worked out once.
  const drawing = await drawLevel(level, scope, partOf, options.view, options.cut ?? Infinity, 0.0005, onShare)
  const bill = await billOf(level, scope, partOf, { perLayer: false, hidden: false })
  const remarks: string[] = []
  const size = drawing.bounds.isEmpty() ? new Vector3(1, 1, 1) : drawing.bounds.getSize(new Vector3())
  const needed = Math.max((size.x * 1000) / (area.right - area.left), (size.y * 1000) / (area.bottom - area.top))
  const scale =
    options.scale === 'fit' ? (USUAL_SCALES.find(each => each >= needed) ?? Math.ceil(needed)) : options.scale
  if (drawing.outlines.length === 0) remarks.push('Nothing is there to be drawn.')
  if (needed > scale)
    remarks.push(
      `At 1:${scale} it does not fit on ${options.paper}; what lies outside the frame is left out. 1:${USUAL_SCALES.find(each => each >= needed) ?? Math.ceil(needed)} would fit.`,
    )
  const toPaper = new ToPaper(
    area,
    drawing.bounds.isEmpty() ? new Box3(new Vector3(), size) : drawing.bounds,
    1000 / scale,
  )
  const groups = layerGroups(level, toPaper, drawing.lines)
  if (options.measures) {
    groups.push({ name: 'Measures', items: measureItems(level, options, toPaper) })
    const kept = keptItems(level, options, toPaper)
    if (kept.length > 0) groups.push({ name: 'Kept', items: kept })
  }
  if (options.names) groups.push({ name: 'Names', items: nameItems(level, drawing.outlines, toPaper) })
  groups.push({
    name: 'Sheet',
    items: [
      ...frame(width, height),
      ...titleBlock(width, height, title, options, scale),
      ...scaleBar(height, scale),
      ...(options.view === 'top' ? north(level, area) : []),
      ...(options.legend ? legend(width, bill, height - MARGIN - TITLE) : []),
    ],
  })
  return { width, height, scale, groups, remarks, bill }
}

type Area = { left: number; top: number; right: number; bottom: number }

/** From the drawing's metres to the paper's millimetres; lines are cut off at the frame of the drawing. */
class ToPaper {
  private readonly x0: number
  private readonly y0: number

  constructor(
    readonly area: Area,
    bounds: Box3,
    readonly factor: number,
  ) {
    const middle = bounds.getCenter(new Vector3())
    this.x0 = (area.left + area.right) / 2 - middle.x * factor
    this.y0 = (area.top + area.bottom) / 2 - middle.y * factor
  }

  x(at: number): number {
    return this.x0 + at * this.factor
  }

  y(at: number): number {
    return this.y0 + at * this.factor
  }

  holds(x: number, y: number): boolean {
    const { left, top, right, bottom } = this.area
    return x >= left && x <= right && y >= top && y <= bottom
  }

  /** Lines in millimetres, as much of them as lies within (Liang and Barsky 1984). */
  lines(metres: ArrayLike<number>): number[] {
    const out: number[] = []
    const { left, top, right, bottom } = this.area
    for (let i = 0; i < metres.length; i += 4) {
      const [x0, y0, x1, y1] = [
        this.x(metres[i]!),
        this.y(metres[i + 1]!),
        this.x(metres[i + 2]!),
        this.y(metres[i + 3]!),
      ]
      const [dx, dy] = [x1 - x0, y1 - y0]
      let [from, to] = [0, 1]
      for (const [p, q] of [
        [-dx, x0 - left],
        [dx, right - x0],
        [-dy, y0 - top],
        [dy, bottom - y0],
      ] as const) {
        if (p === 0 && q < 0) to = -1
        else if (p < 0) from = Math.max(from, q / p)
        else if (p > 0) to = Math.min(to, q / p)
      }
      if (from < to) out.push(fine(x0 + from * dx), fine(y0 + from * dy), fine(x0 + to * dx), fine(y0 + to * dy))
    }
    return out
  }
}

const fine = (value: number) => Math.round(value * 1000) / 1000

function layerGroups(
  level: LevelView,
  toPaper: ToPaper,
  lines: Awaited<ReturnType<typeof drawLevel>>['lines'],
): Sheet['groups'] {
  const order = [null, ...[...level.layers.values()].sort((a, b) => a.order - b.order).map(({ id }) => id)]
  return order.flatMap(layer => {
    const found = lines.get(layer)
    if (!found) return []
    const items = WEIGHTS.toReversed().flatMap((weight): SheetItem[] => {
      const at = toPaper.lines(found[weight])
      return at.length > 0 ? [{ type: 'lines', width: WIDTHS[weight], color: INK, at }] : []
    })
    return [{ name: layer === null ? 'No layer' : level.layers.get(layer)!.name, items }]
  })
}

const text = (
  x: number,
  y: number,
  said: string,
  size = LETTERS,
  more: Partial<Extract<SheetItem, { type: 'text' }>> = {},
): SheetItem => ({ type: 'text', text: said, x: fine(x), y: fine(y), size, color: INK, anchor: 'start', ...more })
const line = (width: number, ...at: number[]): SheetItem => ({ type: 'lines', width, color: INK, at: at.map(fine) })
const widthOf = (said: string, size: number) => said.length * size * LETTER_WIDTH

/** Tapes and what else is measured between points: drawn straight, with a bar at both ends and the number beside. */
function measureItems(level: LevelView, { view }: PlanOptions, toPaper: ToPaper): SheetItem[] {
  const toDrawing = viewMatrix(view)
  const where = {
    level,
    matrixOf: (id: string) => level.worldMatrix(id),
    shownBy: () => [],
    below: () => null,
    axes: new Quaternion(),
  }
  const items: SheetItem[] = []
  for (const measure of level.measures.values()) {
    // Those between things need their shapes, and are not drawn.
    if (measure.hidden || measure.sides.length > 0) continue
    const { lines, guides, numbers } = measureNow(measure, where)
    const flat = ([from, to]: readonly [Vector3, Vector3]) =>
      [from, to].flatMap(end => {
        const at = end.clone().applyMatrix4(toDrawing)
        return [at.x, at.y]
      })
    for (const leg of lines) {
      const at = toPaper.lines(flat(leg))
      if (at.length === 0) continue
      items.push({ type: 'lines', width: 0.25, color: TAPE, at })
      const [x0, y0, x1, y1] = at as [number, number, number, number]
      const length = Math.hypot(x1 - x0, y1 - y0)
      if (length === 0) continue
      const [nx, ny] = [(-(y1 - y0) / length) * 1.5, ((x1 - x0) / length) * 1.5]
      items.push({
        type: 'lines',
        width: 0.35,
        color: TAPE,
        at: [x0 - nx, y0 - ny, x0 + nx, y0 + ny, x1 - nx, y1 - ny, x1 + nx, y1 + ny].map(fine),
      })
    }
    for (const guide of guides) {
      const at = toPaper.lines(flat(guide))
      if (at.length > 0) items.push({ type: 'lines', width: 0.13, color: TAPE, at, dashed: true })
    }
    for (const { at, value, figure } of numbers) {
      const place = at.clone().applyMatrix4(toDrawing)
      const [x, y] = [toPaper.x(place.x), toPaper.y(place.y)]
      if (toPaper.holds(x, y))
        items.push(text(x, y - 0.8, printFigure(value, figure), LETTERS, { color: TAPE, anchor: 'middle', halo: true }))
    }
  }
  return items
}

/** Millimetres: half the length of a bar, and the half width of the mark at what holds a kept distance. */
const [BAR, HELD_BY] = [1.5, 0.9]

/**
 * Distances that are kept, as dimensions: a bar at what follows, an open diamond at what holds it, and the number with
 * the word. Those that are drawn as a tape are not drawn again.
 */
function keptItems(level: LevelView, { view }: PlanOptions, toPaper: ToPaper): SheetItem[] {
  const toDrawing = viewMatrix(view)
  const taped = new Set(
    [...level.measures.values()].flatMap(measure => (measure.hidden ? [] : (keptOfTape(level, measure)?.id ?? []))),
  )
  const flat = (...points: Vector3[]) =>
    points.flatMap(point => {
      const at = point.clone().applyMatrix4(toDrawing)
      return [at.x, at.y]
    })
  return [...level.relations.values()].flatMap((relation): SheetItem[] => {
    const kept = taped.has(relation.id) ? null : dimensionOf(level, relation)
    const at = kept ? toPaper.lines(flat(kept.from, kept.to)) : []
    if (!kept || at.length === 0) return []
    const [x0, y0, x1, y1] = at as [number, number, number, number]
    const length = Math.hypot(x1 - x0, y1 - y0)
    // Seen from its end there is nothing to be drawn.
    if (length < 0.1) return []
    const [nx, ny] = [(-(y1 - y0) / length) * BAR, ((x1 - x0) / length) * BAR]
    const diamond = [x0 - HELD_BY, y0, x0, y0 - HELD_BY, x0 + HELD_BY, y0, x0, y0 + HELD_BY]
    const guide = toPaper.lines(flat(kept.to, kept.point))
    return [
      { type: 'lines', width: 0.25, color: TAPE, at },
      { type: 'lines', width: 0.35, color: TAPE, at: [x1 - nx, y1 - ny, x1 + nx, y1 + ny].map(fine) },
      {
        type: 'lines',
        width: 0.25,
        color: TAPE,
        at: [0, 2, 4, 6].flatMap(i => [0, 1, 2, 3].map(k => fine(diamond[(i + k) % 8]!))),
      },
      ...(guide.length > 0
        ? [{ type: 'lines' as const, width: 0.13, color: TAPE, at: guide, dashed: true as const }]
        : []),
      text((x0 + x1) / 2, (y0 + y1) / 2 - 0.8, `${printFigure(kept.metres, 'length')} kept`, LETTERS, {
        color: TAPE,
        anchor: 'middle',
        halo: true,
      }),
    ]
  })
}

function printFigure(value: number, figure: Figure): string {
  switch (figure) {
    case 'length':
      return printLengths([value], 'm', 3)
    case 'area':
      return `${value.toFixed(2)} m²`
    case 'angle':
      return `${value.toFixed(1)}°`
    case 'slope':
      return `${(value * 100).toFixed(1)} %`
  }
}

/** Names in the middle of things, the largest first, where there is room for them. */
function nameItems(level: LevelView, outlines: readonly PlanOutline[], toPaper: ToPaper): SheetItem[] {
  const taken = new Set<string>()
  const items: SheetItem[] = []
  const room = (x: number, y: number, wide: number) => {
    const cells: string[] = []
    for (let column = Math.floor((x - wide / 2) / 3); column <= Math.floor((x + wide / 2) / 3); column++)
      for (const row of [Math.floor((y - 1.5) / 3), Math.floor((y + 1) / 3)]) cells.push(`${column} ${row}`)
    return cells
  }
  const sizeOf = ({ box }: PlanOutline) => (box.max.x - box.min.x) * (box.max.y - box.min.y)
  for (const outline of outlines.filter(({ isSeen }) => isSeen).sort((a, b) => sizeOf(b) - sizeOf(a))) {
    const { name } = level.need(outline.id)
    const middle = outline.box.getCenter(new Vector3())
    const [x, y, wide] = [toPaper.x(middle.x), toPaper.y(middle.y), widthOf(name, 2)]
    // A name that is much wider than its thing would be read as another's.
    if (
      wide > (outline.box.max.x - outline.box.min.x) * toPaper.factor * 1.6
      || !toPaper.holds(x - wide / 2, y)
      || !toPaper.holds(x + wide / 2, y)
    )
      continue
    const cells = room(x, y, wide)
    if (cells.some(cell => taken.has(cell))) continue
    for (const cell of cells) taken.add(cell)
    items.push(text(x, y + 0.7, name, 2, { anchor: 'middle', halo: true }))
  }
  return items
}

function frame(width: number, height: number): SheetItem[] {
  const [right, bottom, column] = [width - MARGIN, height - MARGIN, height - MARGIN - TITLE]
  return [
    line(
      0.7,
      MARGIN,
      MARGIN,
      right,
      MARGIN,
      right,
      MARGIN,
      right,
      bottom,
      right,
      bottom,
      MARGIN,
      bottom,
      MARGIN,
      bottom,
      MARGIN,
      MARGIN,
    ),
    line(0.35, MARGIN, column, right, column),
  ]
}

function titleBlock(
  width: number,
  height: number,
  { name, date, revision }: SheetTitle,
  { view, cut, paper }: PlanOptions,
  scale: number,
): SheetItem[] {
  const wide = Math.min(180, width - 2 * MARGIN - 60)
  const [left, top, right, bottom] = [width - MARGIN - wide, height - MARGIN - TITLE, width - MARGIN, height - MARGIN]
  const columns = [0, 0.46, 0.64, 0.8].map(share => left + wide * share)
  const field = (x: number, y: number, label: string, said: string, size = 3.5): SheetItem[] => [
    text(x + 2, y + 4, label, 1.8, { color: QUIET }),
    text(x + 2, y + 10, said, size, { bold: true }),
  ]
  const half = (top + bottom) / 2
  return [
    line(
      0.35,
      left,
      top,
      left,
      bottom,
      left,
      half,
      right,
      half,
      ...columns.slice(1).flatMap(x => [x, half, x, bottom]),
    ),
    ...field(left, top, 'Level', name.length > wide / 4 ? `${name.slice(0, Math.floor(wide / 4))} …` : name, 5),
    ...field(
      columns[0]!,
      half,
      'View',
      `${VIEW_NAMES[view]}${cut === undefined ? '' : `, cut at ${printLengths([cut], 'm', 2)}`}`,
      2.8,
    ),
    ...field(columns[1]!, half, 'Scale', `1:${scale} (${paper})`),
    ...field(columns[2]!, half, 'Date', date, 2.8),
    ...field(columns[3]!, half, 'Change', String(revision)),
  ]
}

/** A bar of four equal parts, each of a round number of metres, about two to four centimetres long. */
function scaleBar(height: number, scale: number): SheetItem[] {
  const metres =
    [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000].find(
      each => (each * 1000) / scale >= 7,
    ) ?? 10_000
  const part = (metres * 1000) / scale
  const [left, top] = [MARGIN + GAP, height - MARGIN - TITLE / 2]
  const bars = [0, 1, 2, 3].flatMap((i): SheetItem[] => [
    line(
      0.25,
      left + i * part,
      top,
      left + (i + 1) * part,
      top,
      left + (i + 1) * part,
      top,
      left + (i + 1) * part,
      top + 2,
      left + (i + 1) * part,
      top + 2,
      left + i * part,
      top + 2,
      left + i * part,
      top + 2,
      left + i * part,
      top,
    ),
    ...(i % 2 === 0
      ? [
          {
            type: 'shape' as const,
            fill: INK,
            at: [
              left + i * part,
              top,
              left + (i + 1) * part,
              top,
              left + (i + 1) * part,
              top + 2,
              left + i * part,
              top + 2,
            ].map(fine),
          },
        ]
      : []),
  ])
  return [
    ...bars,
    ...[0, 2, 4].map(i =>
      text(left + i * part, top - 1.2, `${Number((i * metres).toFixed(2))}${i === 4 ? ' m' : ''}`, 2, {
        anchor: 'middle',
      }),
    ),
  ]
}

/** An arrow to the north, as the level's sun says where that is; to -Z if it has none that says so. */
function north(level: LevelView, { right, top }: Area): SheetItem[] {
  const degrees =
    [...level.placements()].flatMap(({ own }) => (isLight(own) && own.place ? [own.place.north] : []))[0] ?? 0
  const turn = new Matrix4().makeRotationZ((degrees * Math.PI) / 180)
  const middle = new Vector3(right - 8, top + 9, 0)
  const at = (x: number, y: number) => {
    const point = new Vector3(x, y, 0).applyMatrix4(turn).add(middle)
    return [fine(point.x), fine(point.y)]
  }
  const letter = at(0, -9)
  return [
    { type: 'shape', fill: INK, at: [...at(0, -6.5), ...at(2, 4), ...at(0, 2.4)] },
    line(0.25, ...at(0, -6.5), ...at(-2, 4), ...at(-2, 4), ...at(0, 2.4)),
    text(letter[0]!, letter[1]! + 1, 'N', 3, { bold: true, anchor: 'middle' }),
  ]
}

/** The parts and how often each is there, as many as there is room for. */
function legend(width: number, bill: readonly BillLine[], bottom: number): SheetItem[] {
  const [left, right, top] = [width - MARGIN - COLUMN, width - MARGIN, MARGIN]
  const most = Math.max(0, Math.floor((bottom - top - 14) / 4.2))
  const rows = bill.slice(0, bill.length > most ? most - 1 : most)
  const items = [line(0.35, left, top, left, bottom), text(left + 3, top + 6, 'Parts', 3, { bold: true })]
  rows.forEach(({ name, count }, i) => {
    const y = top + 12 + i * 4.2
    const room = Math.floor((COLUMN - 18) / (LETTERS * LETTER_WIDTH))
    items.push(
      text(left + 3, y, name.length > room ? `${name.slice(0, room - 1)}…` : name),
      text(right - 3, y, String(count), LETTERS, { anchor: 'end' }),
    )
  })
  if (rows.length < bill.length)
    items.push(
      text(left + 3, top + 12 + rows.length * 4.2, `and ${bill.length - rows.length} more`, LETTERS, { color: QUIET }),
    )
  return items
}
