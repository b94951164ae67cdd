import type { z } from 'zod'
import { firstIssue } from '~~/core/units/issue'

/** JSON as it was read; or what is wrong with it, with the line. */
export type JsonRead = { ok: true; value: unknown } | { ok: false; error: string }

/** Reads JSON that somebody may have written by hand. */
export function parseJson(text: string): JsonRead {
  try {
    return { ok: true, value: JSON.parse(text) as unknown }
  } catch (error) {
    return { ok: false, error: `It is not JSON: ${whereIn(text, error)}` }
  }
}

/** The same by a schema; what does not fit is said with its place, and with its line where that can be found. */
export function readJsonAs<T>(
  text: string,
  schema: z.ZodType<T>,
): { ok: true; value: T } | { ok: false; error: string } {
  const json = parseJson(text)
  if (!json.ok) return json
  const read = schema.safeParse(json.value)
  if (read.success) return { ok: true, value: read.data }
  const { path, message } = firstIssue(read.error)
  const line = lineOf(text, path.filter(step => typeof step === 'string').at(-1))
  const where = path.map(String).join(', ') || 'the file'
  return { ok: false, error: `${where}: ${message}${line ? ` (line ${line})` : ''}` }
}

/** What a reader of JSON says, with the line where it stopped, if it tells how far it came. */
function whereIn(text: string, error: unknown): string {
  const { message } = error as Error
  const at = /end of JSON/.test(message) ? text.length : /position (\d+)/.exec(message)?.[1]
  return at === undefined || /line \d/.test(message)
    ? message
    : `${message} (line ${text.slice(0, Number(at)).split('\n').length})`
}

/** The line that a name stands in, counted from 1; null if it is not there. */
export function lineOf(text: string, name: string | undefined): number | null {
  const at = name === undefined ? -1 : text.indexOf(JSON.stringify(name))
  return at < 0 ? null : text.slice(0, at).split('\n').length
}

/**
 * The text of a file, which is not read if it is longer than it may be.
 *
 * @param most bytes
 * @param what it is to be, in words: "a file of keys"
 */
export async function readTextFile(
  file: Blob,
  most: number,
  what: string,
): Promise<{ ok: true; text: string } | { ok: false; error: string }> {
  if (file.size > most) return { ok: false, error: `It is too long to be ${what}.` }
  try {
    return { ok: true, text: await file.text() }
  } catch {
    return { ok: false, error: 'It cannot be read any more; choose it again.' }
  }
}
