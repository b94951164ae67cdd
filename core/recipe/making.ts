import isEqual from 'fast-deep-equal'
import { Quaternion, Vector3 } from 'three'
import type { Deed, Recipe, RecipeInput, Sum } from '../level/recipe'
import { RECIPE_BOUNDS, RECIPE_RECORDS, recipeFieldsSchema } from '../level/recipe'
import type { Operation, Placement, PlacementFields, RecordName } from '../level/schema'
import { RECORDS } from '../level/schema'
import type { Quat, Vec3 } from '../math/vectors'
import type { LevelAxis } from '../units/height'
import { LEVEL_AXES } from '../units/height'
import { firstIssue } from '../units/issue'
import { asName } from '../units/text'
import { nameIn } from './sums'

/** Changes as they were done, in their order; of those that are not chosen it is only followed what they did. */
export type DoneChange = { label: string; operations: readonly Operation[]; isChosen: boolean }

/** A recipe; or why none can be made of these changes, in words. */
export type MadeRecipe = { ok: true; recipe: Recipe; subjects: readonly string[] } | { ok: false; error: string }

/** Numbers that are this near are the same: a millionth of a millimetre, or of a degree. */
const NEAR = 1e-9

/**
 * A recipe of what was done: what happened to things that were there becomes a step for whatever is picked, and what
 * was made is made again, like what is picked where it was a copy of that.
 *
 * @param before a placement as it was before the first of the changes
 * @param picked in the order in which things are meant; those that the changes touched first, when left out
 */
export function makeRecipe(
  name: string,
  changes: readonly DoneChange[],
  before: (id: string) => Placement | undefined,
  picked?: readonly string[],
): MadeRecipe {
  const chosen = changes.filter(({ isChosen }) => isChosen)
  const count = chosen.reduce((sum, { operations }) => sum + operations.length, 0)
  if (count === 0) return { ok: false, error: 'Nothing was done that could be a step.' }
  if (count > RECIPE_BOUNDS.deeds * 4)
    return { ok: false, error: `That is more than a recipe can hold: ${RECIPE_BOUNDS.deeds} things done.` }
  const maker = new Maker(before, picked ?? touchedBy(chosen, before))
  const steps = changes.flatMap(change => {
    const does = change.operations.flatMap(operation => maker.follow(operation))
    return change.isChosen && does.length > 0 ? [{ label: change.label, does }] : []
  })
  const alike = asEach(steps, maker.subjects.length)
  const { inputs, steps: withInputs } = withSums(alike)
  const read = recipeFieldsSchema.safeParse({ name, inputs, steps: withInputs })
  return read.success
    ? { ok: true, recipe: read.data, subjects: maker.subjects }
    : { ok: false, error: `This cannot be kept as a recipe: it ${firstIssue(read.error).message}.` }
}

/** Things that were there and that changes do something to. */
function touchedBy(changes: readonly DoneChange[], before: (id: string) => Placement | undefined): string[] {
  const ids = changes.flatMap(({ operations }) =>
    operations.flatMap(operation =>
      (operation.do === 'put' || operation.do === 'remove') && before(operation.id) ? [operation.id] : [],
    ),
  )
  return [...new Set(ids)]
}

type Steps = Recipe['steps']

/** Follows changes from what there was, and says each operation as a deed. */
class Maker {
  readonly subjects: readonly string[]
  private readonly now = new Map<string, PlacementFields | null>()
  private readonly whoOf = new Map<string, string>()
  private made = 0

  constructor(
    private readonly before: (id: string) => Placement | undefined,
    picked: readonly string[],
  ) {
    this.subjects = [...new Set(picked)].filter(id => before(id))
    this.subjects.forEach((id, i) => this.whoOf.set(id, String(i + 1)))
  }

  follow(operation: Operation): Deed[] {
    if (operation.do === 'put') return this.put(operation.id, operation.fields)
    if (operation.do === 'remove') {
      this.now.set(operation.id, null)
      return [{ do: 'remove', of: 'placement', who: this.named(operation.id) }]
    }
    const [does, record] = operation.do.split('-') as ['put' | 'remove', RecordName]
    // Others of a level's records are no work on it: notes, skies, what its check asks, and recipes themselves.
    if (!isOfRecipes(record)) return []
    if (does === 'remove') return [{ do: 'remove', of: record, who: this.named(operation.id) }]
    const fields = this.values('fields' in operation ? operation.fields : {})
    if (this.whoOf.get(operation.id)?.startsWith('new'))
      return [{ do: 'set', of: record, who: this.named(operation.id), fields }]
    // What has all fields at once is new.
    return RECORDS[record].safeParse({ id: operation.id, ...('fields' in operation && operation.fields) }).success
      ? [{ do: 'make', of: record, as: this.name(operation.id), like: null, by: [0, 0, 0], exact: [], fields }]
      : [{ do: 'set', of: record, who: operation.id, fields }]
  }

  private get(id: string): PlacementFields | undefined {
    const now = this.now.get(id)
    if (now === null) return undefined
    if (now) return now
    const { id: _id, ...fields } = this.before(id) ?? { id }
    return 'kind' in fields ? fields : undefined
  }

  private put(id: string, fields: Partial<PlacementFields>): Deed[] {
    const from = this.get(id)
    const next = { ...from, ...fields } as PlacementFields
    this.now.set(id, next)
    if (!from) return [this.makes(id, next)]
    const who = this.named(id)
    const { translation, rotation, scale, ...others } = fields
    const deeds: Deed[] = []
    if (translation && !isEqual(translation, from.translation))
      deeds.push({
        do: 'move',
        who,
        by: translation.map((each, i) => tidy(each - from.translation[i]!)) as Vec3,
        exact: [[from.translation, translation]],
      })
    if (rotation && !isEqual(rotation, from.rotation))
      deeds.push({ do: 'turn', who, ...turnBetween(from.rotation, rotation), exact: [[from.rotation, rotation]] })
    if (scale && !isEqual(scale, from.scale))
      deeds.push({
        do: 'size',
        who,
        by: scale.map((each, i) => tidy(each / from.scale[i]!)) as Vec3,
        exact: [[from.scale, scale]],
      })
    const changed = Object.fromEntries(
      Object.entries(others).filter(([key, value]) => !isEqual(value, from[key as keyof PlacementFields])),
    )
    if (Object.keys(changed).length > 0) deeds.push({ do: 'set', of: 'placement', who, fields: this.values(changed) })
    return deeds
  }

  /** Something new: like the first of what is picked that it shares its shape with, or by itself. */
  private makes(id: string, fields: PlacementFields): Deed {
    const like = this.subjects.find(subject => {
      const of = this.get(subject)
      return (
        of !== undefined
        && of.kind === fields.kind
        && fields.kind !== 'group'
        && of.partId === fields.partId
        && of.blockId === fields.blockId
      )
    })
    const of = like === undefined ? undefined : this.get(like)
    const as = this.name(id)
    if (!of)
      return { do: 'make', of: 'placement', as, like: null, by: [0, 0, 0], exact: [], fields: this.values(fields) }
    const differs = Object.fromEntries(
      Object.entries(fields).filter(
        ([key, value]) =>
          !['translation', 'name', 'order'].includes(key) && !isEqual(value, of[key as keyof PlacementFields]),
      ),
    )
    const by = fields.translation.map((each, i) => tidy(each - of.translation[i]!)) as Vec3
    return {
      do: 'make',
      of: 'placement',
      as,
      like: this.named(like!),
      by,
      exact: [[of.translation, fields.translation]],
      fields: this.values(differs),
    }
  }

  private name(id: string): string {
    const who = `new${++this.made}`
    this.whoOf.set(id, who)
    return who
  }

  private named(id: string): string {
    return this.whoOf.get(id) ?? id
  }

  private values(fields: object): Extract<Deed, { do: 'set' }>['fields'] {
    return nameIn(fields, id => this.whoOf.get(id)) as Extract<Deed, { do: 'set' }>['fields']
  }
}

type OfRecipes = (typeof RECIPE_RECORDS)[number]
const isOfRecipes = (record: RecordName): record is OfRecipes => (RECIPE_RECORDS as readonly string[]).includes(record)

/** Takes off what binary fractions leave behind, where that changes nothing that is seen. */
const tidy = (value: number) => Number(value.toFixed(9)) + 0

/** The turn from one to the other: an axis of what they hang from, and degrees. */
function turnBetween(from: Quat, to: Quat): { axis: Vec3; by: number } {
  const turn = new Quaternion(...to).multiply(new Quaternion(...from).invert()).normalize()
  if (turn.w < 0) turn.set(-turn.x, -turn.y, -turn.z, -turn.w)
  const length = Math.hypot(turn.x, turn.y, turn.z)
  if (length < 1e-12) return { axis: [0, 1, 0], by: 0 }
  const axis = new Vector3(turn.x, turn.y, turn.z).divideScalar(length)
  const degrees = (2 * Math.atan2(length, turn.w) * 180) / Math.PI
  // About an axis that points up, right or nearer, so that a number below 0 goes the other way.
  const isBack = axis.x + axis.y + axis.z < -NEAR
  const along = isBack ? axis.negate() : axis
  return { axis: along.toArray().map(tidy) as Vec3, by: tidy(isBack ? -degrees : degrees) }
}

/**
 * The same for `each` thing that is picked, where what was done to all of several things was the same; as it is, where
 * it was not.
 */
function asEach(steps: Steps, count: number): Steps {
  const whole = JSON.stringify(steps)
  if (count === 1)
    return JSON.parse(whole, (key, value: unknown) =>
      (['who', 'like'].includes(key) && value === '1') || value === '@1'
        ? typeof value === 'string' && value.startsWith('@')
          ? '@each'
          : 'each'
        : value,
    ) as Steps
  if (count === 0 || whole.includes('"@')) return steps
  const merged: Steps = []
  for (const { label, does } of steps) {
    const byWho = Array.from({ length: count }, (_, i) => does.filter(deed => whoseIs(deed) === String(i + 1)))
    const [first] = byWho
    if (byWho.some(some => some.length !== first!.length) || first!.length * count !== does.length) return steps
    const each = first!.map((deed, i) => {
      const alike = byWho.map(some => some[i]!)
      return alike.every(other => isSame(other, deed)) ? together(alike) : null
    })
    if (each.includes(null)) return steps
    merged.push({ label, does: each as Deed[] })
  }
  return merged
}

const whoseIs = (deed: Deed) => (deed.do === 'make' ? deed.like : deed.who)

/** Whether two deeds are the same but for whom they are about. */
function isSame(a: Deed, b: Deed): boolean {
  const bare = (deed: Deed) => ({ ...deed, who: '', like: '', as: '', by: 0, axis: 0, exact: 0 })
  if (!isEqual(bare(a), bare(b))) return false
  const numbers = (deed: Deed) => ['by' in deed ? deed.by : [], 'axis' in deed ? deed.axis : []].flat(2) as number[]
  const [of, other] = [numbers(a), numbers(b)]
  return of.length === other.length && of.every((each, i) => Math.abs(each - other[i]!) <= NEAR)
}

/** Several that are the same as one for each, which knows what came of each. */
function together(alike: readonly Deed[]): Deed {
  const [first] = alike
  const exact = alike.flatMap(deed => ('exact' in deed ? (deed.exact as unknown[]) : []))
  const who = first!.do === 'make' ? { like: 'each' } : { who: 'each' }
  return { ...first!, ...who, ...('exact' in first! && { exact: exact.slice(0, RECIPE_BOUNDS.exact) }) } as Deed
}

/** Gives the numbers of steps names, so that they can be others. */
function withSums(steps: Steps): { inputs: RecipeInput[]; steps: Steps } {
  const inputs: RecipeInput[] = []
  const taken = new Set<string>()
  const input = (
    base: string,
    label: string,
    quantity: RecipeInput['quantity'],
    first: number,
    axis?: LevelAxis,
  ): Sum => {
    if (inputs.length >= RECIPE_BOUNDS.inputs) return first
    let name = base
    for (let i = 2; taken.has(name); i++) name = `${base}${i}`
    taken.add(name)
    const number = name.slice(base.length)
    inputs.push({
      name,
      label: asName(number ? `${label} ${number}` : label),
      quantity,
      ...(axis !== undefined && { axis }),
      first,
    })
    return name
  }
  /** A number along an axis, by a name that says which; one that does nothing stays as it is. */
  const along = (of: Sum, nothing: number, does: string, quantity: RecipeInput['quantity'], axis: LevelAxis): Sum => {
    const letter = 'XYZ'[axis]
    return typeof of === 'number' && of !== nothing
      ? input(`${does.toLowerCase()}${letter}`, `${does} ${letter}`, quantity, of, axis)
      : of
  }
  const shift = (by: readonly Sum[], does: string): [Sum, Sum, Sum] =>
    LEVEL_AXES.map(axis => along(by[axis]!, 0, does, 'length', axis)) as [Sum, Sum, Sum]
  const factors = (by: readonly Sum[]): [Sum, Sum, Sum] => {
    const [x, y, z] = by
    if (x === y && y === z && typeof x === 'number') {
      const name = input('size', 'Size', 'factor', x)
      return [name, name, name]
    }
    return LEVEL_AXES.map(axis => along(by[axis]!, 1, 'Size', 'factor', axis)) as [Sum, Sum, Sum]
  }
  const named = steps.map(({ label, does }) => ({
    label,
    does: does.map((deed): Deed => {
      switch (deed.do) {
        case 'move':
          return { ...deed, by: shift(deed.by, 'Move') }
        case 'make':
          return { ...deed, by: shift(deed.by, 'Off'), fields: ruled(deed.fields) }
        case 'turn':
          return { ...deed, by: typeof deed.by === 'number' ? input('turn', 'Turn', 'angle', deed.by) : deed.by }
        case 'size':
          return { ...deed, by: factors(deed.by) }
        case 'set':
          return { ...deed, fields: ruled(deed.fields) }
        default:
          return deed
      }
    }),
  }))
  return { inputs, steps: named }

  /** The plain numbers of a rule, such as how many and how far apart. */
  function ruled<T extends Record<string, unknown>>(fields: T): T {
    const { own } = fields as { own?: { rule?: Record<string, unknown> } }
    if (!own?.rule) return fields
    const rule = Object.fromEntries(
      Object.entries(own.rule).map(([key, value]) =>
        typeof value === 'number' && key !== 'seed' && /^[a-z][A-Za-z0-9]*$/.test(key)
          ? [key, sum(input(key, fieldLabel(key), Number.isInteger(value) ? 'count' : 'number', value))]
          : [key, value],
      ),
    )
    return { ...fields, own: { ...own, rule } }
  }
}

const sum = (of: Sum) => (typeof of === 'number' ? of : { '=': of })
/** `spanAround` as "Span around". */
const fieldLabel = (key: string) =>
  key.replace(/[A-Z]/g, letter => ` ${letter.toLowerCase()}`).replace(/^./, letter => letter.toUpperCase())
