import { Matrix4, Vector3 } from 'three'
import type { Difference } from '~~/core/compare/differences'
import { differencesOf } from '~~/core/compare/differences'
import type { Effect, Reading, ValueApart, Way } from '~~/core/compare/effects'
import { EFFECTS, effectsOf, valuesApart, wayBetween } from '~~/core/compare/effects'
import { countEffects } from '~~/core/compare/table'
import { taking } from '~~/core/compare/take'
import { applyChange } from '~~/core/level/change'
import type { PlacementColumns } from '~~/core/level/columns'
import { fromColumns } from '~~/core/level/columns'
import type { LevelRecords } from '~~/core/level/level'
import { Level } from '~~/core/level/level'
import type { Operation, Placement } from '~~/core/level/schema'
import type { Vec3 } from '~~/core/math/vectors'
import type { LevelView } from '~~/core/scene/level-view'
import { bareView } from '~~/core/scene/level-view'

/** The states that are compared: here, there, and how both began if that is known. */
export type State = 'here' | 'there' | 'base'

/** One record that is not the same, as it is listed. */
export type Row = Pick<Difference, 'key' | 'record' | 'id' | 'name' | 'is' | 'since'> & { effects: readonly Effect[] }

/** What the page is told: the first rows, of which effects there are how many, and how many rows there are in all. */
export type CompareNews = { rows: Row[]; counts: Record<Effect, number>; conflicts: number; all: number }

/**
 * Which differences are meant: some; those of some things, of all that hangs from them, and of what is kept of them; or
 * all with an effect (whatever it is if null) but a few.
 */
export type Which =
  | { keys: readonly string[] }
  | { things: readonly string[] }
  | { effect: Effect | null; but: readonly string[] }

/** What something on the stage is there: the shapes it shows, in the world, and where it stands. */
export type PlaceThere = { key: string; shapes: { shape: string; matrices: Float64Array }[]; at: Vec3 }

/** Rows that the page is given, and copies of one thing that are drawn as they were. */
const [MOST_TOLD, MOST_SHAPES] = [5000, 2000]

/** Compares a level, which is kept here as the page has it, with another state. */
export function compareWork() {
  const taken: Record<State, Placement[]> = { here: [], there: [], base: [] }
  let here = new Level()
  let there: LevelView = bareView()
  let base: Level | null = null
  let reading: Reading = 'since'
  let differences: readonly Difference[] = []
  let effects = new Map<string, readonly Effect[]>()

  function compare(): CompareNews {
    differences = differencesOf(here, there, base)
    effects = new Map(differences.map(each => [each.key, effectsOf(here, each, reading)]))
    const first = (key: string) => EFFECTS.indexOf(effects.get(key)![0]!)
    const rows = differences
      .toSorted((a, b) => first(a.key) - first(b.key))
      .slice(0, MOST_TOLD)
      .map(({ key, record, id, name, is, since }) => ({
        key,
        record,
        id,
        name,
        is,
        since,
        effects: effects.get(key)!,
      }))
    return {
      rows,
      counts: countEffects(effects.values()),
      conflicts: differences.filter(({ since }) => since === 'both').length,
      all: differences.length,
    }
  }

  /** Of things and what hangs from them, here or there; with their blocks and relations. */
  function keysOf(things: readonly string[]): string[] {
    const wanted = new Set<string>()
    for (const side of [here, there])
      for (const id of things)
        if (side.has(id))
          for (const below of side.subtree(id)) {
            wanted.add(below)
            const { blockId } = side.need(below)
            if (blockId !== null) wanted.add(blockId)
          }
    const heldOf = (key: string) => (here.relations.get(key) ?? there.relations.get(key))!.held
    return differences
      .filter(({ record, id }) => wanted.has(record === 'relation' ? heldOf(id) : id))
      .map(({ key }) => key)
  }

  /** What was changed here alone is not theirs to take. */
  const theirs = (which: Which): string[] => {
    if ('keys' in which) return [...which.keys]
    if ('things' in which) return keysOf(which.things)
    const but = new Set(which.but)
    return differences
      .filter(({ key, since }) => !but.has(key) && since !== 'here')
      .filter(({ key }) => which.effect === null || effects.get(key)!.includes(which.effect))
      .map(({ key }) => key)
  }

  return {
    /** Some of the placements of a state. */
    take: (state: State, columns: PlacementColumns): void => {
      taken[state].push(...fromColumns(columns))
    },

    /** All of them are here. @param records of each state; null where it is not known how both began */
    open: (records: Record<State, LevelRecords | null>, as: Reading): CompareNews => {
      here = new Level(taken.here, records.here ?? {})
      there = bareView(taken.there, records.there ?? {})
      base = records.base ? new Level(taken.base, records.base) : null
      reading = as
      for (const state of ['here', 'there', 'base'] as const) taken[state] = []
      return compare()
    },

    /** Something was done here. */
    change: (operations: Operation[]): CompareNews => {
      applyChange(here, operations)
      return compare()
    },

    /** What makes some of it as it is there, with how many others had to come along. */
    taking: (which: Which): { operations: Operation[]; along: number; asked: number } => {
      const keys = theirs(which)
      const { operations, along } = taking(here, there, differences, keys, !('effect' in which))
      return { operations, along: along.length, asked: keys.length }
    },

    /** What differs of one, value by value, how far it is moved, and what ids in it name there. */
    say: (key: string): { values: ValueApart[]; way: Way | null; names: Record<string, string> } | null => {
      const difference = differences.find(each => each.key === key)
      if (!difference) return null
      const values = valuesApart(here, there, difference)
      const names: Record<string, string> = {}
      for (const { here: a, there: b } of values)
        for (const id of [a, b])
          if (typeof id === 'string') {
            const name = there.get(id)?.name ?? there.layers.get(id)?.name ?? there.blocks.get(id)?.shape.type
            if (name !== undefined) names[id] = name
          }
      return { values, way: difference.record === null ? wayBetween(here, there, difference.id) : null, names }
    },

    /** Where some things are there, of those that are there; with all that hangs from them. */
    places: (keys: readonly string[]): PlaceThere[] => {
      const byKey = new Map(differences.map(each => [each.key, each]))
      let left = MOST_SHAPES
      return keys.flatMap((key): PlaceThere[] => {
        const difference = byKey.get(key)
        if (!difference || difference.record !== null || !there.has(difference.id) || left <= 0) return []
        const shapes = shapesOf(there, difference.id, left)
        for (const { matrices } of shapes) left -= matrices.length / 16
        return [{ key, shapes, at: new Vector3().setFromMatrixPosition(there.worldMatrix(difference.id)).toArray() }]
      })
    },
  }
}

/** The shapes that a thing and what hangs from it show, in the world. */
function shapesOf(level: LevelView, id: string, most: number): PlaceThere['shapes'] {
  const found: PlaceThere['shapes'] = []
  let left = most
  for (const below of level.subtree(id)) {
    if (left <= 0) break
    if (level.isSource(below)) continue
    if (level.arrangementIds.has(below)) {
      for (const { shape, matrices } of level.shapes(below)) {
        const some = matrices.slice(0, left * 16)
        inWorld(some, level.worldMatrix(below).elements)
        found.push({ shape, matrices: some })
        left -= some.length / 16
      }
      continue
    }
    const shape = level.shapeOf(below)
    if (shape === null) continue
    found.push({ shape, matrices: Float64Array.from(level.worldMatrix(below).elements) })
    left--
  }
  return found
}

/** Brings matrices from an arrangement's axes to the world. */
function inWorld(matrices: Float64Array, toWorld: readonly number[]): void {
  const matrix = new Matrix4()
  const world = new Matrix4().fromArray(toWorld)
  for (let i = 0; i < matrices.length; i += 16) matrix.fromArray(matrices, i).premultiply(world).toArray(matrices, i)
}

export type CompareWork = ReturnType<typeof compareWork>
