import { z } from 'zod'
import { billOptionsSchema } from './bill'
import { notesOptionsSchema } from './notes-table'
import { flag } from './out/scope'
import { glbOptionsSchema } from './level-glb'
import { usdOptionsSchema } from './level-usda'
import { planOptionsSchema } from './plan/options'
import { tableOptionsSchema } from './table/write-table'

/** What a level file has besides the level. */
const levelFileOptionsSchema = z.object({
  /** All its changes, with what takes them back. */
  journal: flag(false),
})

/**
 * All there is to say about one format that levels are handed over in. How each is written stands with the server's
 * writers.
 */
export type FormatDefinition = {
  /** What people call it. */
  title: string
  /** Of its files' names. */
  ending: string
  mediaType: string
  /** In one line each. */
  keeps: string
  loses: string
  /** How it may be asked for, as an address has it. */
  options: z.ZodObject
}

/**
 * Every format that levels are handed over in, in the order people are shown them. A further one is a line here and a
 * writer.
 */
export const FORMATS = {
  glb: {
    title: 'glTF',
    ending: 'glb',
    mediaType: 'model/gltf-binary',
    options: glbOptionsSchema,
    keeps: 'Tree, names, meshes with textures, cameras, lights, markers, copies; and what brings the level back here.',
    loses: 'Area lights become spots.',
  },
  usdz: {
    title: 'USD, packed',
    ending: 'usdz',
    mediaType: 'model/vnd.usdz+zip',
    options: usdOptionsSchema,
    keeps: 'Tree, meshes once with textures, cameras, lights, copies by point instancers.',
    loses: 'Rules, layers, measures; it does not come back.',
  },
  usda: {
    title: 'USD, as text',
    ending: 'usda',
    mediaType: 'text/plain; charset=utf-8',
    options: usdOptionsSchema,
    keeps: 'The same, in a file that can be read and compared.',
    loses: 'The pictures of textures lie beside it only in the packed form.',
  },
  table: {
    title: 'Table of placements',
    ending: 'csv',
    mediaType: 'text/csv; charset=utf-8',
    options: tableOptionsSchema,
    keeps: 'Where everything is, in the axes, units and angles of your choice; it can be changed and brought in again.',
    loses: 'Meshes, rules, and the fields of cameras, lights and markers.',
  },
  level: {
    title: 'Level file',
    ending: 'handygrid',
    mediaType: 'application/zip',
    options: levelFileOptionsSchema,
    keeps: 'Everything, with the parts and their textures: it comes back to the last digit.',
    loses: 'Nothing but the workshops that parts were made in.',
  },
  svg: {
    title: 'Plan sheet, SVG',
    ending: 'svg',
    mediaType: 'image/svg+xml',
    options: planOptionsSchema,
    keeps: "A drawing to scale with names, measures and the parts' counts, in groups by layer.",
    loses: 'The third dimension.',
  },
  pdf: {
    title: 'Plan sheet, PDF',
    ending: 'pdf',
    mediaType: 'application/pdf',
    options: planOptionsSchema,
    keeps: 'The same for the printer, A4 to A1; with the bill of parts if you like.',
    loses: 'The third dimension; layers.',
  },
  bill: {
    title: 'Bill of parts',
    ending: 'csv',
    mediaType: 'text/csv; charset=utf-8',
    options: billOptionsSchema,
    keeps: 'Parts with counts, sizes and triangles, by layer.',
    loses: 'Where they are.',
  },
  notes: {
    title: 'Notes',
    ending: 'csv',
    mediaType: 'text/csv; charset=utf-8',
    options: notesOptionsSchema,
    keeps: 'Notes with all that was said to them, by whom, when, on what and where.',
    loses: 'Everything else.',
  },
} as const satisfies Record<string, FormatDefinition>

export type FormatName = keyof typeof FORMATS
export const FORMAT_NAMES = Object.keys(FORMATS) as [FormatName, ...FormatName[]]
export type FormatOptions<F extends FormatName> = z.output<(typeof FORMATS)[F]['options']>

/** What became of a level in a file: lines for people, and what has to be said. */
export const reportSchema = z.strictObject({
  bytes: z.int().min(0),
  /** Such as nodes, meshes, triangles, rows. */
  counts: z.record(z.string(), z.number()),
  /** What was left out, and why. */
  remarks: z.array(z.string()),
})
export type HandOverReport = z.infer<typeof reportSchema>
