/**
 * Something as it is written now, of what may have been written before the name of one of its fields changed: what is
 * kept on devices, or sent by a page that is still open from then. Anything else comes out as it is.
 */
export function withNewName(given: unknown, earlier: string, now: string): unknown {
  if (
    typeof given !== 'object'
    || given === null
    || Array.isArray(given)
    || !Object.hasOwn(given, earlier)
    || Object.hasOwn(given, now)
  )
    return given
  const { [earlier]: value, ...others } = given as Record<string, unknown>
  return { [now]: value, ...others }
}
