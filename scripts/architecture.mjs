// Reads who imports whom: refuses what the rules in .dependency-cruiser.mjs do not allow, and an old drawing of the
// folders in docs/architecture.svg; with --write that is drawn anew.

import { readFileSync, writeFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { cruise, format } from 'dependency-cruiser'
import extractTSConfig from 'dependency-cruiser/config-utl/extract-ts-config'
import rules, { LAYERS } from '../.dependency-cruiser.mjs'

const root = fileURLToPath(new URL('..', import.meta.url))
const DRAWING = `${root}docs/architecture.svg`
process.chdir(root)

/** The rows of the drawing, from those who import to those who are imported; a name stands for a folder of the rest. */
const ROWS = [
  { of: 'app', folders: ['pages'] },
  { of: 'app', folders: ['shell'] },
  {
    of: 'app/features',
    folders: [
      'kit', 'transform', 'blocks', 'line-up', 'repeat', 'scatter', 'measure', 'check', 'cameras', 'settle', 'hand-over',
    ],
  },
  { of: 'app', folders: ['ui', 'editor'] },
  { of: 'app', folders: ['stage', 'workers', 'errors', 'api'] },
  { of: 'server', folders: ['api', 'jobs', 'services', 'auth', 'utils', 'db'] },
  { of: 'core', folders: LAYERS.toReversed() },
] // prettier-ignore

const [WIDTH, ROW, BOX, TOP, GAP] = [1180, 92, 46, 54, 12]
const INK = { box: '#eef3f1', edge: '#0e6e6e', text: '#1d2b2a', arrow: '#6d3a5e', quiet: '#5d6b69' }

const { output } = await cruise(
  ['app', 'core', 'server', 'demo'],
  { ...rules.options, ruleSet: { forbidden: rules.forbidden, options: rules.options }, validate: true },
  undefined,
  { tsConfig: extractTSConfig(rules.options.tsConfig.fileName) },
)
const { modules, summary } = output

const told = await format(output, { outputType: 'err' })
process.stdout.write(told.output)

const drawing = draw(countArrows())
if (process.argv.includes('--write')) writeFileSync(DRAWING, drawing)
else if (readFileSync(DRAWING, 'utf8') !== drawing) {
  console.error('docs/architecture.svg is not how the folders are: `npm run architecture` draws it anew.')
  process.exitCode = 1
}
if (summary.error > 0) process.exitCode = 1

/** The folder of the drawing that a file is in; null for one that is drawn nowhere. */
function folderOf(path) {
  for (const { of, folders } of ROWS) {
    for (const folder of folders) if (path.startsWith(`${of}/${folder}/`)) return `${of}/${folder}`
  }
  return null
}

/** How many imports lead from each folder to each other, without those of tests. */
function countArrows() {
  const arrows = new Map()
  for (const { source, dependencies } of modules) {
    const from = folderOf(source)
    if (from === null || /\.test\.ts$|tool-bench\.ts$/.test(source)) continue
    for (const { resolved } of dependencies) {
      const to = folderOf(resolved)
      // All may use core, and its layers stand in their order.
      if (to === null || to === from || to.startsWith('core/')) continue
      const key = `${from} ${to}`
      arrows.set(key, (arrows.get(key) ?? 0) + 1)
    }
  }
  return arrows
}

function draw(arrows) {
  const places = new Map()
  ROWS.forEach(({ of, folders }, row) => {
    const width = Math.min((WIDTH - 120 - GAP * (folders.length - 1)) / folders.length, 220)
    const left = 110 + (WIDTH - 120 - folders.length * width - (folders.length - 1) * GAP) / 2
    folders.forEach((folder, i) => {
      const place = { x: left + i * (width + GAP), y: TOP + row * ROW, width, name: folder }
      places.set(`${of}/${folder}`, place)
    })
  })
  const lines = [...arrows].sort().map(([key, count]) =>
    line(
      key.split(' ').map(each => places.get(each)),
      count,
      key,
    ),
  )
  const boxes = [...places.values()].map(({ x, y, width, name }) => [
    `<rect x="${round(x)}" y="${y}" width="${round(width)}" height="${BOX}" rx="7" fill="${INK.box}" stroke="${INK.edge}"/>`,
    `<text x="${round(x + width / 2)}" y="${y + 28}" text-anchor="middle" font-size="14" fill="${INK.text}">${name}</text>`,
  ])
  const names = ROWS.flatMap(({ of }, row) => of === ROWS[row - 1]?.of ? [] : [
    `<text x="14" y="${TOP + row * ROW + 28}" font-size="13" fill="${INK.quiet}">${of.replace('app/', '')}</text>`,
  ]) // prettier-ignore
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${WIDTH} ${TOP + ROWS.length * ROW}" font-family="sans-serif">`,
    '<rect width="100%" height="100%" fill="#fbfaf6"/>',
    `<text x="14" y="28" font-size="13" fill="${INK.quiet}">Who imports whom: lines lead downwards, the thicker the more. All may use core; of its layers each knows those to its right. Drawn by npm run architecture.</text>`,
    ...lines, ...boxes.flat(), ...names,
    '</svg>', '',
  ].join('\n') // prettier-ignore
}

/** A line from the bottom of a box to the top of another; beside each other, along their sides. */
function line([from, to], count, key) {
  const isBeside = from.y === to.y
  const [x1, x2] = [from.x + from.width / 2, to.x + to.width / 2]
  const way = isBeside
    ? `M${round(x1)} ${from.y} C${round(x1)} ${from.y - 30} ${round(x2)} ${to.y - 30} ${round(x2)} ${to.y}`
    : `M${round(x1)} ${from.y + BOX} C${round(x1)} ${from.y + BOX + 30} ${round(x2)} ${to.y - 30} ${round(x2)} ${to.y}`
  // Few, some or many: not every import is a new drawing.
  const width = count < 4 ? 0.8 : count < 16 ? 1.8 : 3
  return `<path d="${way}" fill="none" stroke="${INK.arrow}" stroke-opacity="0.28" stroke-width="${width}"><title>${key.replace(' ', ' → ')}</title></path>`
}

function round(value) {
  return Math.round(value * 10) / 10
}
