// Logarithms, powers and angles by sums, products and roots alone: unlike those of `Math`, whose last digits are left
// to each engine, they come out alike to the last bit on every machine (IEEE 754 fixes the former five operations,
// ECMA-262 the latter not).

/** -ln(share), for a share above 0 and up to 1: by halves, then the series of the inverse hyperbolic tangent. */
export function minusLog(share: number): number {
  let halves = 0
  let rest = share
  while (rest < 0.5) {
    rest *= 2
    halves++
  }
  const s = (rest - 1) / (rest + 1)
  const square = s * s
  let sum = 0
  for (let k = 25; k >= 1; k -= 2) sum = sum * square + 1 / k
  return halves * LN2 - 2 * s * sum
}

const LN2 = 0.6931471805599453

/** e^-x, for x from 0 to 8. */
export function expMinus(x: number): number {
  const eighth = x / 8
  let sum = 1
  for (let k = 16; k >= 1; k--) sum = 1 - (sum * eighth) / k
  const [two, four] = [sum * sum, sum * sum * sum * sum]
  return two * two * four
}

/** Cosine and sine of an angle in degrees. */
export function cosSin(degrees: number): [cos: number, sin: number] {
  const x = ((degrees - Math.round(degrees / 360) * 360) * (Math.PI / 180)) / 8
  const square = x * x
  let [cos, sin] = [1, 1]
  for (let k = 16; k >= 2; k -= 2) {
    cos = 1 - (cos * square) / (k * (k - 1))
    sin = 1 - (sin * square) / (k * (k + 1))
  }
  sin *= x
  for (let i = 0; i < 3; i++) [cos, sin] = [1 - 2 * sin * sin, 2 * sin * cos]
  return [cos, sin]
}
