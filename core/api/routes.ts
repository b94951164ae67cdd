import { z } from 'zod'
import type { FormatName } from '../formats/formats'
import { FORMATS } from '../formats/formats'
import { partSchema, kitEntrySchema } from '../level/part'
import {
  accountSchema,
  keeperLogQuerySchema,
  keeperLogSchema,
  newPersonSchema,
  personKeySchema,
  personPatchSchema,
} from './accounts'
import { feedQuerySchema } from './feed'
import { compareQuerySchema, milestonePatchSchema, milestoneSchema, newMilestoneSchema } from './milestones'
import { keptAnswerSchema, keptSettingsSchema } from './person-settings'
import { playAnswerSchema, playRequestSchema } from './play'
import type { Role } from './roles'
import {
  backQuerySchema,
  backSchema,
  changesAnswerSchema,
  changesRequestSchema,
  checkAnswerSchema,
  checkQuerySchema,
  checkedFileSchema,
  healthSchema,
  historyQuerySchema,
  historySchema,
  importAnswerSchema,
  importQuerySchema,
  journalQuerySchema,
  journalSchema,
  kitSchema,
  levelPatchSchema,
  levelSchema,
  levelSummarySchema,
  listedLevelSchema,
  madePartSchema,
  newLevelSchema,
  newPartSchema,
  newSessionSchema,
  pageErrorSchema,
  partCopySchema,
  partPatchSchema,
  pictureQuerySchema,
  progressSchema,
  sessionQuerySchema,
  sessionSchema,
  signInQuerySchema,
  ticketSchema,
  usesSchema,
  waysSchema,
  workshopSchema,
} from './schema'

// Every route of the server in one table: the server answers by it, the page asks by it, and the tests go through it.

export const MEGABYTE = 1024 * 1024

/** What a route takes besides its address. */
export type BodySpec =
  | { as: 'json'; schema: z.ZodType; /** Bytes. */ limit: number }
  | {
      as: 'bytes'
      /** One of them has to be the body's content type. */
      types: readonly string[]
      /** Bytes; or as large as the server takes files. */
      limit: number | 'file'
    }

export type RouteSpec = {
  method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE'
  /** With `:id` for a UUID or `:hash` for a SHA-256. */
  path: string
  query?: z.ZodType
  body?: BodySpec
  /** The schema of a JSON answer; bytes or nothing when left out. */
  answer?: z.ZodType
  /** Who may: everyone, or those whose role is enough; of a level, the role there. */
  may: 'anyone' | Role
}

const json = <T extends z.ZodType>(schema: T, limit = MEGABYTE) => ({ as: 'json' as const, schema, limit })

/** The query of a route that hands a level over. */
const asked = <F extends FormatName>(format: F) => FORMATS[format].options.extend(ticketSchema.shape).strict()

/**
 * Every route there is: how it is asked, by whom, and what it answers.
 *
 * @example
 * const { path, may } = ROUTES.saveChanges
 * [path, may] // ['/api/levels/:id/changes', 'note']
 */
export const ROUTES = {
  health: { method: 'GET', path: '/api/health', answer: healthSchema, may: 'anyone' },
  /** Whether requests may be sent here: for proxies, apart from whether the server is well. */
  ready: { method: 'GET', path: '/api/ready', answer: z.strictObject({ status: z.literal('ready') }), may: 'anyone' },
  /** What there is to watch, in the text format of Prometheus. */
  metrics: { method: 'GET', path: '/api/metrics', may: 'keep' },
  session: { method: 'GET', path: '/api/session', query: sessionQuerySchema, answer: sessionSchema, may: 'look' },
  /** In what ways one may come in. */
  ways: { method: 'GET', path: '/api/session/ways', answer: waysSchema, may: 'anyone' },
  /** To the identity provider, and back from there: addresses for a browser. */
  signIn: { method: 'GET', path: '/api/session/provider', query: signInQuerySchema, may: 'anyone' },
  signedIn: { method: 'GET', path: '/api/session/provider/back', query: z.looseObject({}), may: 'anyone' },
  startSession: {
    method: 'POST',
    path: '/api/session',
    body: json(newSessionSchema),
    answer: sessionSchema,
    may: 'anyone',
  },
  endSession: { method: 'DELETE', path: '/api/session', may: 'anyone' },
  /** How whoever asks works, where they are known by name. */
  personSettings: { method: 'GET', path: '/api/session/settings', answer: keptAnswerSchema, may: 'look' },
  keepSettings: {
    method: 'PATCH',
    path: '/api/session/settings',
    body: json(keptSettingsSchema, 8 * MEGABYTE),
    may: 'look',
  },
  listPeople: {
    method: 'GET',
    path: '/api/people',
    answer: z.strictObject({ people: z.array(accountSchema) }),
    may: 'keep',
  },
  letIn: { method: 'POST', path: '/api/people', body: json(newPersonSchema), answer: personKeySchema, may: 'keep' },
  patchPerson: {
    method: 'PATCH',
    path: '/api/people/:id',
    body: json(personPatchSchema),
    answer: accountSchema,
    may: 'keep',
  },
  /** A new key, with which the old one ends; also for who was ended. */
  renewKey: {
    method: 'POST',
    path: '/api/people/:id/key',
    body: json(z.strictObject({})),
    answer: personKeySchema,
    may: 'keep',
  },
  endPerson: { method: 'DELETE', path: '/api/people/:id', may: 'keep' },
  keeperLog: {
    method: 'GET',
    path: '/api/keeper-log',
    query: keeperLogQuerySchema,
    answer: keeperLogSchema,
    may: 'keep',
  },
  tellError: { method: 'POST', path: '/api/page-errors', body: json(pageErrorSchema, 8 * 1024), may: 'look' },
  listLevels: {
    method: 'GET',
    path: '/api/levels',
    answer: z.strictObject({ levels: z.array(listedLevelSchema) }),
    may: 'look',
  },
  createLevel: {
    method: 'POST',
    path: '/api/levels',
    body: json(newLevelSchema),
    answer: levelSummarySchema,
    may: 'work',
  },
  getLevel: { method: 'GET', path: '/api/levels/:id', answer: levelSchema, may: 'look' },
  /** The same as `core/level/packed` writes it: bytes. */
  getPacked: { method: 'GET', path: '/api/levels/:id/packed', may: 'look' },
  patchLevel: {
    method: 'PATCH',
    path: '/api/levels/:id',
    body: json(levelPatchSchema),
    answer: levelSummarySchema,
    may: 'work',
  },
  deleteLevel: { method: 'DELETE', path: '/api/levels/:id', may: 'keep' },
  saveChanges: {
    method: 'POST',
    path: '/api/levels/:id/changes',
    body: json(changesRequestSchema, 64 * MEGABYTE),
    answer: changesAnswerSchema,
    may: 'note',
  },
  /** A recipe, on things of the level. */
  play: {
    method: 'POST',
    path: '/api/levels/:id/play',
    body: json(playRequestSchema, 2 * MEGABYTE),
    answer: playAnswerSchema,
    may: 'work',
  },
  history: {
    method: 'GET',
    path: '/api/levels/:id/changes',
    query: historyQuerySchema,
    answer: historySchema,
    may: 'look',
  },
  /** What was done to a level since a revision, for who has it open. */
  journal: {
    method: 'GET',
    path: '/api/levels/:id/journal',
    query: journalQuerySchema,
    answer: journalSchema,
    may: 'look',
  },
  /** What happens in a level, for other programs: server-sent events. */
  feed: { method: 'GET', path: '/api/levels/:id/feed', query: feedQuerySchema, may: 'look' },
  back: { method: 'GET', path: '/api/levels/:id/back', query: backQuerySchema, answer: backSchema, may: 'look' },
  listMilestones: {
    method: 'GET',
    path: '/api/levels/:id/milestones',
    answer: z.strictObject({ milestones: z.array(milestoneSchema) }),
    may: 'look',
  },
  makeMilestone: {
    method: 'POST',
    path: '/api/levels/:id/milestones',
    body: json(newMilestoneSchema),
    answer: milestoneSchema,
    may: 'work',
  },
  patchMilestone: {
    method: 'PATCH',
    path: '/api/milestones/:id',
    body: json(milestonePatchSchema),
    answer: milestoneSchema,
    may: 'work',
  },
  deleteMilestone: { method: 'DELETE', path: '/api/milestones/:id', may: 'work' },
  /** The level as it was, as `core/level/packed` writes it: bytes. */
  packedMilestone: { method: 'GET', path: '/api/milestones/:id/packed', may: 'look' },
  milestonePicture: { method: 'GET', path: '/api/milestones/:id/picture', may: 'look' },
  putMilestonePicture: {
    method: 'PUT',
    path: '/api/milestones/:id/picture',
    body: { as: 'bytes', types: ['image/png', 'image/webp', 'image/jpeg'], limit: 2 * MEGABYTE },
    may: 'work',
  },
  /** What became of a level since another, or since a milestone of any. */
  compare: { method: 'GET', path: '/api/levels/:id/compare', query: compareQuerySchema, may: 'look' },
  getPicture: { method: 'GET', path: '/api/levels/:id/picture', may: 'look' },
  putPicture: {
    method: 'PUT',
    path: '/api/levels/:id/picture',
    query: pictureQuerySchema,
    body: { as: 'bytes', types: ['image/png', 'image/webp', 'image/jpeg'], limit: 2 * MEGABYTE },
    may: 'work',
  },
  exportGlb: { method: 'GET', path: '/api/levels/:id/export.glb', query: asked('glb'), may: 'look' },
  exportUsda: { method: 'GET', path: '/api/levels/:id/export.usda', query: asked('usda'), may: 'look' },
  exportUsdz: { method: 'GET', path: '/api/levels/:id/export.usdz', query: asked('usdz'), may: 'look' },
  exportTable: { method: 'GET', path: '/api/levels/:id/placements.csv', query: asked('table'), may: 'look' },
  exportLevel: { method: 'GET', path: '/api/levels/:id/export.handygrid', query: asked('level'), may: 'look' },
  planSvg: { method: 'GET', path: '/api/levels/:id/plan.svg', query: asked('svg'), may: 'look' },
  planPdf: { method: 'GET', path: '/api/levels/:id/plan.pdf', query: asked('pdf'), may: 'look' },
  bill: { method: 'GET', path: '/api/levels/:id/parts.csv', query: asked('bill'), may: 'look' },
  notes: { method: 'GET', path: '/api/levels/:id/notes.csv', query: asked('notes'), may: 'look' },
  progress: { method: 'GET', path: '/api/progress/:id', answer: progressSchema, may: 'look' },
  importFile: {
    method: 'POST',
    path: '/api/import',
    query: importQuerySchema,
    body: {
      as: 'bytes',
      types: [
        'model/gltf-binary',
        'application/zip',
        'text/csv',
        'text/tab-separated-values',
        'application/octet-stream',
      ],
      limit: 'file',
    },
    answer: importAnswerSchema,
    may: 'work',
  },
  checkLevel: {
    method: 'GET',
    path: '/api/levels/:id/check',
    query: checkQuerySchema,
    answer: checkAnswerSchema,
    may: 'look',
  },
  kit: { method: 'GET', path: '/api/kit', answer: kitSchema, may: 'look' },
  createPart: {
    method: 'POST',
    path: '/api/parts',
    query: newPartSchema,
    body: { as: 'bytes', types: ['model/gltf-binary'], limit: 'file' },
    answer: partSchema,
    may: 'work',
  },
  checkFile: {
    method: 'POST',
    path: '/api/parts/check',
    body: { as: 'bytes', types: ['model/gltf-binary'], limit: 'file' },
    answer: checkedFileSchema,
    may: 'work',
  },
  makePart: {
    method: 'POST',
    path: '/api/parts/made',
    body: json(madePartSchema, 16 * MEGABYTE),
    answer: partSchema,
    may: 'work',
  },
  openPart: {
    method: 'POST',
    path: '/api/parts/:id/workshop',
    body: json(z.strictObject({})),
    answer: workshopSchema,
    may: 'work',
  },
  remakePart: {
    method: 'POST',
    path: '/api/parts/:id/remake',
    body: json(z.strictObject({})),
    answer: z.strictObject({ parts: z.array(partSchema) }),
    may: 'work',
  },
  copyPart: {
    method: 'POST',
    path: '/api/parts/:id/copy',
    body: json(partCopySchema),
    answer: partSchema,
    may: 'work',
  },
  usesOfPart: { method: 'GET', path: '/api/parts/:id/uses', answer: usesSchema, may: 'look' },
  getPart: { method: 'GET', path: '/api/parts/:id', answer: partSchema, may: 'look' },
  patchPart: { method: 'PATCH', path: '/api/parts/:id', body: json(partPatchSchema), answer: partSchema, may: 'work' },
  getPartPicture: { method: 'GET', path: '/api/parts/:id/picture', may: 'look' },
  putPartPicture: {
    method: 'PUT',
    path: '/api/parts/:id/picture',
    body: { as: 'bytes', types: ['image/png', 'image/webp'], limit: MEGABYTE },
    may: 'work',
  },
  putKitEntry: {
    method: 'PUT',
    path: '/api/entries/:id',
    body: json(kitEntrySchema.omit({ id: true })),
    answer: kitEntrySchema,
    may: 'work',
  },
  deleteKitEntry: { method: 'DELETE', path: '/api/entries/:id', may: 'work' },
  deletePart: { method: 'DELETE', path: '/api/parts/:id', may: 'work' },
  mesh: { method: 'GET', path: '/api/meshes/:hash', may: 'look' },
  meshSteps: { method: 'GET', path: '/api/meshes/:hash/steps', may: 'look' },
  texture: { method: 'GET', path: '/api/textures/:hash', may: 'look' },
} as const satisfies Record<string, RouteSpec>

export type Routes = typeof ROUTES
export type RouteName = keyof Routes

/** The route that hands a level over in each format. */
export const HAND_OVER_ROUTES = {
  glb: 'exportGlb',
  usdz: 'exportUsdz',
  usda: 'exportUsda',
  table: 'exportTable',
  level: 'exportLevel',
  svg: 'planSvg',
  pdf: 'planPdf',
  bill: 'bill',
  notes: 'notes',
} as const satisfies Record<FormatName, RouteName>
export type HandOverRouteName = (typeof HAND_OVER_ROUTES)[FormatName]
