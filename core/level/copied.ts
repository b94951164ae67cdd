import type { Relation } from './schema'

/** What a change copies and what it puts in the place of what, for what is kept of all that. */
export type Copied = {
  /** Copies by what they were made of; several where that is copied several times. */
  made?: readonly ReadonlyMap<string, string>[]
  /** By things that go, also copies of arrangements: what comes into their place, where they stood. */
  replaced?: ReadonlyMap<string, string>
  /** What is kept of what was copied, where that is not in the level. */
  relations?: readonly Relation[]
}
