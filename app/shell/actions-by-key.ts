import type { Action } from './use-actions'

/** Those that a key does. @throws RangeError if one key is to do two things, or two things are called alike */
export function actionsByKey(actions: readonly Action[]): ReadonlyMap<string, Action> {
  const [byKey, names] = [new Map<string, Action>(), new Set<string>()]
  for (const action of actions) {
    const { name, key } = action
    if (names.has(name)) throw new RangeError(`two actions are called "${name}"`)
    names.add(name)
    if (!key) continue
    const other = byKey.get(key)
    if (other) throw new RangeError(`${key} does "${other.name}" already, and cannot do "${name}"`)
    byKey.set(key, action)
  }
  for (const [key, { byBrowser }] of byKey) if (byBrowser) byKey.delete(key)
  return byKey
}
