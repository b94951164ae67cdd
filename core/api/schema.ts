import { z } from 'zod'
import { OWN_KIT, partSchema, kitEntrySchema } from '../level/part'
import {
  answerSchema,
  blockSchema,
  changeSchema,
  exemptionSchema,
  layerSchema,
  limitSchema,
  measureSchema,
  operationSchema,
  placementSchema,
  presetSchema,
  recipeSchema,
  relationSchema,
  skySchema,
  stationSchema,
  threadSchema,
} from '../level/schema'
import { idSchema, nameSchema, vec3Schema } from '../level/fields'
import { roleSchema } from './roles'
import { BEGINNINGS, isBeginning } from './starting-points'
import { SEVERITIES } from '../check/definition'
import { flag } from '../formats/out/scope'
import { lineOfText } from '../units/text'
import type { CheckName } from '../check/kinds'
import { CHECK_NAMES } from '../check/kinds'

// What the server's routes take and answer; used by the routes, the page and the tests alike.

/** As large as the database's. */
export const revisionSchema = z
  .int()
  .min(0)
  .max(2 ** 31 - 1)

const journalEntrySchema = changeSchema.extend({ revision: revisionSchema })

export const levelSummarySchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  revision: revisionSchema,
  placementCount: z.int().min(0),
  hasPicture: z.boolean(),
  /** What the picture shows: the level as it was after so many changes. */
  pictureRevision: revisionSchema,
  /** The part that is made of what is in it, if it is a workshop. */
  partId: idSchema.nullable(),
  /** The level that it is another try at, and the milestone at which it began. */
  variantOf: idSchema.nullable(),
  beganAt: idSchema.nullable(),
  tags: z.array(z.string()),
  /** Whether levels are begun from it. */
  startingPoint: z.boolean(),
  createdAt: z.iso.datetime(),
  changedAt: z.iso.datetime(),
  /** Since when it is put away. */
  archivedAt: z.iso.datetime().nullable(),
})

export const levelSchema = levelSummarySchema.extend({
  placements: z.array(placementSchema),
  layers: z.array(layerSchema),
  stations: z.array(stationSchema),
  blocks: z.array(blockSchema),
  measures: z.array(measureSchema),
  limits: z.array(limitSchema),
  exemptions: z.array(exemptionSchema),
  skies: z.array(skySchema),
  threads: z.array(threadSchema),
  answers: z.array(answerSchema),
  relations: z.array(relationSchema),
  presets: z.array(presetSchema),
  recipes: z.array(recipeSchema),
})

/** A level as it is listed. */
export const listedLevelSchema = levelSummarySchema.extend({
  /** Names of those who have it open. */
  here: z.array(nameSchema),
  /** Who made the last change; null if there was none. */
  lastBy: z.string().nullable(),
})

export const newLevelSchema = z
  .strictObject({
    name: nameSchema,
    /** `empty`, `demo`, a starting point, or the id of a level to duplicate. */
    from: z.union([z.literal(BEGINNINGS), idSchema]).default('empty'),
    /** Of that level, the milestone to begin at; as it is when left out. */
    at: idSchema.optional(),
    /** Whether it is another try at that level, to be compared with it. */
    variant: z.boolean().default(false),
    /** Who begins it, where that is not proven. */
    author: nameSchema.default('Somebody'),
  })
  .refine(
    ({ from, at, variant }) => !isBeginning(from) || (at === undefined && !variant),
    'only a level has milestones and variants',
  )

/** Words that a level is found by. */
export const tagsSchema = z
  .array(lineOfText(40))
  .max(20)
  .refine(tags => new Set(tags).size === tags.length, 'must each be there once')

export const levelPatchSchema = z
  .strictObject({
    name: nameSchema.optional(),
    tags: tagsSchema.optional(),
    startingPoint: z.boolean().optional(),
    /** Puts it away, or brings it back from there. */
    archived: z.boolean().optional(),
    /** False brings a deleted level back. */
    deleted: z.literal(false).optional(),
  })
  .refine(patch => Object.keys(patch).length > 0, 'nothing to change')

export const changesRequestSchema = z.strictObject({
  /** The level's revision the changes were made on. */
  baseRevision: revisionSchema,
  changes: z.array(changeSchema).min(1).max(1000),
})

/** Changes, with where each stands in the journal. */
const appliedSchema = z.array(z.strictObject({ id: idSchema, revision: revisionSchema }))

export const changesAnswerSchema = z.strictObject({
  /** The level's revision now. */
  revision: revisionSchema,
  /** Where each change sent stands in the journal, in the order sent. */
  applied: appliedSchema,
  /** What others changed since `baseRevision`, in order. */
  others: z.array(journalEntrySchema),
})

/** What was done after a revision that is known. */
export const journalQuerySchema = z.strictObject({ after: z.coerce.number().pipe(revisionSchema) })

export const journalSchema = z.strictObject({
  /** The level's revision now; further than the last entry if there are more than are told at once. */
  revision: revisionSchema,
  /** In order, without a gap. */
  entries: z.array(journalEntrySchema),
})

export const conflictSchema = z.strictObject({
  /** The level's revision now. */
  revision: revisionSchema,
  /** Ids of the changes sent that cannot be kept beside what others did. Nothing sent was applied. */
  yours: z.array(idSchema),
  /** Those sent that had been applied before, of which the answer may have been lost. */
  applied: appliedSchema,
  /** What others changed since `baseRevision`, in order. */
  others: z.array(journalEntrySchema),
})

export const apiErrorSchema = z.object({
  error: z.object({
    code: z.string(),
    message: z.string(),
    /** The part of the request that is wrong, such as `changes.0.operations.0.fields.scale.1`. */
    field: z.string().optional(),
    conflict: conflictSchema.optional(),
  }),
})

/** A list as JSON, in an address. @param most characters */
const asJson = (most: number) =>
  z
    .string()
    .max(most)
    .default('[]')
    .transform((text, context) => {
      try {
        return JSON.parse(text) as unknown
      } catch {
        context.addIssue({ code: 'custom', message: 'is no well-formed JSON' })
        return z.NEVER
      }
    })

/** What goes with the mesh of a new part, in the address. */
export const newPartSchema = z.strictObject({
  id: idSchema,
  name: nameSchema,
  kind: partSchema.shape.kind,
  tags: z
    .string()
    .default('')
    .transform(text => (text === '' ? [] : text.split(',')))
    .pipe(partSchema.shape.tags),
  inKit: z.literal(['true', 'false']).transform(value => value === 'true'),
  kit: nameSchema.default(OWN_KIT),
  sockets: asJson(20_000).pipe(partSchema.shape.sockets),
  lamps: asJson(20_000).pipe(partSchema.shape.lamps),
})

export const partPatchSchema = z
  .strictObject({
    pivot: vec3Schema.optional(),
    name: nameSchema.optional(),
    kind: partSchema.shape.kind.optional(),
    tags: partSchema.shape.tags.optional(),
    kit: nameSchema.optional(),
    sockets: partSchema.shape.sockets.optional(),
    settlesAs: partSchema.shape.settlesAs.unwrap().optional(),
  })
  .refine(patch => Object.keys(patch).length > 0, 'nothing to change')

/** A part made of things: what puts them into an empty level, its workshop, of whose content its mesh is made. */
export const madePartSchema = partSchema
  .pick({ id: true, name: true, kind: true, tags: true, inKit: true, kit: true })
  .extend({
    operations: changeSchema.shape.operations,
  })

/** Where a part is opened to be worked on. */
export const workshopSchema = z.strictObject({
  levelId: idSchema,
  revision: revisionSchema,
  /** The revision that the part's mesh shows. */
  madeOf: revisionSchema,
})

/** Where a part is placed, as its own placements, and within which other parts. */
export const usesSchema = z.strictObject({
  levels: z.array(z.strictObject({ id: idSchema, name: nameSchema, placements: z.int().min(1) })),
  parts: z.array(z.strictObject({ id: idSchema, name: nameSchema, placements: z.int().min(1) })),
})

const checkedIssueSchema = z.strictObject({
  message: z.string(),
  /** Where in the file, as a JSON pointer (RFC 6901). */
  pointer: z.string().optional(),
})

/** What the Khronos validator says of a file, the first of each. */
export const checkedFileSchema = z.strictObject({
  errors: z.array(checkedIssueSchema),
  warnings: z.array(checkedIssueSchema),
  /** How many there are in all. */
  errorCount: z.int().min(0),
  warningCount: z.int().min(0),
})

/** A part of its own that is like another. */
export const partCopySchema = partSchema.pick({ id: true, name: true, inKit: true })

/** `busy`: it works, but others are being served first. */
export const healthSchema = z.strictObject({ status: z.enum(['ok', 'busy']) })

/** What who asks may do here. */
export const sessionSchema = z.strictObject({
  /** What who asks may do; in the level that was asked for, if one was. */
  role: roleSchema,
  /** Who it is, if it is somebody by name. */
  person: z.strictObject({ id: idSchema, name: nameSchema }).nullable(),
  /** Bytes of the largest glTF file that is taken in. */
  largestFile: z.int().min(1),
})
export const sessionQuerySchema = z.strictObject({ level: idSchema.optional() })

/** How one may come in besides by a key: what the identity provider is called, if there is one. */
export const waysSchema = z.strictObject({ provider: z.string().nullable(), isKeyNeeded: z.boolean() })

/** Where one wants to be once one is in: an address of our own. */
export const signInQuerySchema = z.strictObject({
  to: z
    .string()
    .max(500)
    .regex(/^\/(?![/\\])/, 'has to be an address of this server')
    .default('/'),
})

export const newSessionSchema = z.strictObject({ key: z.string().min(1, 'must not be empty').max(200) })

/** An error of a page, for the server's log: nothing in it is of what somebody works on. */
export const pageErrorSchema = z.strictObject({
  /** Of the kind of error, such as `TypeError`. */
  name: z.string().max(80),
  /** Only of errors of the language itself. */
  says: z.string().max(300),
  /** Files, lines and columns of the page's own scripts, the innermost first. */
  where: z.array(z.string().max(200)).max(8),
  during: z.enum(['event', 'promise', 'component', 'route', 'worker', 'listener', 'console']),
})
export type PageError = z.infer<typeof pageErrorSchema>

/** Of what state of the level a picture is: after so many changes. */
export const pictureQuerySchema = z.strictObject({ revision: z.coerce.number().pipe(revisionSchema).default(0) })

export const historyQuerySchema = z.strictObject({
  /** Only changes before this revision; all when left out. */
  before: z.coerce.number().pipe(revisionSchema).optional(),
  limit: z.coerce.number().pipe(z.int().min(1).max(500)).default(100),
})

/** A change in the list of what was done to a level. */
const historyEntrySchema = changeSchema.omit({ operations: true }).extend({
  revision: revisionSchema,
  madeAt: z.iso.datetime(),
  /** Whether the author is who they say, by a key of their own or by the identity provider. */
  proven: z.boolean(),
  /** False for changes from before it was kept what takes them back. */
  canBeTakenBack: z.boolean(),
})

/** The last changes first. */
export const historySchema = z.strictObject({ changes: z.array(historyEntrySchema) })

export const backQuerySchema = z.strictObject({ to: z.coerce.number().pipe(revisionSchema) })

/** What takes a level back to an earlier revision, as one change made on `revision`. */
export const backSchema = z.strictObject({ revision: revisionSchema, operations: z.array(operationSchema) })

export const kitSchema = z.strictObject({ parts: z.array(partSchema), entries: z.array(kitEntrySchema) })

export type ListedLevel = z.infer<typeof listedLevelSchema>
export type LevelSummary = z.infer<typeof levelSummarySchema>
export type Level = z.infer<typeof levelSchema>
export type NewLevel = z.input<typeof newLevelSchema>
export type LevelPatch = z.infer<typeof levelPatchSchema>
export type ChangesRequest = z.infer<typeof changesRequestSchema>
export type ChangesAnswer = z.infer<typeof changesAnswerSchema>
export type JournalQuery = z.infer<typeof journalQuerySchema>
export type Journal = z.infer<typeof journalSchema>
export type Conflict = z.infer<typeof conflictSchema>
export type PartPatch = z.infer<typeof partPatchSchema>
export type MadePart = z.infer<typeof madePartSchema>
export type Workshop = z.infer<typeof workshopSchema>
export type CheckedFile = z.infer<typeof checkedFileSchema>
export type PartUses = z.infer<typeof usesSchema>
export type PartCopy = z.infer<typeof partCopySchema>
export type HistoryEntry = z.infer<typeof historyEntrySchema>
export type HistoryQuery = z.infer<typeof historyQuerySchema>
export type Back = z.infer<typeof backSchema>
export type Session = z.infer<typeof sessionSchema>

const findingSchema = z.strictObject({
  of: z.enum(CHECK_NAMES as [CheckName, ...CheckName[]]),
  severity: z.enum(SEVERITIES),
  /** Things, copies, a walking line, or a part of the kit. */
  things: z.array(z.string()).min(1).max(2),
  names: z.array(z.string()),
  /** In the unit of its kind: metres, degrees, a factor or a count. */
  amount: z.number().nullable(),
  at: z.tuple([z.number(), z.number(), z.number()]),
  /** In words, lengths in metres. */
  says: z.string(),
  /** Why it is left as it is, if it is. */
  left: z.string().optional(),
})

/** What is wrong with a level: the first findings, the worst first, and how many there are. */
/** Which page of a check is asked for. */
export const checkQuerySchema = z.strictObject({
  /** The thing or part to begin with, as the page before has said; the first when left out. */
  from: idSchema.optional(),
})

export const checkAnswerSchema = z.strictObject({
  revision: revisionSchema,
  /** The share that was looked at with this page and those before it, from 0 to 1. */
  looked: z.number().min(0).max(1),
  /** What the next page begins with; null after the last. */
  next: idSchema.nullable(),
  /** Of this page. */
  counts: z.strictObject({
    error: z.int().min(0),
    warning: z.int().min(0),
    note: z.int().min(0),
    left: z.int().min(0),
  }),
  findings: z.array(findingSchema),
})
export type CheckAnswer = z.infer<typeof checkAnswerSchema>

/** Put behind what is asked for that takes long. */
export const ticketSchema = z.object({
  /** By which it can be asked how far it is. */
  ticket: idSchema.optional(),
})

/** How far something is; both are null if nothing is done with the ticket, or nothing is known of it yet. */
export const progressSchema = z.strictObject({
  /** Of a file that is made: written so far. */
  bytes: z.number().min(0).nullable(),
  /** Of all there is to do, from 0 to 1. */
  share: z.number().min(0).max(1).nullable(),
})
export type Progress = z.infer<typeof progressSchema>

/** How a file is brought in. */
export const importQuerySchema = z.strictObject({
  /** Of the level, if it becomes a new one; what the file says when left out. */
  name: nameSchema.optional(),
  /** The level that it is put into; it becomes a new one when left out. */
  into: idSchema.optional(),
  /** Only to say what would happen. */
  dry: flag(false),
  /** Whether the change is saved; if not, parts are stored and the operations answered, for who makes the change. */
  apply: flag(true),
  author: nameSchema.default('Brought in'),
  /** Of a table: what is other than guessed, as JSON. */
  mapping: z.string().max(100_000).optional(),
  ...ticketSchema.shape,
})
export type ImportQuery = z.output<typeof importQuerySchema>

/** What was brought in, or would be. */
export const importAnswerSchema = z.strictObject({
  format: z.enum(['glb', 'level', 'table']),
  name: nameSchema,
  /** Such as placements, parts that are known and new, rows that are added and updated. */
  counts: z.record(z.string(), z.number()),
  /** What is left out, or taken otherwise than it was meant. */
  notes: z.array(z.string()),
  /** Of a table: the first that are wrong, and how many are. Counted from 1. */
  errors: z.array(
    z.strictObject({ line: z.int(), column: z.int().nullable(), heading: z.string(), message: z.string() }),
  ),
  errorCount: z.int().min(0),
  /** The level it is in; null if nothing was saved. */
  levelId: idSchema.nullable(),
  revision: revisionSchema.nullable(),
  operations: z.array(operationSchema).optional(),
})
export type ImportAnswer = z.infer<typeof importAnswerSchema>
