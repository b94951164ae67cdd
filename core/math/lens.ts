const { atan, tan, PI } = Math

/** The horizontal angle that goes with a vertical one, in degrees: tan(h/2) = aspect · tan(v/2). */
export const horizontalOf = (vertical: number, aspect: number) =>
  (2 * atan(aspect * tan((vertical * PI) / 360)) * 180) / PI

/** The focal length in millimetres that gives a vertical angle on film of a width, whose picture has an aspect. */
export const focalOf = (vertical: number, aspect: number, filmWidth: number) =>
  filmWidth / aspect / 2 / tan((vertical * PI) / 360)

/** The vertical angle in degrees of a focal length. */
export const fieldOf = (focal: number, aspect: number, filmWidth: number) =>
  (2 * atan(filmWidth / aspect / 2 / focal) * 180) / PI

/** The corners of what a camera sees at a distance, in its own axes: right top, left top, left bottom, right bottom. */
export function frameAt(vertical: number, aspect: number, distance: number): [number, number, number][] {
  const y = distance * tan((vertical * PI) / 360)
  const x = y * aspect
  return [
    [x, y, -distance],
    [-x, y, -distance],
    [-x, -y, -distance],
    [x, -y, -distance],
  ]
}
