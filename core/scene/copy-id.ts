const MARK = '#'

export const copyId = (arrangementId: string, key: string) => `${arrangementId}${MARK}${key}`

/** The arrangement and the key that a copy's id names; null if it names no copy. */
export function copyOf(id: string): { arrangementId: string; key: string } | null {
  const at = id.indexOf(MARK)
  return at < 0 ? null : { arrangementId: id.slice(0, at), key: id.slice(at + 1) }
}
