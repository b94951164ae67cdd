/** What a field holds. Lengths are metres inside, angles degrees, factors plain numbers. */
export type Quantity = 'length' | 'angle' | 'factor'

/**
 * How many of the quantity's base unit one of each unit is, by all of its names.
 * Inch and foot: exact since the international yard and pound agreement of 1959. Minute and second of arc: 1/60 and
 * 1/3600 of a degree (NIST SP 811, 2008, tables 6 and B.8, from memory).
 */
const NAMES: Record<Quantity, readonly (readonly [amount: number, ...names: string[]])[]> = {
  length: [
    [0.001, 'mm', 'millimetre', 'millimetres', 'millimeter', 'millimeters'],
    [0.01, 'cm', 'centimetre', 'centimetres', 'centimeter', 'centimeters'],
    [0.1, 'dm', 'decimetre', 'decimetres', 'decimeter', 'decimeters'],
    [1, 'm', 'metre', 'metres', 'meter', 'meters'],
    [1000, 'km', 'kilometre', 'kilometres', 'kilometer', 'kilometers'],
    [0.0254, 'in', 'inch', 'inches', '"'],
    [0.3048, 'ft', 'foot', 'feet', "'"],
    [0.9144, 'yd', 'yard', 'yards'],
  ],
  angle: [
    [1, 'deg', 'degree', 'degrees', '°'],
    [1 / 60, 'arcmin', "'"],
    [1 / 3600, 'arcsec', '"'],
    [180 / Math.PI, 'rad', 'radian', 'radians'],
    [360, 'turn', 'turns'],
  ],
  factor: [
    [0.01, '%', 'percent'],
    [1, 'x'],
  ],
}

export const UNITS: Record<Quantity, ReadonlyMap<string, number>> = {
  length: byName('length'),
  angle: byName('angle'),
  factor: byName('factor'),
}

export const FOOT = 0.3048
export const INCH = 0.0254
/** Lengths in feet and inches at once; numbers typed without a unit are feet. */
export const FEET_AND_INCHES = 'ft-in'

/** The short names of a quantity's units, for those who are told of them. */
export const unitNames = (quantity: Quantity): string => NAMES[quantity].map(([, name]) => name).join(', ')

/** How many of the base unit one `unit` is. @throws RangeError if it is none of that quantity */
export function scaleOf(quantity: Quantity, unit: string | undefined): number {
  const scale = unit === undefined ? 1 : UNITS[quantity].get(unit === FEET_AND_INCHES ? 'ft' : unit)
  if (scale === undefined) throw new RangeError(`${unit} is no unit of ${quantity}`)
  return scale
}

function byName(quantity: Quantity): Map<string, number> {
  return new Map(NAMES[quantity].flatMap(([amount, ...names]) => names.map(name => [name, amount] as const)))
}
