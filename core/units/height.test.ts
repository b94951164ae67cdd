import { Euler, Matrix4, Quaternion, Vector3 } from 'three'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { RULES } from '../arrange/rules'
import { conventionSchema, toNumbers } from '../formats/table/convention'
import { transformNumbers } from '../level/edit'
import { directed, parseEntry } from './entry'
import type { NumberField } from './field'
import { isDirected, numberField, threeFields } from './field'
import { AXES_WRITTEN, LEVEL_AXES } from './height'
import { writtenFields } from './written'

const { y, z } = AXES_WRITTEN

describe('axes with height along Z', () => {
  it('are those of the right hand, and what stands upright is Z', () => {
    // The written axes as directions in the level: X times Y has to be Z.
    const way = (i: number) => new Vector3().setComponent(z.inOrder[i]!.axis, z.inOrder[i]!.sign)
    expect(way(0).cross(way(1)).distanceTo(way(2))).toBe(0)
    expect(way(2).toArray()).toEqual([0, 1, 0])
    expect(y.inOrder.map(({ axis, letter, sign }) => [axis, letter, sign])).toEqual([
      [0, 'X', 1],
      [1, 'Y', 1],
      [2, 'Z', 1],
    ])
  })

  it('say places as a table with Z up does, and turns as its degrees in the order Z X Y', () => {
    const degrees = fc.double({ min: -179, max: 179, noNaN: true })
    const length = fc.double({ min: -1000, max: 1000, noNaN: true })
    fc.assert(
      fc.property(
        fc.tuple(length, length, length),
        fc.tuple(fc.double({ min: -85, max: 85, noNaN: true }), degrees, degrees),
        fc.tuple(...LEVEL_AXES.map(() => fc.double({ min: 0.1, max: 10, noNaN: true }))),
        (place, [rx, ry, rz], size) => {
          const rad = Math.PI / 180
          const turn = new Quaternion().setFromEuler(new Euler(rx * rad, ry * rad, rz * rad, 'YXZ'))
          const matrix = new Matrix4().compose(new Vector3(...place), turn, new Vector3().fromArray(size))
          const table = toNumbers(matrix, conventionSchema.parse({ up: 'z', turn: 'ZXY' }))
          const shown = transformNumbers({
            translation: place,
            rotation: turn.toArray() as [number, number, number, number],
            scale: size as [number, number, number],
          })
          const close = (numbers: readonly number[], columns: readonly (keyof typeof table)[]) =>
            columns.forEach((column, i) => expect(numbers[i]).toBeCloseTo(table[column]!, 5))
          close(z.numbers(shown.position), ['x', 'y', 'z'])
          close(z.numbers(shown.turn), ['rx', 'ry', 'rz'])
          close(z.sorted(shown.size), ['sx', 'sy', 'sz'])
        },
      ),
    )
  })

  it('have letters in labels, order and texts; a key of a letter means what is written with it', () => {
    expect(LEVEL_AXES.map(axis => z.label(`Spacing ${'XYZ'[axis]}`, axis))).toEqual([
      'Spacing X',
      'Spacing Z',
      'Spacing Y',
    ])
    expect(z.label('Zoom', undefined)).toBe('Zoom')
    expect(z.label('Size of Zone Z', 2)).toBe('Size of Zone Y')
    expect([z.letters([2, 1]), y.letters([2, 1])]).toEqual([
      ['Y', 'Z'],
      ['Y', 'Z'],
    ])
    expect([z.text('the [Y] dial, {Lock out of [Z]}'), y.text('the [Y] dial')]).toEqual([
      'the Z dial, {Lock out of Y}',
      'the Y dial',
    ])
    expect(LEVEL_AXES.map(letter => z.written(letter))).toEqual([0, 2, 1])
    expect(Object.is(z.numbers([0, 0, 0])[1], 0)).toBe(true)
  })
})

describe('numbers along an axis', () => {
  it('have a way, unless they are counts, factors, or how much there is of something', () => {
    const along = (quantity: 'length' | 'angle' | 'factor' | 'count', isAmount?: true) =>
      isDirected(numberField('Z', ['at'], quantity, { axis: 2, isAmount }))
    expect([along('length'), along('angle'), along('factor'), along('count')]).toEqual([true, true, false, false])
    expect(along('length', true)).toBe(false)
    expect(isDirected(numberField('Near', ['near'], 'length'))).toBe(false)
    const gaps = RULES.grid
      .fields({ ...RULES.grid.first, measure: 'gap' })
      .filter((field): field is NumberField => field.type === 'number' && field.label.startsWith('Gap'))
    expect(gaps.map(isDirected)).toEqual([false, false, false])
  })
})

describe('rows of a form with height along Z', () => {
  it('stand in the order of their letters, and rows beside them stay where they are', () => {
    const fields = [
      numberField('Count', ['count'], 'count'),
      ...threeFields('Spacing', 'along', 'length'),
      ...threeFields('Turn each', 'turn', 'angle'),
      numberField('Ratio', ['ratio'], 'factor'),
    ]
    expect(writtenFields(fields, z).map(({ label, path }) => `${label}: ${path.join('.')}`)).toEqual([
      'Count: count',
      'Spacing X: along.0',
      'Spacing Y: along.2',
      'Spacing Z: along.1',
      'Turn each X: turn.0',
      'Turn each Y: turn.2',
      'Turn each Z: turn.1',
      'Ratio: ratio',
    ])
    expect(writtenFields(fields, y)).toEqual(fields)
  })

  it('are the other end where their axis is written the other way', () => {
    const [from] = writtenFields(
      [numberField('From Z', ['minZ'], 'length', { axis: 2, otherEnd: 'To Z', named: 'From Z of the bounds' })],
      z,
    )
    expect([from!.label, from!.named]).toEqual(['To Y', 'To Y of the bounds'])
  })

  it('take what is typed the other way: numbers and sums, but not factors', () => {
    const typed = (text: string) => {
      const entry = parseEntry(text, 'length', 'm', '+*/')
      return entry.ok && directed(entry.entry, -1)
    }
    expect(typed('2.5')).toEqual({ operator: '', value: -2.5 })
    expect(typed('-=1')).toEqual({ operator: '+', value: 1 })
    expect(typed('*2')).toEqual({ operator: '*', value: 2 })
    expect(Object.is((typed('0') as { value: number }).value, 0)).toBe(true)
  })
})
