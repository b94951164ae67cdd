import { Quaternion, Vector3 } from 'three'
import { FreeNames } from '../level/create'
import type { Level } from '../level/level'
import { TABLE_OF } from '../level/level'
import type { Deed, Recipe } from '../level/recipe'
import type { Operation, PlacementFields, RecordName } from '../level/schema'
import { MOST_IN_CHANGE, placementSchema, RECORDS } from '../level/schema'
import type { Quat, Vec3 } from '../math/vectors'
import { counted } from '../units/plural'
import type { InputValues } from './sums'
import { fillIn, NotPossible, sumsOf, workingOut } from './sums'
import { parseExpression } from '../units/expression'

/** What comes of playing; or at which step, counted from 1, it cannot be done, and why. Step 0: it cannot begin. */
export type Played = { ok: true; operations: Operation[]; made: string[] } | { ok: false; step: number; error: string }

export type PlayOptions = {
  /** The ids of what is picked, in their order. */
  on: readonly string[]
  /** By the names of inputs; those that are left out are what they are at first. */
  inputs?: InputValues
  newId: () => string
  /** Whether the kit has a part. */
  hasPart: (id: string) => boolean
}

/** How many things a recipe is played on at a time: `each` by itself, or so many together. */
export function needsOf(recipe: Recipe): 'each' | number {
  let most = 0
  let isEach = false
  JSON.stringify(recipe.steps, (key, value: unknown) => {
    const who = typeof value !== 'string' ? '' : key === 'who' || key === 'like' ? value : value.replace(/^@/, '')
    if (typeof value === 'string' && (key === 'who' || key === 'like' || value.startsWith('@'))) {
      isEach ||= who === 'each'
      if (/^[1-9]\d{0,2}$/.test(who)) most = Math.max(most, Number(who))
    }
    return value
  })
  return isEach ? 'each' : most
}

/** What is wrong with a recipe by itself, in words; null if nothing is. */
export function recipeProblem(recipe: Recipe): string | null {
  const names = recipe.inputs.map(({ name }) => name)
  for (const sum of sumsOf(recipe)) {
    const read = parseExpression(sum, names)
    if (!read.ok) return `The sum “${sum}” ${read.error}.`
  }
  return null
}

/**
 * What a recipe does to what is picked: the operations of one change. Played on what it was made with, as that was
 * then, and with its own numbers, it gives the same to the last bit.
 *
 * @example
 * import { createPlacement } from '../level/create'
 * import { Level } from '../level/level'
 * const id = '00000000-0000-7000-8000-000000000001'
 * const level = new Level([createPlacement({ id, name: 'Crate', kind: 'group' })])
 * const does = [{ do: 'move' as const, who: 'each', by: ['step', 0, 0] as [string, number, number], exact: [] }]
 * const inputs = [{ name: 'step', label: 'Step', quantity: 'length' as const, first: 2 }]
 * const recipe = { name: 'Aside', inputs, steps: [{ label: 'Move', does }] }
 * const played = playRecipe(level, recipe, { on: [id], newId: () => id, hasPart: () => true })
 * played.ok && played.operations // [{ do: 'put', id, fields: { translation: [2, 0, 0] } }]
 */
export function playRecipe(level: Level, recipe: Recipe, options: PlayOptions): Played {
  const refused = (step: number, error: string): Played => ({ ok: false, step, error })
  const needs = needsOf(recipe)
  const { on } = options
  if (needs === 'each' && on.length === 0) return refused(0, 'Pick what it is to be played on.')
  if (typeof needs === 'number' && needs > 0 && on.length !== needs)
    return refused(
      0,
      `It is played on ${counted(needs, 'thing')}; ${counted(on.length, 'thing')} ${on.length === 1 ? 'is' : 'are'} picked.`,
    )
  const deeds = recipe.steps.reduce((sum, { does }) => sum + does.length, 0)
  if (deeds * (needs === 'each' ? on.length : 1) > MOST_IN_CHANGE)
    return refused(0, `That would be more than the ${MOST_IN_CHANGE.toLocaleString('en')} operations of one change.`)
  const unknown = Object.keys(options.inputs ?? {}).find(name => !recipe.inputs.some(input => input.name === name))
  if (unknown !== undefined) return refused(0, `It has no input “${unknown.slice(0, 40)}”.`)
  const inputs = Object.fromEntries(recipe.inputs.map(({ name, first }) => [name, options.inputs?.[name] ?? first]))
  for (const { name, label } of recipe.inputs)
    if (!Number.isFinite(inputs[name])) return refused(0, `“${label}” is no number.`)
  const run = new Run(
    level,
    inputs,
    recipe.inputs.every(({ name, first }) => inputs[name] === first),
    options,
  )
  const groups =
    needs === 'each' ? on.map(id => new Map([['each', id]])) : [new Map(on.map((id, i) => [String(i + 1), id]))]
  for (const [i, { does }] of recipe.steps.entries()) {
    try {
      for (const named of groups) for (const deed of does) run.do(deed, named)
      run.check()
    } catch (error) {
      if (error instanceof NotPossible) return refused(i + 1, error.message)
      throw error
    }
  }
  return { ok: true, operations: run.operations(), made: run.made }
}

type AnyRecord = Record<string, unknown>
type Thing = { fields: AnyRecord; written: Set<string>; isNew: boolean }
type Of = RecordName | 'placement'

/** A level as the steps so far have left it, with what they have written. */
class Run {
  readonly made: string[] = []
  private readonly things = new Map<string, Thing>()
  private readonly ofId = new Map<string, Of>()
  private readonly removed = new Set<string>()
  private readonly touched = new Set<string>()
  private readonly names: FreeNames
  private readonly work: ReturnType<typeof workingOut>

  constructor(
    private readonly level: Level,
    inputs: InputValues,
    private readonly areFirst: boolean,
    private readonly options: PlayOptions,
  ) {
    this.names = new FreeNames(level)
    this.work = workingOut(inputs)
  }

  do(deed: Deed, named: Map<string, string>): void {
    switch (deed.do) {
      case 'move': {
        const by = this.three(deed.by)
        this.transform(deed.who, named, 'translation', deed.exact, (from: Vec3) => from.map((each, i) => each + by[i]!))
        return
      }
      case 'size': {
        const by = this.three(deed.by)
        this.transform(deed.who, named, 'scale', deed.exact, (from: Vec3) => from.map((each, i) => each * by[i]!))
        return
      }
      case 'turn': {
        const angle = (this.work(deed.by) * Math.PI) / 180
        const turn = new Quaternion().setFromAxisAngle(new Vector3(...deed.axis).normalize(), angle)
        this.transform(deed.who, named, 'rotation', deed.exact, (from: Quat) =>
          turn
            .clone()
            .multiply(new Quaternion(...from))
            .normalize()
            .toArray(),
        )
        return
      }
      case 'set': {
        const id = this.idOf(deed.who, named)
        this.write(this.need(deed.of, id), this.fill(deed.fields, named))
        this.touched.add(id)
        return
      }
      case 'make':
        this.make(deed, named)
        return
      case 'remove': {
        const id = this.idOf(deed.who, named)
        this.need(deed.of, id)
        this.things.delete(id)
        this.removed.add(id)
      }
    }
  }

  /** Looks at what was written since the last time. @throws NotPossible if it makes no sense */
  check(): void {
    for (const id of this.touched) {
      const of = this.ofId.get(id)!
      const thing = this.things.get(id)
      if (!thing) continue
      const schema = of === 'placement' ? placementSchema : RECORDS[of]
      const read = schema.safeParse({ id, ...thing.fields })
      if (!read.success) {
        const { path, message } = read.error.issues[0]!
        throw new NotPossible(`${this.called(id)}: ${path.map(String).join(' ') || 'it'} ${message}.`)
      }
      if (of === 'placement') this.checkNamed(id, thing.fields as PlacementFields)
    }
    this.touched.clear()
  }

  /** In the order in which they can be done: what others name comes first. */
  operations(): Operation[] {
    const puts: Operation[] = []
    for (const isPlacement of [false, true])
      for (const [id, { fields, written, isNew }] of this.things) {
        const of = this.ofId.get(id)!
        // What is kept to things names these.
        if ((of === 'placement') !== isPlacement || of === 'relation' || of === 'measure') continue
        this.put(puts, of, id, isNew ? fields : this.only(fields, written))
      }
    for (const [id, { fields, written, isNew }] of this.things) {
      const of = this.ofId.get(id)!
      if (of === 'relation' || of === 'measure') this.put(puts, of, id, isNew ? fields : this.only(fields, written))
    }
    const gone = [...this.removed].map(id => {
      const of = this.ofId.get(id)!
      return { do: of === 'placement' ? 'remove' : `remove-${of}`, id } as Operation
    })
    return [...puts, ...gone]
  }

  private put(puts: Operation[], of: Of, id: string, fields: AnyRecord): void {
    if (Object.keys(fields).length > 0)
      puts.push({ do: of === 'placement' ? 'put' : `put-${of}`, id, fields } as Operation)
  }

  private only(fields: AnyRecord, written: ReadonlySet<string>): AnyRecord {
    return Object.fromEntries([...written].map(key => [key, fields[key]]))
  }

  private make(deed: Extract<Deed, { do: 'make' }>, named: Map<string, string>): void {
    const id = this.options.newId()
    const fields = this.fill(deed.fields, named)
    const like = deed.like === null ? null : this.need('placement', this.idOf(deed.like, named))
    const base = like?.fields ?? {}
    const whole: AnyRecord = { ...base, ...fields }
    if (deed.of === 'placement') {
      const by = this.three(deed.by)
      const from = (whole.translation ?? [0, 0, 0]) as Vec3
      if (like) whole.translation = this.exactly(deed.exact, from) ?? from.map((each, i) => each + by[i]!)
      if (like && fields.name === undefined) whole.name = this.names.like(String(base.name))
    }
    this.things.set(id, { fields: whole, written: new Set(Object.keys(whole)), isNew: true })
    this.ofId.set(id, deed.of)
    named.set(deed.as, id)
    this.touched.add(id)
    this.made.push(id)
  }

  private transform<T extends number[]>(
    who: string,
    named: ReadonlyMap<string, string>,
    field: 'translation' | 'rotation' | 'scale',
    exact: readonly (readonly [T, T])[],
    next: (from: T) => number[],
  ): void {
    const id = this.idOf(who, named)
    const thing = this.need('placement', id)
    const from = thing.fields[field] as T
    this.write(thing, { [field]: this.exactly(exact, from) ?? next(from) })
    this.touched.add(id)
  }

  /** What came of the same numbers when the recipe was made, as long as its inputs are as they were. */
  private exactly<T extends readonly number[]>(exact: readonly (readonly [T, T])[], from: T): number[] | null {
    const same = exact.find(([before]) => before.every((each, i) => each === from[i]))
    return this.areFirst && same ? [...same[1]] : null
  }

  private write(thing: Thing, fields: AnyRecord): void {
    for (const [key, value] of Object.entries(fields)) {
      thing.fields[key] = value
      thing.written.add(key)
    }
  }

  private three(sums: readonly [Sums, Sums, Sums]): Vec3 {
    return sums.map(sum => this.work(sum)) as Vec3
  }

  private fill(fields: Extract<Deed, { do: 'set' }>['fields'], named: ReadonlyMap<string, string>): AnyRecord {
    return fillIn(fields, this.work, who => this.idOf(who, named))
  }

  private idOf(who: string, named: ReadonlyMap<string, string>): string {
    const id = named.get(who)
    if (id !== undefined) return id
    if (/^(?:each|new\d+|\d+)$/.test(who)) throw new NotPossible(`Nothing is called “${who}” yet.`)
    return who
  }

  private need(of: Of, id: string): Thing {
    const known = this.things.get(id)
    if (known) return known
    const record = (of === 'placement' ? this.level.get(id) : this.level[TABLE_OF[of]].get(id)) as
      | (AnyRecord & { id: string })
      | undefined
    if (!record || this.removed.has(id))
      throw new NotPossible(`The ${of === 'placement' ? 'thing' : of} it is about is gone.`)
    const { id: _id, ...fields } = record
    const thing: Thing = { fields, written: new Set(), isNew: false }
    this.things.set(id, thing)
    this.ofId.set(id, of)
    return thing
  }

  /** What a placement names has to be there. */
  private checkNamed(id: string, { partId, parentId, layerId, blockId }: PlacementFields): void {
    const isThere = (of: Of, named: string | null) =>
      named === null
      || (!this.removed.has(named)
        && (this.things.has(named)
          || (of === 'placement' ? this.level.has(named) : this.level[TABLE_OF[of]].has(named))))
    if (partId !== null && !this.options.hasPart(partId))
      throw new NotPossible(`The part of ${this.called(id)} is not in the kit any more.`)
    for (const [of, named, what] of [
      ['placement', parentId, 'what it is to hang from'],
      ['layer', layerId, 'its layer'],
      ['block', blockId, 'its block'],
    ] as const)
      if (!isThere(of, named)) throw new NotPossible(`${this.called(id)}: ${what} is gone.`)
  }

  private called(id: string): string {
    return String(this.things.get(id)?.fields.name ?? this.level.get(id)?.name ?? 'What it makes')
  }
}

type Sums = Extract<Deed, { do: 'move' }>['by'][number]
