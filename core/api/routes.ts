import { z } from 'zod'
import type { FormatName } from '../formats/formats'
import { FORMATS } from '../formats/formats'
import { partSchema, variantsSchema } from '../level/part'
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
  progressSchema,
  sessionSchema,
  ticketSchema,
  usesSchema,
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
  /** Who may: everyone, those with the reading key, those with the writing key. */
  may: 'anyone' | 'read' | 'write'
}

const json = <T extends z.ZodType>(schema: T, limit = MEGABYTE) => ({ as: 'json' as const, schema, limit })

/** The query of a route that hands a level over. */
const asked = <F extends FormatName>(format: F) => FORMATS[format].options.extend(ticketSchema.shape).strict()

/**
 * Every route there is: how it is asked, by whom, and what it answers.
 *
 * @example
 * const { path, may } = ROUTES.saveChanges
 * [path, may] // ['/api/levels/:id/changes', 'write']
 */
export const ROUTES = {
  health: { method: 'GET', path: '/api/health', answer: healthSchema, may: 'anyone' },
  session: { method: 'GET', path: '/api/session', answer: sessionSchema, may: 'read' },
  startSession: {
    method: 'POST',
    path: '/api/session',
    body: json(newSessionSchema),
    answer: sessionSchema,
    may: 'anyone',
  },
  endSession: { method: 'DELETE', path: '/api/session', may: 'anyone' },
  tellError: { method: 'POST', path: '/api/page-errors', body: json(pageErrorSchema, 8 * 1024), may: 'read' },
  listLevels: {
    method: 'GET',
    path: '/api/levels',
    answer: z.strictObject({ levels: z.array(listedLevelSchema) }),
    may: 'read',
  },
  createLevel: {
    method: 'POST',
    path: '/api/levels',
    body: json(newLevelSchema),
    answer: levelSummarySchema,
    may: 'write',
  },
  getLevel: { method: 'GET', path: '/api/levels/:id', answer: levelSchema, may: 'read' },
  /** The same as `core/level/packed` writes it: bytes. */
  getPacked: { method: 'GET', path: '/api/levels/:id/packed', may: 'read' },
  patchLevel: {
    method: 'PATCH',
    path: '/api/levels/:id',
    body: json(levelPatchSchema),
    answer: levelSummarySchema,
    may: 'write',
  },
  deleteLevel: { method: 'DELETE', path: '/api/levels/:id', may: 'write' },
  saveChanges: {
    method: 'POST',
    path: '/api/levels/:id/changes',
    body: json(changesRequestSchema, 64 * MEGABYTE),
    answer: changesAnswerSchema,
    may: 'write',
  },
  history: {
    method: 'GET',
    path: '/api/levels/:id/changes',
    query: historyQuerySchema,
    answer: historySchema,
    may: 'read',
  },
  /** What was done to a level since a revision, for who has it open. */
  journal: {
    method: 'GET',
    path: '/api/levels/:id/journal',
    query: journalQuerySchema,
    answer: journalSchema,
    may: 'read',
  },
  back: { method: 'GET', path: '/api/levels/:id/back', query: backQuerySchema, answer: backSchema, may: 'read' },
  getPicture: { method: 'GET', path: '/api/levels/:id/picture', may: 'read' },
  putPicture: {
    method: 'PUT',
    path: '/api/levels/:id/picture',
    body: { as: 'bytes', types: ['image/png', 'image/webp', 'image/jpeg'], limit: 2 * MEGABYTE },
    may: 'write',
  },
  exportGlb: { method: 'GET', path: '/api/levels/:id/export.glb', query: asked('glb'), may: 'read' },
  exportUsda: { method: 'GET', path: '/api/levels/:id/export.usda', query: asked('usda'), may: 'read' },
  exportUsdz: { method: 'GET', path: '/api/levels/:id/export.usdz', query: asked('usdz'), may: 'read' },
  exportTable: { method: 'GET', path: '/api/levels/:id/placements.csv', query: asked('table'), may: 'read' },
  exportLevel: { method: 'GET', path: '/api/levels/:id/export.handygrid', query: asked('level'), may: 'read' },
  planSvg: { method: 'GET', path: '/api/levels/:id/plan.svg', query: asked('svg'), may: 'read' },
  planPdf: { method: 'GET', path: '/api/levels/:id/plan.pdf', query: asked('pdf'), may: 'read' },
  bill: { method: 'GET', path: '/api/levels/:id/parts.csv', query: asked('bill'), may: 'read' },
  progress: { method: 'GET', path: '/api/progress/:id', answer: progressSchema, may: 'read' },
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
    may: 'write',
  },
  checkLevel: {
    method: 'GET',
    path: '/api/levels/:id/check',
    query: checkQuerySchema,
    answer: checkAnswerSchema,
    may: 'read',
  },
  kit: { method: 'GET', path: '/api/kit', answer: kitSchema, may: 'read' },
  createPart: {
    method: 'POST',
    path: '/api/parts',
    query: newPartSchema,
    body: { as: 'bytes', types: ['model/gltf-binary'], limit: 'file' },
    answer: partSchema,
    may: 'write',
  },
  checkFile: {
    method: 'POST',
    path: '/api/parts/check',
    body: { as: 'bytes', types: ['model/gltf-binary'], limit: 'file' },
    answer: checkedFileSchema,
    may: 'write',
  },
  makePart: {
    method: 'POST',
    path: '/api/parts/made',
    body: json(madePartSchema, 16 * MEGABYTE),
    answer: partSchema,
    may: 'write',
  },
  openPart: {
    method: 'POST',
    path: '/api/parts/:id/workshop',
    body: json(z.strictObject({})),
    answer: workshopSchema,
    may: 'write',
  },
  remakePart: {
    method: 'POST',
    path: '/api/parts/:id/remake',
    body: json(z.strictObject({})),
    answer: z.strictObject({ parts: z.array(partSchema) }),
    may: 'write',
  },
  copyPart: {
    method: 'POST',
    path: '/api/parts/:id/copy',
    body: json(partCopySchema),
    answer: partSchema,
    may: 'write',
  },
  usesOfPart: { method: 'GET', path: '/api/parts/:id/uses', answer: usesSchema, may: 'read' },
  getPart: { method: 'GET', path: '/api/parts/:id', answer: partSchema, may: 'read' },
  patchPart: { method: 'PATCH', path: '/api/parts/:id', body: json(partPatchSchema), answer: partSchema, may: 'write' },
  getPartPicture: { method: 'GET', path: '/api/parts/:id/picture', may: 'read' },
  putPartPicture: {
    method: 'PUT',
    path: '/api/parts/:id/picture',
    body: { as: 'bytes', types: ['image/png', 'image/webp'], limit: MEGABYTE },
    may: 'write',
  },
  putVariants: {
    method: 'PUT',
    path: '/api/variants/:id',
    body: json(variantsSchema.omit({ id: true })),
    answer: variantsSchema,
    may: 'write',
  },
  deleteVariants: { method: 'DELETE', path: '/api/variants/:id', may: 'write' },
  deletePart: { method: 'DELETE', path: '/api/parts/:id', may: 'write' },
  mesh: { method: 'GET', path: '/api/meshes/:hash', may: 'read' },
  meshSteps: { method: 'GET', path: '/api/meshes/:hash/steps', may: 'read' },
  texture: { method: 'GET', path: '/api/textures/:hash', may: 'read' },
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
} as const satisfies Record<FormatName, RouteName>
export type HandOverRouteName = (typeof HAND_OVER_ROUTES)[FormatName]
