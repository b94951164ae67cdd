import { Matrix4, Vector3 } from 'three'
import { ruleMatrices, RULES } from '../../core/arrange/rules'
import { snapValue } from '../../core/edit/snap/grid'
import { localMatrix, degreesToQuat } from '../../core/math/transform'
import type { Vec3 } from '../../core/math/vectors'
import { indexOf, inOrder } from '../../core/relate/graph'
import type { Relation } from '../../core/level/schema'

// The handbook's drawings, made by what the program itself works with: they cannot say anything else than it does.

const [INK, QUIET, LINE, PETROL, PICKED, YELLOW] = ['#22303A', '#5C6A70', '#D9D0BE', '#0E6E6E', '#D6336C', '#F2B441']

const round = (value: number) => Number(value.toFixed(2))
const text = (x: number, y: number, says: string, more = '') =>
  `<text x="${round(x)}" y="${round(y)}" ${more}>${says}</text>`
const line = (x1: number, y1: number, x2: number, y2: number, more = '') =>
  `<line x1="${round(x1)}" y1="${round(y1)}" x2="${round(x2)}" y2="${round(y2)}" ${more}/>`
const dot = (x: number, y: number, r: number, fill: string) =>
  `<circle cx="${round(x)}" cy="${round(y)}" r="${r}" fill="${fill}"/>`
const shape = (points: readonly (readonly [number, number])[], more: string) =>
  `<polygon points="${points.map(([x, y]) => `${round(x)},${round(y)}`).join(' ')}" ${more}/>`

/** @param says what it shows, for who cannot see it */
function drawing(width: number, height: number, says: string, pieces: readonly string[]): string {
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}" role="img" aria-label="${says}" font-family="Barlow, sans-serif" font-size="14" fill="${INK}">`,
    `<rect width="${width}" height="${height}" fill="#FBF8F1"/>`,
    ...pieces,
    '</svg>',
    '',
  ].join('\n')
}

/** A drag from 0.13 m, at a step of 0.25 m: to the lattice, and in increments. */
function snap(): string {
  const [begin, step, scale, left] = [0.13, 0.25, 420, 60]
  const x = (metres: number) => left + metres * scale
  const rows = [
    { lattice: true, y: 70, says: 'to the lattice' },
    { lattice: false, y: 150, says: 'in increments' },
  ]
  return drawing(560, 200, 'A drag that begins at 0.13 m, at a step of 0.25 m', [
    ...[0, 1, 2, 3, 4].flatMap(i => [
      line(x(i * step), 30, x(i * step), 175, `stroke="${LINE}"`),
      text(x(i * step), 192, (i * step).toFixed(2), `text-anchor="middle" fill="${QUIET}" font-size="12"`),
    ]),
    ...rows.flatMap(({ lattice, y, says }) => {
      const wanted = Array.from({ length: 18 }, (_, i) => begin + i * 0.05)
      const ends = [...new Set(wanted.map(to => snapValue(begin, to, { size: step, lattice })))]
      return [
        text(left, y - 18, says, 'font-weight="600"'),
        line(x(0), y, x(1), y, `stroke="${QUIET}"`),
        dot(x(begin), y, 4, INK),
        ...ends.filter(to => to <= 1).map(to => dot(x(to), y, 6, PICKED)),
        ...ends
          .filter(to => to <= 1)
          .map(to => text(x(to), y + 20, to.toFixed(2), `text-anchor="middle" font-size="11"`)),
      ]
    }),
  ])
}

/** A door of 1.2 by 0.1 m, turned by 60 degrees about its hinge and about its middle; seen from above. */
function pivot(): string {
  const [scale, width, depth] = [110, 1.2, 0.1]
  const corners: Vec3[] = [
    [-width / 2, 0, -depth / 2],
    [width / 2, 0, -depth / 2],
    [width / 2, 0, depth / 2],
    [-width / 2, 0, depth / 2],
  ]
  const panel = (at: Vec3, cx: number, says: string) => {
    const outline = (degrees: number) => {
      const translation = at
      const matrix = localMatrix(
        { translation, rotation: degreesToQuat([0, degrees, 0]), scale: [1, 1, 1], pivot: at },
        new Matrix4(),
      )
      return corners.map(corner => {
        const { x, z } = new Vector3(...corner).applyMatrix4(matrix)
        return [cx + x * scale, 70 + z * scale] as const
      })
    }
    return [
      shape(outline(0), `fill="none" stroke="${QUIET}" stroke-dasharray="5 4"`),
      shape(outline(-60), `fill="${YELLOW}" stroke="${INK}"`),
      dot(cx + at[0] * scale, 70 + at[2] * scale, 5, PICKED),
      text(cx, 212, says, 'text-anchor="middle" font-weight="600"'),
    ]
  }
  return drawing(560, 225, 'A door turned about a pivot at its hinge, and about its middle', [
    ...panel([-width / 2, 0, 0], 140, 'the pivot at the hinge'),
    ...panel([0, 0, 0], 410, 'the pivot in the middle'),
  ])
}

/** Rows of a fan with as many copies as stand at the first row's spacing. */
function fan(): string {
  const rule = { ...RULES.fan.first, rows: 4, first: 7, radius: 3, depth: 0.9, arc: 120, counts: 'spacing' as const }
  const matrices = ruleMatrices(rule)
  const places = Array.from({ length: matrices.length / 16 }, (_, i) => [
    matrices[i * 16 + 12]!,
    matrices[i * 16 + 14]!,
  ])
  const [cx, cy, scale] = [280, 20, 38]
  const rows = new Map<string, number>()
  for (const [x, z] of places) {
    const radius = Math.hypot(x!, z!).toFixed(2)
    rows.set(radius, (rows.get(radius) ?? 0) + 1)
  }
  return drawing(560, 275, 'Four rows of a fan seen from above, with how many copies each has', [
    dot(cx, cy, 4, INK),
    ...places.map(([x, z]) => dot(cx + x! * scale, cy + z! * scale, 6, PETROL)),
    ...[...rows].map(([radius, count]) =>
      text(
        cx - 6,
        cy + Number(radius) * scale + 20,
        String(count),
        `text-anchor="middle" font-size="12" fill="${PICKED}"`,
      ),
    ),
    text(20, 262, `radius ${[...rows.keys()].join(', ')} m`, `font-size="12" fill="${QUIET}"`),
  ])
}

/** What follows what: in the order in which it is worked out. */
function order(): string {
  const keep = (held: string, holder: string): Relation => ({
    id: `${held} ${holder}`,
    held,
    point: [0, 0, 0],
    holders: [{ at: [0, 0, 0], on: holder, point: [0, 0, 0] }],
    rule: { kind: 'same', of: 'height', times: 1 },
  })
  const relations = [keep('lid', 'crate'), keep('basket', 'lid'), keep('crate', 'slab'), keep('sign', 'crate')]
  const { byHeld } = indexOf(relations)
  const { order: found } = inOrder(byHeld.keys(), { byHeld, parentOf: () => null })
  const all = ['slab', ...found]
  const depth = new Map<string, number>([['slab', 0]])
  for (const id of found)
    depth.set(id, 1 + Math.max(...byHeld.get(id)!.map(({ holders }) => depth.get(holders[0]!.on!)!)))
  const seen = new Map<number, number>()
  const place = new Map(
    all.map(id => {
      const column = depth.get(id)!
      const row = seen.get(column) ?? 0
      seen.set(column, row + 1)
      return [id, { x: 70 + column * 135, y: 60 + row * 70 }]
    }),
  )
  return drawing(560, 190, 'A slab is moved; what is kept to it follows, each after what it waits for', [
    ...relations.map(({ held, holders }) => {
      const [a, b] = [place.get(holders[0]!.on!)!, place.get(held)!]
      return line(a.x + 45, a.y, b.x - 45, b.y, `stroke="${PETROL}" stroke-width="2"`)
    }),
    ...all.flatMap((id, i) => {
      const { x, y } = place.get(id)!
      return [
        `<rect x="${x - 45}" y="${y - 18}" width="90" height="36" rx="4" fill="#FFFFFF" stroke="${i === 0 ? PICKED : INK}"/>`,
        text(x, y + 5, id, 'text-anchor="middle"'),
        text(x - 40, y - 23, String(i + 1), `font-size="12" fill="${QUIET}"`),
      ]
    }),
    text(
      20,
      178,
      'the slab is moved; the numbers say in which order the others follow',
      `font-size="12" fill="${QUIET}"`,
    ),
  ])
}

/** All drawings, by the names of their files. */
export const DRAWINGS: Readonly<Record<string, () => string>> = { snap, pivot, fan, order }
