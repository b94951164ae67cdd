import type { ArrangementOwn } from './arrangement'
import { isArrangement } from './arrangement'
import { definitionOf } from './rules'

/**
 * What a placement has of its own, meaning other things than before: where an arrangement depends on some that were
 * duplicated with it.
 */
export function referringTo<T extends object>(own: T, idOf: (id: string) => string): T | ArrangementOwn {
  if (!isArrangement(own)) return own
  const { referringTo: renamed } = definitionOf(own.rule)
  const exceptions =
    own.exceptions
    && Object.fromEntries(
      Object.entries(own.exceptions).map(([key, exception]) => [
        key,
        exception.added
          ? { ...exception, added: { ...exception.added, source: idOf(exception.added.source) } }
          : exception,
      ]),
    )
  return { ...own, rule: renamed(own.rule, idOf), ...(exceptions ? { exceptions } : {}) }
}
