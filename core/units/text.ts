import { z } from 'zod'

// U+0000 cannot be stored by PostgreSQL, and half of a surrogate pair is no character at all (Unicode 16.0, D75): UTF-8
// has no bytes for it.

/**
 * Plain text as people type it. What is not is refused rather than cleaned, so that nothing is changed silently.
 *
 * @param most characters
 */
export function plainText(most: number) {
  return z
    .string()
    .max(most, `must be at most ${most} characters`)
    .refine(text => text.isWellFormed(), 'must be whole characters, without half of a surrogate pair')
    .refine(text => !/[<>]/.test(text), 'must be plain text without < or >')
    .refine(text => !/[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f]/.test(text), 'must be without control characters')
}

/** The same on one line, without space around it, and not empty. */
export function lineOfText(most: number) {
  return plainText(most)
    .trim()
    .min(1, 'must not be empty')
    .refine(text => !/[\t\n\r\u2028\u2029]/.test(text), 'must be on one line, without control characters')
}

/** Characters of a name, or of what a change is called. */
export const LONGEST_NAME = 200

/** A text that was put together, cut to the length of a name, between two characters. */
export function asName(text: string): string {
  const cut = text.slice(0, LONGEST_NAME)
  return cut.length < text.length && !cut.isWellFormed() ? cut.slice(0, -1) : cut
}

/** Any text, such as one of a file, on one line and without what no name may have. */
export function plainLine(text: string): string {
  // Half of a surrogate pair becomes the character for what cannot be read.
  return new TextDecoder()
    .decode(new TextEncoder().encode(text))
    .replace(/[<>\u0000-\u001f\u007f\u2028\u2029]+/g, ' ')
    .trim()
}

/** A name made of any text, cut where it is too long. @param otherwise if nothing is left */
export function nameFrom(text: string, otherwise: string): string {
  return asName(plainLine(text)).trim() || otherwise
}
