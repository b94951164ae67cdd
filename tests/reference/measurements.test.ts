import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { exponentOf, reportCompared, reportGrowth } from '../../bench/report'
import { writeMeasurements } from '../../scripts/lib/measurements.mjs'

describe('the exponent of growth', () => {
  it('is by how many powers of the size something grows', () => {
    const sizes = [10, 100, 1000]
    const by = (power: number) => sizes.map(size => 3 * size ** power)
    for (const power of [0, 0.5, 1, 2]) expect(exponentOf(sizes, by(power))).toBeCloseTo(power, 9)
    expect(exponentOf(sizes, [null, 5, 50])).toBeCloseTo(1, 9)
    expect(exponentOf(sizes, [null, 5, null])).toBeNull()
  })
})

describe('the page of measurements', () => {
  let folder: string
  beforeEach(() => {
    folder = mkdtempSync(join(tmpdir(), 'handy-grid-measurements-'))
    vi.stubEnv('BENCH_REPORT', join(folder, 'told'))
    vi.spyOn(console, 'log').mockImplementation(() => {})
  })
  afterEach(() => {
    vi.unstubAllEnvs()
    vi.restoreAllMocks()
    rmSync(folder, { recursive: true })
  })

  const page = () => {
    writeMeasurements(readFileSync(join(folder, 'told'), 'utf8').trim().split('\n'), folder)
    return readFileSync(join(folder, 'measurements.md'), 'utf8')
  }

  it('has a table and a chart for each that was told, and says at its top what is slower than what does the same', () => {
    reportGrowth({
      topic: 'Checking',
      title: 'Picking & more',
      about: 'By ray.',
      unit: 'ms',
      of: 'things',
      sizes: [10, 1000],
      rows: [
        { what: 'one | ray', values: [0.5, 5] },
        { what: 'none', values: [null, 2] },
      ],
    })
    const rows = [
      { what: 'another', value: 2 },
      { what: 'ours', value: 3, against: 2 },
    ]
    reportCompared({
      topic: 'Serving',
      title: 'Race',
      about: '',
      unit: 'ms',
      reference: 'another',
      doesTheSame: true,
      rows,
    })
    reportCompared({ topic: 'Opening and looking', title: 'Scale', about: '', unit: 'ms', reference: 'another', rows })
    const text = page()
    expect(text).toContain('| ms, by things | 10 | 1,000 | exponent |\n| --- | --: | --: | --: |')
    expect(text).toContain('| one \\| ray | 0.5 | 5 | 0.50 |\n| none | – | 2 | – |')
    expect(text).toContain('| ours | 3 | 1.5 x | slower |')
    expect([...text.matchAll(/^##+ .*/gm)].map(([heading]) => heading)).toEqual([
      '## Opening and looking',
      '### Scale',
      '## Checking',
      '### Picking & more',
      '## Serving',
      '### Race',
    ])
    expect(text).toContain('- Race: ours, 1.5 x.')
    expect(text).not.toContain('- Scale')
    expect(text).toMatch(/at commit [0-9a-f]{7,}|at a state without a name/)
    const charts = readdirSync(join(folder, 'measurements')).sort()
    expect(charts).toEqual(['picking-more.svg', 'race.svg', 'scale.svg'])
    for (const name of charts) {
      expect(text).toContain(`(measurements/${name})`)
      expect(readFileSync(join(folder, 'measurements', name), 'utf8')).toMatch(/^<svg[^]*<path[^]*<\/svg>\s*$/)
    }
  })

  it('forgets the charts of what is not measured any more, and draws none of one number alone', () => {
    reportCompared({ topic: 'Serving', title: 'Alone', about: '', unit: 'ms', rows: [{ what: 'it', value: 2 }] })
    page()
    writeFileSync(join(folder, 'measurements', 'old.svg'), '')
    expect(page()).toContain('Nothing is slower')
    expect(readdirSync(join(folder, 'measurements'))).toEqual([])
  })
})
