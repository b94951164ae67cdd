// Makes docs/measurements.md, with a chart for each of its tables, of what the benches have told.
import { execFileSync } from 'node:child_process'
import { mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { cpus, totalmem } from 'node:os'
import { join } from 'node:path'
import { init } from 'echarts'

const [INK, QUIET, GROUND, GRID] = ['#22303a', '#5c6a70', '#fbfaf7', '#e2ddd2']
const COLOURS = ['#0e6e6e', '#b4552d', '#5b4b8a', '#7a7a2b', '#2f6db0', '#a03a6a', '#4d7a3a', '#8a6a4a']
const SYMBOLS = ['circle', 'rect', 'triangle', 'diamond', 'emptyCircle', 'emptyRect', 'emptyTriangle', 'emptyDiamond']
const WIDTH = 800
const text = { color: INK, fontFamily: 'Barlow, sans-serif', fontSize: 12 }

/** @param lines the tables, as `bench/report` writes them */
export function writeMeasurements(lines, folder) {
  // Benches are run in any order.
  const tables = lines.map(line => JSON.parse(line)).sort((a, b) => a.order - b.order)
  const charts = join(folder, 'measurements')
  mkdirSync(charts, { recursive: true })
  for (const name of readdirSync(charts)) rmSync(join(charts, name))
  const sections = tables.map((table, i) => {
    const name = `${table.title
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '')}.svg`
    const chart = table.kind === 'growth' ? growthChart(table) : barChart(table)
    if (chart) writeFileSync(join(charts, name), chart)
    return [
      ...(table.topic === tables[i - 1]?.topic ? [] : [`## ${table.topic}`]),
      `### ${table.title}`,
      table.about,
      tableOf(table),
      ...(chart ? [`![${table.title}](measurements/${name})`] : []),
    ].join('\n\n')
  })
  writeFileSync(join(folder, 'measurements.md'), `${head(tables)}\n\n${sections.join('\n\n')}\n`)
}

function head(tables) {
  const slower = tables.flatMap(({ title, lines }) =>
    lines.filter(cells => cells.at(-1) === 'slower').map(([what, , times]) => `- ${title}: ${what}, ${times}.`),
  )
  const [{ model }] = cpus()
  return `# Measurements

Written by \`npm run bench\`: on ${cpus().length} processors (${model.trim()}), ${Math.round(totalmem() / 1024 ** 3)} GB of memory, Node.js ${process.versions.node}, without a graphics card (Chromium draws in software); ${commit()}, ${new Date().toISOString().slice(0, 10)}. Times swing by a third from run to run; what counts are the ratios, each to a reference measured in the same run, and the exponents: by how many powers of the size something grows, 0 where it stays as it is, 1 where it grows along.

${slower.length > 0 ? `**Slower than what does the same:**\n\n${slower.join('\n')}` : 'Nothing is slower than what does the same.'}`
}

/** Where the sources were taken without their history, or there is no git, that is said. */
function commit() {
  try {
    return `at commit ${execFileSync('git', ['rev-parse', '--short', 'HEAD'], { stdio: 'pipe' }).toString().trim()}`
  } catch {
    return 'at a state without a name'
  }
}

function tableOf({ lines }) {
  // A column in which nothing stands is left out.
  const columns = lines[0].map((_, i) => i).filter(i => lines.some(cells => cells[i] !== ''))
  const row = cells => `| ${columns.map(i => cells[i].replace(/\|/g, '\\|')).join(' | ')} |`
  return [
    row(lines[0]),
    `| ${columns.map(i => (i === 0 ? '---' : '--:')).join(' | ')} |`,
    ...lines.slice(1).map(row),
  ].join('\n')
}

const figure = value => (value >= 100 ? Math.round(value).toLocaleString('en') : String(Number(value.toPrecision(3))))

function growthChart({ of, unit, sizes, rows }) {
  return render(320, {
    // Beside the lines, one below the other: how wide a text is drawn is not known here.
    legend: { orient: 'vertical', left: 545, top: 30, textStyle: text, itemWidth: 18 },
    grid: { left: 70, right: 290, top: 34, bottom: 52 },
    xAxis: { ...axis(of), type: 'log', nameLocation: 'middle', nameGap: 28, min: sizes[0], max: sizes.at(-1) },
    yAxis: { ...axis(unit), type: 'log' },
    series: rows.map(({ what, values }, i) => ({
      type: 'line',
      name: what,
      symbol: SYMBOLS[i % SYMBOLS.length],
      symbolSize: 8,
      data: sizes.flatMap((size, k) => (values[k] ? [[size, Number(values[k].toPrecision(3))]] : [])),
    })),
  })
}

function barChart({ unit, rows }) {
  if (rows.length < 2) return null
  const shown = rows.toReversed()
  const values = shown.map(({ value }) => value)
  const isWide = Math.max(...values) > 30 * Math.min(...values)
  return render(56 + rows.length * 26, {
    grid: { left: 300, right: 80, top: 14, bottom: 34 },
    xAxis: { ...axis(unit), type: isWide ? 'log' : 'value', nameLocation: 'end', nameGap: 8 },
    yAxis: {
      type: 'category',
      data: shown.map(({ what }) => what),
      axisLabel: { ...text, width: 280, overflow: 'truncate' },
      axisTick: { show: false },
      axisLine: { lineStyle: { color: QUIET } },
    },
    series: [
      {
        type: 'bar',
        barMaxWidth: 14,
        label: { show: true, position: 'right', ...text, formatter: ({ value }) => figure(value) },
        data: shown.map(each => ({
          value: Number(each.value.toPrecision(3)),
          itemStyle: each.slower
            ? { color: COLOURS[1], decal: { symbol: 'rect', dashArrayX: [1, 0], dashArrayY: [2, 4], rotation: 0.8 } }
            : { color: COLOURS[0] },
        })),
      },
    ],
  })
}

const axis = name => ({
  name,
  nameTextStyle: { ...text, color: QUIET },
  axisLabel: { ...text, formatter: figure },
  axisLine: { show: true, lineStyle: { color: QUIET } },
  splitLine: { lineStyle: { color: GRID } },
})

function render(height, option) {
  const chart = init(null, null, { renderer: 'svg', ssr: true, width: WIDTH, height })
  chart.setOption({ animation: false, backgroundColor: GROUND, color: COLOURS, textStyle: text, ...option })
  const svg = chart.renderToSVGString()
  chart.dispose()
  return `${svg}\n`
}
