/** Candela of a point light that gives off so many lumen to all sides alike: a sphere has 4π steradians. */
export const candelaOfPoint = (lumen: number) => lumen / (4 * Math.PI)

/**
 * The steradians that a spot shines to as brightly as along its axis, together: the integral of its falloff over all
 * directions. Of that falloff (see `coneShare`) the square of a ramp over the cosines from the outer cone to the inner
 * one.
 *
 * @param inner and `outer` angles from its axis, in degrees
 */
export function solidAngle(inner: number, outer: number): number {
  const [cosInner, cosOuter] = [inner, outer].map(degrees => Math.cos((degrees * Math.PI) / 180)) as [number, number]
  const ramp = Math.max(NARROWEST, cosInner - cosOuter)
  const full = Math.min(cosOuter + ramp, 1)
  return 2 * Math.PI * ((full - cosOuter) ** 3 / (3 * ramp * ramp) + 1 - full)
}

/** Of cosines: a narrower ramp is drawn as one of these. */
const NARROWEST = 0.001

/**
 * Lumen of an area that is equally bright from everywhere (Lambert): π times luminance and area.
 *
 * @param luminance in candela per square metre
 */
export const lumenOfArea = (luminance: number, area: number) => Math.PI * luminance * area

/**
 * The share of a light's intensity that arrives as lux at a distance: the inverse square, brought to 0 at its range as
 * KHR_lights_punctual recommends. @param range in metres; 0 for no end
 */
export function falloff(distance: number, range: number): number {
  const end = range > 0 ? Math.min(Math.max(1 - (distance / range) ** 4, 0), 1) : 1
  return end / Math.max(distance * distance, 1e-4)
}

/** The share of a spot's intensity at an angle from its axis, as KHR_lights_punctual recommends. In degrees. */
export function coneShare(angle: number, inner: number, outer: number): number {
  const [cos, cosInner, cosOuter] = [angle, inner, outer].map(degrees => Math.cos((degrees * Math.PI) / 180)) as [
    number,
    number,
    number,
  ]
  const share = Math.min(Math.max((cos - cosOuter) / Math.max(NARROWEST, cosInner - cosOuter), 0), 1)
  return share * share
}

/**
 * Chromaticity of a black body, x and y of CIE 1931, by the cubic splines of Kim et al. (US patent 7024034, 2002; from
 * memory).
 * @param kelvin from 1,667 to 25,000
 */
export function blackBody(kelvin: number): [number, number] {
  const t = 1000 / Math.min(Math.max(kelvin, 1667), 25_000)
  const x =
    kelvin <= 4000
      ? ((-0.2661239 * t - 0.2343589) * t + 0.8776956) * t + 0.17991
      : ((-3.0258469 * t + 2.1070379) * t + 0.2226347) * t + 0.24039
  const y =
    kelvin <= 2222
      ? ((-1.1063814 * x - 1.3481102) * x + 2.18555832) * x - 0.20219683
      : kelvin <= 4000
        ? ((-0.9549476 * x - 1.37418593) * x + 2.09137015) * x - 0.16748867
        : ((3.081758 * x - 5.8733867) * x + 3.75112997) * x - 0.37001483
  return [x, y]
}

/** The colour of a black body as `#rrggbb`, its strongest channel full: XYZ to sRGB and its curve by IEC 61966-2-1. */
export function colorOfKelvin(kelvin: number): string {
  const [x, y] = blackBody(kelvin)
  const [X, Z] = [x / y, (1 - x - y) / y]
  const linear = [
    3.2406 * X - 1.5372 - 0.4986 * Z,
    -0.9689 * X + 1.8758 + 0.0415 * Z,
    0.0557 * X - 0.204 + 1.057 * Z,
  ].map(value => Math.max(value, 0))
  const most = Math.max(...linear)
  return `#${linear
    .map(value => {
      const share = value / most
      const curved = share <= 0.0031308 ? 12.92 * share : 1.055 * share ** (1 / 2.4) - 0.055
      return Math.round(curved * 255)
        .toString(16)
        .padStart(2, '0')
    })
    .join('')}`
}
