import { Refused, tokens } from './tokens'
import type { Token } from './tokens'
import type { Quantity } from './units'
import { FOOT, INCH, unitNames, UNITS } from './units'

/**
 * A number with its dimension: how often the quantity is in it. A length has 1, an area 2; what is divided by a length
 * of its own kind is a ratio, with 0. A bare number has none yet: it is in the unit worked in where that makes sense.
 */
export type Amount = { value: number; power: number; isBare: boolean }

type Span = { at: number; end: number }

/**
 * Works out a sum with units, by precedence: `2 * (3m - 20cm)`, `5'6 1/2"`, `30°15'`.
 *
 * Amounts side by side belong together, the larger unit first. A whole number over a whole number before a unit is that
 * part of the unit: `1/4 turn`. What builders write without spaces is read as they mean it: `6-1/2"` is six and a half
 * inches, `5'-6"` five feet and six inches; with spaces around it a minus takes away. Inches may be left out after
 * feet: `5'6`.
 *
 * @param scale how many of the base unit a bare number is
 * @throws Refused what has no meaning, or more than one
 */
export function sumOf(text: string, quantity: Quantity, scale: number): Amount & Span {
  return new Sum(tokens(text), quantity, scale).whole()
}

class Sum {
  private at = 0

  constructor(
    private readonly all: readonly Token[],
    private readonly quantity: Quantity,
    private readonly scale: number,
  ) {}

  whole(): Amount & Span {
    const result = this.sum()
    if (this.now().is !== 'end')
      throw this.refuse(
        this.isSign(this.now(), ')') ? 'This bracket was never opened.' : 'Something is missing before this.',
      )
    return { ...result, at: 0, end: this.now().end }
  }

  private sum(): Amount {
    let total = this.product()
    for (;;) {
      const sign = this.take('+', '-')
      if (!sign) return total
      const from = this.now().at
      total = this.added(total, this.product(), sign === '-' ? -1 : 1, { at: from, end: this.last().end })
    }
  }

  private product(): Amount {
    let total = this.signed()
    for (;;) {
      const sign = this.take('*', '/')
      if (!sign) return total
      const next = this.signed()
      const isBare = total.isBare && next.isBare
      total =
        sign === '*'
          ? { value: total.value * next.value, power: total.power + next.power, isBare }
          : { value: total.value / next.value, power: total.power - next.power, isBare }
    }
  }

  private signed(): Amount {
    const sign = this.take('+', '-')
    if (sign === null) return this.raised()
    const amount = this.signed()
    return sign === '-' ? { ...amount, value: -amount.value } : amount
  }

  private raised(): Amount {
    const base = this.single()
    if (!this.take('^')) return base
    const from = this.now().at
    const exponent = this.signed()
    if (!base.isBare || !exponent.isBare)
      throw new Refused('Only plain numbers can be raised to a power.', from, this.last().end)
    return { value: base.value ** exponent.value, power: 0, isBare: true }
  }

  private single(): Amount {
    if (this.now().is === 'number' || this.now().is === 'part') return this.amounts()
    if (!this.take('('))
      throw this.refuse(this.now().is === 'end' ? 'That sum is not complete.' : 'A number is missing before this.')
    const from = this.last().at
    const inside = this.sum()
    if (!this.take(')')) throw new Refused('This bracket is never closed.', from, from + 1)
    if (this.now().is !== 'unit') return inside
    const unit = this.unit()
    if (!inside.isBare) throw new Refused('That has a unit already.', this.last().at, this.last().end)
    return this.measured(inside.value * unit)
  }

  /** A number, or one or more with units that belong together. */
  private amounts(): Amount {
    const first = this.mixed()
    if (this.now().is !== 'unit') return { value: first, power: 0, isBare: true }
    let unit = this.unit()
    let total = first * unit
    for (;;) {
      const isFoot = this.quantity === 'length' && unit === FOOT
      const from = this.now().at
      if (isFoot && this.takeDash()) return this.measured(total + this.mixed() * this.unit())
      if (this.now().is !== 'number' && this.now().is !== 'part') return this.measured(total)
      const number = this.mixed()
      if (this.now().is === 'unit') {
        const next = this.unit()
        if (next >= unit) throw new Refused('The larger unit comes first.', from, this.last().end)
        unit = next
        total += number * unit
      } else if (isFoot) return this.measured(total + number * INCH)
      else throw new Refused('This number has no unit.', from, this.last().end)
    }
  }

  /**
   * Takes the dash of `5'-6"`, between marks and without spaces; what could be that or a minus is refused.
   * @throws Refused for `5'-6` and `5ft-6in`
   */
  private takeDash(): boolean {
    const [dash, feet, start] = [this.now(), this.last(), this.at]
    if (!this.isSign(dash, '-') || !dash.glued || !this.all[this.at + 1]!.glued) return false
    this.at++
    if (this.now().is !== 'number' && this.now().is !== 'part') return this.back(start)
    this.mixed()
    const isMarked = feet.is === 'unit' && feet.name === "'"
    const after = this.now()
    const isInch = after.is === 'unit' && UNITS.length.get(after.name) === INCH
    if (isMarked ? after.is !== 'unit' : isInch)
      throw new Refused(
        'Leave out the dash, or put spaces around a minus.',
        dash.at,
        isInch ? after.end : this.last().end,
      )
    if (!isInch) return this.back(start)
    this.at = start + 1
    return true
  }

  private back(to: number): false {
    this.at = to
    return false
  }

  /** A number as it is spoken: `3`, `½`, `6½`, `6 1/2`, `6-1/2"`, and `1/2` before a unit. */
  private mixed(): number {
    const first = this.now()
    this.at++
    if (first.is === 'part') return first.value
    if (first.is !== 'number') throw this.refuse('A number is missing before this.')
    if (!first.isWhole) return first.value
    const next = this.now()
    if (next.is === 'part') {
      this.at++
      return first.value + next.value
    }
    const fraction = this.fractionAt(this.at)
    if (fraction !== null && !next.glued) {
      this.at += 3
      return first.value + fraction
    }
    const dashed =
      this.isSign(next, '-') && next.glued && this.all[this.at + 1]!.glued ? this.fractionAt(this.at + 1) : null
    if (dashed !== null && this.isBuilders(this.all[this.at + 4]!)) {
      this.at += 4
      return first.value + dashed
    }
    const part = this.fractionAt(this.at - 1)
    if (part !== null && this.all[this.at + 2]!.is === 'unit') {
      this.at += 2
      return part
    }
    return first.value
  }

  /** A whole number over a whole number, from a token on; null if that is not what stands there. */
  private fractionAt(index: number): number | null {
    const [above, line, below] = [this.all[index], this.all[index + 1], this.all[index + 2]]
    const isOne =
      above?.is === 'number'
      && above.isWhole
      && this.isSign(line, '/')
      && below?.is === 'number'
      && below.isWhole
      && below.value > 0
    return isOne ? above.value / below.value : null
  }

  /** Whether a token is a unit whose parts are written as fractions. */
  private isBuilders(token: Token): boolean {
    const unit = this.quantity === 'length' && token.is === 'unit' ? UNITS.length.get(token.name) : undefined
    return unit === INCH || unit === FOOT
  }

  private unit(): number {
    const token = this.now()
    if (token.is !== 'unit') throw this.refuse('A unit is missing before this.')
    const unit = UNITS[this.quantity].get(token.name)
    if (unit === undefined) throw this.refuse(`“${token.name}” is no unit here. Units: ${unitNames(this.quantity)}.`)
    this.at++
    return unit
  }

  private measured(value: number): Amount {
    return { value, power: 1, isBare: false }
  }

  /** A bare number beside a measured one is in the unit worked in. */
  private added(a: Amount, b: Amount, sign: number, place: Span): Amount {
    if (a.isBare && b.isBare) return { value: a.value + sign * b.value, power: 0, isBare: true }
    const [left, right] = [this.inUnit(a, b), this.inUnit(b, a)]
    if (left.power !== right.power)
      throw new Refused('These two cannot be added: they are not of one kind.', place.at, place.end)
    return { value: left.value + sign * right.value, power: left.power, isBare: false }
  }

  private inUnit(amount: Amount, beside: Amount): Amount {
    return amount.isBare && beside.power === 1 ? this.measured(amount.value * this.scale) : amount
  }

  private take<S extends string>(...signs: S[]): S | null {
    const token = this.now()
    if (token.is !== 'sign' || !(signs as string[]).includes(token.sign)) return null
    this.at++
    return token.sign as string as S
  }

  private isSign(token: Token | undefined, sign: string): boolean {
    return token?.is === 'sign' && token.sign === sign
  }

  private now(): Token {
    return this.all[this.at]!
  }

  private last(): Token {
    return this.all[this.at - 1]!
  }

  private refuse(message: string): Refused {
    const token = this.now()
    return new Refused(token.is === 'unit' ? (this.strange(token.name) ?? message) : message, token.at, token.end)
  }

  private strange(name: string): string | null {
    return UNITS[this.quantity].has(name)
      ? null
      : `“${name}” is not understood here. Units: ${unitNames(this.quantity)}.`
  }
}
