/** Why a file is not taken in, in words, with the place in it. */
export class FormatError extends Error {
  override name = 'FormatError'
}
