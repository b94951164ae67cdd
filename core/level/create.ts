import { KINDS } from './kinds'
import type { CameraOwn } from './kinds/camera'
import type { LightOwn } from './kinds/light'
import { FIRST_LIGHTS } from './kinds/light'
import type { MarkerKind, MarkerOwn } from './kinds/marker'
import type { Level } from './level'
import type { Placement, PlacementFields } from './schema'
import { LONGEST_NAME } from '../units/text'

/** A placement at rest at its parent's origin, with `given` in place of the defaults. */
export function createPlacement(given: Pick<Placement, 'id' | 'name' | 'kind'> & Partial<PlacementFields>): Placement {
  return {
    parentId: null,
    order: 0,
    partId: null,
    blockId: null,
    translation: [0, 0, 0],
    rotation: [0, 0, 0, 1],
    scale: [1, 1, 1],
    pivot: [0, 0, 0],
    hidden: false,
    locked: false,
    layerId: null,
    own: KINDS[given.kind].first,
    ...given,
  }
}

/** A camera's own fields, with `given` in place of the defaults. */
export const cameraOwn = (given: Partial<CameraOwn> = {}): CameraOwn => ({ ...KINDS.camera.first, ...given })

/** A light's own fields, with `given` in place of what a light of its kind has at first. */
export const lightOwn = (given: Pick<LightOwn, 'light'> & Partial<LightOwn>): LightOwn => ({
  ...FIRST_LIGHTS[given.light],
  ...given,
})

const FIRST_MARKERS: { [K in MarkerKind]: Extract<MarkerOwn, { marker: K }> } = {
  spawn: { marker: 'spawn', text: '', tags: [], fields: [] },
  volume: { marker: 'volume', text: '', tags: [], fields: [], shape: 'box', color: '#0e6e6e' },
  note: { marker: 'note', text: '', tags: [], fields: [], arrow: null },
  walk: {
    marker: 'walk',
    text: '',
    tags: [],
    fields: [],
    points: [
      [0, 0, 0],
      [0, 0, 1],
    ],
    width: 0.9,
  },
}

/** A marker's own fields, with `given` in place of the defaults. */
export function markerOwn<K extends MarkerKind>(
  kind: K,
  given: Partial<Extract<MarkerOwn, { marker: K }>> = {},
): Extract<MarkerOwn, { marker: K }> {
  return { ...FIRST_MARKERS[kind], ...given }
}

/** `base` with the smallest number behind it that no placement's name has: "Crate 4". */
export function freeName(level: Level, base: string): string {
  return new FreeNames(level).next(base)
}

/** A name and the number behind it. */
const NUMBERED = /^(.*) ([1-9]\d{0,8})$/

/** Names that nothing has, one after the other. The level is looked through once, however many are asked for. */
export class FreeNames {
  /** By what stands before the number: the numbers taken, and the least that may be free. */
  private bases: Map<string, { taken: Set<number>; next: number }> | null = null

  constructor(private readonly level: Level) {}

  /** `base` with the smallest free number behind it. */
  next(base: string): string {
    const cut = base.slice(0, LONGEST_NAME - 10)
    const known = this.of(cut)
    while (known.taken.has(known.next)) known.next++
    return `${cut} ${known.next++}`
  }

  /** The same for a copy of what has this name: "Crate 3" and "Crate" give "Crate 4". */
  like(name: string): string {
    return this.next(NUMBERED.exec(name)?.[1] ?? name)
  }

  private of(base: string): { taken: Set<number>; next: number } {
    if (!this.bases) {
      this.bases = new Map()
      for (const { name } of this.level.placements()) {
        const parts = NUMBERED.exec(name)
        if (parts) this.of(parts[1]!).taken.add(Number(parts[2]))
      }
    }
    let known = this.bases.get(base)
    if (!known) this.bases.set(base, (known = { taken: new Set(), next: 1 }))
    return known
  }
}

/** An order that puts a new placement behind its siblings-to-be. */
export function lastOrder(level: Level, parentId: string | null): number {
  const last = level.children(parentId).at(-1)
  return last === undefined ? 0 : level.need(last).order + 1
}
