import { z } from 'zod'
import { arrangementSchema } from '~~/core/arrange/arrangement'
import { AXES_MODES } from '~~/core/edit/handles/axes'
import { PIVOT_MODES } from '~~/core/edit/handles/pivot'
import type { Rest } from '~~/core/level/relation'
import { RESTS } from '~~/core/level/relation'
import { SET_DOWN_LIMITS } from '~~/core/edit/snap/set-down'
import { STEEP_SIDES } from '~~/core/edit/snap/beside'
import { SNAP_POINT_KINDS } from '~~/core/edit/snap/vertex'
import { FORMAT_NAMES, reportSchema } from '~~/core/formats/formats'
import type { WalkSettings } from '~~/core/walk/walker'
import { FIRST_WALK, WALK_BOUNDS } from '~~/core/walk/walker'
import { HEIGHTS } from '~~/core/units/height'
import { initialsSchema } from '~~/core/api/people'
import { colorSchema, nameSchema } from '~~/core/level/fields'
import type { PresetFields } from '~~/core/level/preset'
import { presetFieldsSchema } from '~~/core/level/preset'
import { recipeFieldsSchema } from '~~/core/level/recipe'
import { isChord } from './keys/chord'
import { pointingSchema } from './pointing/pointing'
import { BLOCK_KINDS, blockShapeSchema, FIRST_BLOCKS } from '~~/core/mesh/block'
import { SHOWN_UNITS } from '~~/core/units/quantity'

// Every setting with what it is at first. What was kept by an earlier version, or makes no sense, falls back to that by
// itself: one setting that cannot be read costs no other.

/** Settings that belong together, each with its own way back. */
const together = <S extends z.ZodRawShape>(shape: S) =>
  z.preprocess(
    given => (typeof given === 'object' && given !== null && !Array.isArray(given) ? given : {}),
    z.object(shape),
  )
const one = <const T extends readonly [string, ...string[]]>(values: T, first: T[number]) =>
  z.enum(values).catch(first as never)
const yes = z.boolean().catch(true)
const no = z.boolean().catch(false)
const number = (first: number, least = -1e9, most = 1e9) => z.number().min(least).max(most).catch(first)

const step = (on: boolean, size: number, lattice: boolean) =>
  together({
    on: z.boolean().catch(on),
    size: z.number().gt(0).max(1e6).catch(size),
    lattice: z.boolean().catch(lattice),
  })
const rest = (first: Rest) => ({ rest: one(RESTS, first), leaning: no, offset: number(0) })
const shapes = together(
  Object.fromEntries(
    BLOCK_KINDS.map(kind => [kind, blockShapeSchema.refine(shape => shape.type === kind).catch(FIRST_BLOCKS[kind])]),
  ) as unknown as Record<(typeof BLOCK_KINDS)[number], typeof blockShapeSchema>,
)
/** What a person who walks is like. */
const walk = Object.fromEntries(
  Object.entries(WALK_BOUNDS).map(([key, bounds]) => [key, number(FIRST_WALK[key as keyof WalkSettings], ...bounds)]),
) as Record<keyof WalkSettings, ReturnType<typeof number>>
/** A file that was handed over. */
const handedOverSchema = z.object({
  name: z.string(),
  format: z.enum(FORMAT_NAMES),
  at: z.number(),
  report: reportSchema,
})
/** The numbers of a form that were kept; or, as they were at first, those of an arrangement. */
const presetSchema = z.union([
  presetFieldsSchema,
  z.object({ name: nameSchema, own: arrangementSchema }).transform(
    ({ name, own }): PresetFields => ({
      form: own.rule.type,
      name,
      values: own as unknown as PresetFields['values'],
      picture: null,
    }),
  ),
])

/** The steps of the job, in order. */
export const BENCH_NAMES = [
  'kit',
  'blocks',
  'line-up',
  'repeat',
  'scatter',
  'measure',
  'check',
  'cameras',
  'settle',
] as const

const keyListSchema = z.array(z.string().max(60).refine(isChord, 'is no key')).max(8)
/** Keys of actions and of what is heard on the stage, by name, where they are others than ours. */
export const keysSchema = z.record(z.string().min(1).max(200), keyListSchema)
/** Of keys as they were kept, those that can be read: one that cannot costs no other. */
const readable = (given: unknown) =>
  Object.fromEntries(
    Object.entries(Object(given) as object).filter(([, keys]) => keyListSchema.safeParse(keys).success),
  )

/** Actions that can be favourites, and that are remembered as used last. */
export const [FAVOURITE_ACTIONS, LAST_ACTIONS] = [30, 5]
/** Recipes and presets kept with one person, at most. */
export const [MOST_RECIPES, MOST_PRESETS] = [100, 200]
const actionNames = (most: number) => z.array(z.string().min(1).max(200)).max(most).catch([])

/** Percent, and factors, at least and at most. */
export const [TEXT_SIZE, HANDLE_SIZE] = [
  [80, 150],
  [0.6, 2],
] as const

/** How wide windows are, as panels are remembered by it: below 1180 pixels, below 1700, and from there on. */
export const WIDTHS = ['narrow', 'middle', 'wide'] as const
export type Width = (typeof WIDTHS)[number]
export const widthOf = (pixels: number): Width => (pixels < 1180 ? 'narrow' : pixels < 1700 ? 'middle' : 'wide')

const panelsSchema = together({
  benchSide: one(['left', 'right'], 'left'),
  rosterSide: one(['left', 'right'], 'right'),
  railSide: one(['below', 'above'], 'below'),
  ledgerSide: one(['below', 'above'], 'below'),
  showBench: yes,
  showRoster: yes,
  showLedger: yes,
  /** Pixels. */
  benchWidth: number(244, 100, 1000),
  rosterWidth: number(222, 100, 1000),
  handbookWidth: number(330, 200, 1000),
})
export type Panels = z.output<typeof panelsSchema>

const settingsSchema = together({
  /** How the pointing device steers the view. */
  pointing: z.preprocess(given => Object(given), pointingSchema),
  keys: z.preprocess(readable, keysSchema.catch({})),
  /** Whether keys mean what they write, or where they lie on the keyboard. */
  keysBy: one(['letter', 'place'], 'letter'),
  board: one(['day', 'night', 'system'], 'day'),
  contrast: one(['system', 'ordinary', 'more'], 'system'),
  /** Percent. */
  textSize: number(100, ...TEXT_SIZE),
  /** Of the handles, and of what else is taken hold of; 1 as they are made. */
  handleSize: number(1, ...HANDLE_SIZE),
  motion: one(['system', 'less', 'all'], 'system'),
  /** For what buttons and fields are large enough. */
  hand: one(['system', 'pointer', 'finger'], 'system'),
  angles: one(['degrees', 'turns'], 'degrees'),
  decimalMark: one(['locale', 'dot', 'comma'], 'locale'),
  /** Along which axis height is written. */
  height: one(HEIGHTS, 'y'),
  /** Digits of lengths after the mark; null for as many as the unit needs. */
  digits: z.number().int().min(0).max(6).nullable().catch(null),
  /**
   * How this person looks at each level, by its id: under which of its skies, and with the strip of pictures or
   * without.
   */
  looks: z.preprocess(
    given => Object(given),
    z.record(z.string(), together({ sky: one(['board', 'day', 'night'], 'board'), strip: no })),
  ),
  /** Of a camera that is looked through: lines over its picture. */
  guides: together({ thirds: yes, diagonals: no, height: no }),
  walk: together(walk),
  unit: one(SHOWN_UNITS, 'm'),
  /** Grid step in metres, turn step in degrees, size step as a factor. */
  steps: together({ grid: step(true, 0.25, true), turn: step(true, 15, false), size: step(false, 0.1, false) }),
  /** Whether the grid lies along the world's axes or those of the handles. */
  gridAlong: one(['world', 'axes'], 'axes'),
  axes: one(AXES_MODES, 'world'),
  pivot: one(PIVOT_MODES, 'own'),
  abut: no,
  /** Whether what has met stays so. */
  abutKeeps: no,
  /** Whether what is aligned, distributed and matched stays so. */
  lineUpKeeps: no,
  vertex: no,
  /** Ends of parts click together. */
  sockets: yes,
  snapPoints: z.array(z.enum(SNAP_POINT_KINDS)).catch([...SNAP_POINT_KINDS]),
  hugOn: no,
  hug: together({ onto: one(['ground', 'everything'], 'everything'), ...rest('pivot') }),
  setDown: together({
    ...rest('lowest'),
    above: number(SET_DOWN_LIMITS.above, 0),
    below: number(SET_DOWN_LIMITS.below, 0),
    /** Kept on what is below from then on. */
    keeps: no,
  }),
  leaning: no,
  /** What is put down is kept on what it is put on. */
  keepsPlaced: no,
  /** What is put onto a steep side upright. */
  steepSide: one(STEEP_SIDES, 'stands'),
  /** How things are duplicated, and how far the duplicate is moved, in metres along the axes in force. */
  duplicate: together({
    as: one(['instance', 'copy', 'baked'], 'instance'),
    by: z.tuple([z.number(), z.number(), z.number()]).catch([0, 0, 0]),
    /** Whether copies stay kept to what the first are kept to. */
    stays: yes,
  }),
  bench: one(BENCH_NAMES, 'kit'),
  block: together({
    kind: z.enum(BLOCK_KINDS as [(typeof BLOCK_KINDS)[number]]).catch('box'),
    shapes,
    color: colorSchema.catch('#b9a58b'),
  }),
  /** Parts, by their ids. */
  favourites: z.array(z.string()).catch([]),
  /** The last first. */
  lastUsed: z.array(z.string()).catch([]),
  /** Actions that somebody wants at the top of every menu, in their order. */
  favouriteActions: actionNames(FAVOURITE_ACTIONS),
  /** Actions that were chosen by name, the last first. */
  lastActions: actionNames(LAST_ACTIONS),
  /** Steps kept as one with this person; each by its name. */
  recipes: z
    .array(z.unknown())
    .catch([])
    .transform(list => list.slice(0, MOST_RECIPES).flatMap(each => recipeFieldsSchema.safeParse(each).data ?? [])),
  kitSort: one(['kit', 'name', 'size', 'placed', 'last'], 'kit'),
  /** Numbers of forms, kept with this person; each by its form and name. */
  presets: z
    .array(z.unknown())
    .catch([])
    .transform(list => list.slice(0, MOST_PRESETS).flatMap(each => presetSchema.safeParse(each).data ?? [])),
  /** Where panels are, by the width of the window. */
  panels: together(
    Object.fromEntries(WIDTHS.map(width => [width, panelsSchema])) as Record<Width, typeof panelsSchema>,
  ),
  /** Second windows look from where the first does. */
  sharesView: no,
  rosterSort: one(['order', 'name', 'kind'], 'order'),
  /** Whether the roster opens the way to what is picked, and scrolls there. */
  rosterFollows: yes,
  /** The ledger gives sizes in units of length instead of as factors. */
  sizeInMetres: no,
  /** What this person is called, and whether they said so themselves. */
  isNamed: no,
  /** As others see this person marked; none for the first letters of the name. */
  initials: initialsSchema.catch(''),
  author: nameSchema.catch(() => `Guest ${Math.floor(Math.random() * 9000) + 1000}`),
  /** `sizes`: of what is picked, along each thing's own axes or of its box in the world's. */
  show: together({
    grid: yes,
    sky: yes,
    camera: yes,
    light: yes,
    marker: yes,
    hover: yes,
    measures: yes,
    people: yes,
    notes: yes,
    links: yes,
    sizes: one(['off', 'own', 'box'], 'off'),
  }),
  /** Pixels. */
  markSize: number(24, 12, 48),
  marksPickable: no,
  /** Metres, and from 0 to 1. */
  brush: together({ radius: number(0.5, 0.01, 1000), strength: number(1, 0.05, 1) }),
  /** In which format levels were handed over last, how in each, and the last ten files. */
  handOver: together({
    format: one(FORMAT_NAMES, 'glb'),
    options: z
      .preprocess(given => Object(given), z.record(z.string(), z.record(z.string(), z.string()).catch({})))
      .catch({}),
    files: z
      .array(z.unknown())
      .catch([])
      .transform(list => list.flatMap(each => handedOverSchema.safeParse(each).data ?? []).slice(0, 10)),
  }),
  /** Metres a second, by level. */
  flySpeeds: z.preprocess(
    given =>
      Object.fromEntries(Object.entries(Object(given)).filter(([, speed]) => typeof speed === 'number' && speed > 0)),
    z.record(z.string(), z.number()),
  ),
})

export type Settings = z.output<typeof settingsSchema>
export type Bench = (typeof BENCH_NAMES)[number]

/** Settings as they were kept, also by an earlier version; what is missing or makes no sense is as it is at first. */
export function readSettings(kept: unknown): Settings {
  return settingsSchema.parse(byWidth(kept))
}

/** Settings whose panels are the same at all widths, as the first version had them, with those by width. */
export function byWidth<T>(kept: T): T {
  if (typeof kept !== 'object' || kept === null || 'panels' in kept) return kept
  const names = Object.keys(panelsSchema.parse({}))
  const entries = Object.entries(kept)
  const flat = entries.filter(([key]) => names.includes(key))
  if (flat.length === 0) return kept
  const panels = Object.fromEntries(WIDTHS.map(width => [width, Object.fromEntries(flat)]))
  return { ...Object.fromEntries(entries.filter(([key]) => !names.includes(key))), panels } as T
}
