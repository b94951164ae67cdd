/**
 * Metres. Beyond this a double no longer holds a tenth of a millimetre after a few multiplications; no level is that
 * large.
 */
export const FARTHEST = 1e9
