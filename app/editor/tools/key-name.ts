/**
 * The name of a key with its modifiers, such as `Ctrl+Shift+z`, `Shift+l`, `Escape` or `[`. The Command key counts as
 * Ctrl. Letters are lower case; Shift is named only with letters and named keys, for on others it already shows in the
 * character.
 */
export function keyName(event: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>): string {
  const isLetter = /^\p{L}$/u.test(event.key)
  const shift = event.shiftKey && (isLetter || event.key.length > 1)
  return [
    ...(event.ctrlKey || event.metaKey ? ['Ctrl'] : []),
    ...(event.altKey ? ['Alt'] : []),
    ...(shift ? ['Shift'] : []),
    isLetter ? event.key.toLowerCase() : event.key,
  ].join('+')
}

const NAMES: Readonly<Record<string, string>> = {
  ArrowRight: '→',
  ArrowLeft: '←',
  ArrowUp: '↑',
  ArrowDown: '↓',
  PageUp: 'Page Up',
  PageDown: 'Page Down',
  Escape: 'Esc',
}

/** A key as it is shown: `Ctrl Shift Z` for `Ctrl+Shift+z`. */
export const keyLabel = (key: string): string =>
  key
    .split('+')
    .map(part => NAMES[part] ?? (/^\p{L}$/u.test(part) ? part.toUpperCase() : part))
    .join(' ')
