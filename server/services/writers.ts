import { readFile } from 'node:fs/promises'
import { and, asc, eq, gt } from 'drizzle-orm'
import { ZIP_MOMENT } from '../../core/formats/zip-moment'
import { Zip, ZipDeflate, ZipPassThrough } from 'fflate'
import { MeshoptEncoder } from 'meshoptimizer'
import sharp from 'sharp'
import { notesTable } from '../../core/formats/notes-table'
import { billCsv, billOf } from '../../core/formats/bill'
import type { FormatName, FormatOptions, HandOverReport } from '../../core/formats/formats'
import type { Encoders } from '../../core/formats/glb-packing'
import type { FiledChange, FiledPart } from '../../core/formats/level-file'
import { JOURNAL_JSON, LEVEL_JSON, meshPath, texturePath, writeLevelJson } from '../../core/formats/level-file'
import { writeLevelGlb } from '../../core/formats/level-glb'
import { writeLevelUsda } from '../../core/formats/level-usda'
import type { SceneReport } from '../../core/formats/out/scene-writer'
import { Scope } from '../../core/formats/out/scope'
import type { OnShare } from '../../core/formats/out/share'
import { between, Counted } from '../../core/formats/out/share'
import { writePdf } from '../../core/formats/plan/pdf'
import type { Sheet } from '../../core/formats/plan/sheet'
import { planSheet } from '../../core/formats/plan/sheet'
import { writeSvg } from '../../core/formats/plan/svg'
import type { PlanOptions } from '../../core/formats/plan/options'
import { writeTable } from '../../core/formats/table/write-table'
import { usdzOf } from '../../core/formats/usdz'
import { recordsOf } from '../../core/level/level'
import type { Transaction } from '../db/client'
import { changes } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { dracoEncoder } from './draco'
import { getMesh } from './kit'
import { getTexture, typesOfMesh } from './textures'
import type { WholeLevel } from './whole-level'

/** Where a file goes: what is written in order, and what comes before all of that and is known only at the end. */
export type Output = {
  write: (bytes: Uint8Array | string) => void | Promise<void>
  head: (bytes: Uint8Array) => void
  /** Told how far it is. */
  share: OnShare
}

export type Source = {
  /** Of the moment that the file shows. */
  tx: Transaction
  id: string
  whole: WholeLevel
  /** As it is to be read on a sheet. */
  now: Date
}

type Report = Omit<HandOverReport, 'bytes'>
type Writer<F extends FormatName> = (source: Source, options: FormatOptions<F>, output: Output) => Promise<Report>

/** How each format is written. */
export const WRITERS: { [F in FormatName]: Writer<F> } = {
  glb: async ({ tx, whole: { name, level, partOf } }, options, output) => {
    const encoders: Encoders =
      options.compression === 'draco'
        ? { draco: await dracoEncoder() }
        : { meshopt: MeshoptEncoder as unknown as Encoders['meshopt'] }
    const { head, report } = await writeLevelGlb(name, level, partOf, options, {
      sink: output.write,
      pictureOf: picture => getTexture(tx, picture),
      encoders,
      onShare: output.share,
    })
    output.head(head)
    return sceneReport(report)
  },
  usda: async ({ whole: { name, level, partOf } }, options, output) => {
    const { report, pictures } = await writeLevelUsda(name, level, partOf, options, output.write, output.share)
    const told = sceneReport(report)
    if (pictures.size > 0)
      told.remarks.push(
        `The pictures of ${pictures.size} textures are looked for beside it, in textures/. The packed form has them in it.`,
      )
    return told
  },
  usdz: async ({ tx, whole: { name, level, partOf } }, options, output) => {
    const texts: string[] = []
    const { report, pictures } = await writeLevelUsda(
      name,
      level,
      partOf,
      options,
      text => void texts.push(text),
      between(0, 0.9, output.share),
    )
    const files = new Map<string, Uint8Array>()
    for (const [picture, path] of pictures) files.set(path, await asPngOrJpeg(tx, picture))
    await output.write(usdzOf(Buffer.from(texts.join('')), files))
    return sceneReport(report)
  },
  table: async ({ whole: { level, parts } }, options, output) => {
    if (options.separator === 'comma' && options.decimal === 'comma')
      throw new ApiError(422, 'invalid', 'decimal: columns and decimals cannot both have commas.', { field: 'decimal' })
    const names = new Map(parts.map(part => [part.id, part.name]))
    const nameOf = (part: string) => names.get(part) ?? part
    const { rows, skewed } = await writeTable(level, options, nameOf, output.write, output.share)
    return {
      counts: { rows },
      remarks:
        skewed > 0
          ? [
              `${skewed} rows are skewed; their position, turn and size are the nearest without. As matrices they are whole.`,
            ]
          : [],
    }
  },
  level: writeLevelFile,
  svg: async (source, options, output) => {
    const sheet = await sheetOf(source, options, between(0, 0.9, output.share))
    const fonts = {
      regular: await font('barlow', '400', 'woff2'),
      bold: await font('barlow-condensed', '600', 'woff2'),
    }
    for (const piece of writeSvg(sheet, fonts)) await output.write(piece)
    return sheetReport(sheet)
  },
  pdf: async (source, options, output) => {
    const sheet = await sheetOf(source, options, between(0, 0.7, output.share))
    await output.write(
      await writePdf(
        sheet,
        { regular: await font('barlow', '400', 'woff'), bold: await font('barlow-condensed', '600', 'woff') },
        { title: source.whole.name, made: source.now, withBill: options.bill },
      ),
    )
    return sheetReport(sheet)
  },
  bill: async ({ whole: { level, partOf } }, options, output) => {
    const lines = await billOf(level, new Scope(level, options), partOf, options)
    await output.write(billCsv(lines))
    return { counts: { lines: lines.length, parts: lines.reduce((sum, { count }) => sum + count, 0) }, remarks: [] }
  },
  notes: async ({ whole: { level } }, options, output) => {
    const { csv, ...counts } = notesTable(level, options)
    await output.write(csv)
    return { counts, remarks: [] }
  },
}

function sceneReport({ nodes, meshes, triangles, leftOut, scope }: SceneReport & { scope: Scope['leftOut'] }): Report {
  const said = (count: number, why: string) => (count > 0 ? [`${count.toLocaleString('en')} ${why}`] : [])
  return {
    counts: { nodes, meshes, triangles },
    remarks: [
      ...said(scope.elsewhere, 'things are outside of what was asked for.'),
      ...said(scope.blocks, 'blocks were left out, as asked for.'),
      ...said(scope.hidden, 'hidden things were left out, as asked for.'),
      ...said(leftOut, 'copies were left out: their numbers are too large, too small or too flat for a file.'),
    ],
  }
}

function sheetOf(
  { whole: { name, revision, level, partOf }, now }: Source,
  options: PlanOptions,
  onShare: OnShare,
): Promise<Sheet> {
  return planSheet(level, partOf, options, { name, revision, date: now.toISOString().slice(0, 10) }, onShare)
}

function sheetReport({ scale, groups, remarks }: Sheet): Report {
  const lines = groups.reduce(
    (sum, { items }) => sum + items.reduce((all, item) => all + (item.type === 'lines' ? item.at.length / 4 : 0), 0),
    0,
  )
  return { counts: { scale, lines }, remarks }
}

/** The application's own fonts, as their packages have them. */
const font = async (family: string, weight: string, ending: string) =>
  new Uint8Array(await readFile(`node_modules/@fontsource/${family}/files/${family}-latin-${weight}-normal.${ending}`))

async function asPngOrJpeg(tx: Transaction, picture: string): Promise<Uint8Array> {
  const { type, bytes } = await getTexture(tx, picture)
  return type === 'image/webp' ? new Uint8Array(await sharp(bytes).png().toBuffer()) : bytes
}

/** Changes that are read at once. */
const PAGE = 200

/**
 * The level file: a ZIP with the level, its parts' meshes and textures by the hashes of what is in them, and its
 * journal if that is wanted.
 */
async function writeLevelFile(
  { tx, id, whole: { name, revision, level, parts, kept } }: Source,
  { journal }: FormatOptions<'level'>,
  output: Output,
): Promise<Report> {
  const zip = new ZipWriter(output.write)
  const filed: FiledPart[] = []
  const [meshes, textures] = [new Set<string>(), new Map<string, string>()]
  for (const { hasPicture: _hasPicture, ...part } of parts) {
    const used = await typesOfMesh(tx, part.meshHash)
    for (const { picture, type } of used) textures.set(picture, type)
    meshes.add(part.meshHash)
    filed.push({ ...part, textures: used })
  }
  const byId = <T extends { id: string }>(records: Iterable<T>) => [...records].sort((a, b) => (a.id < b.id ? -1 : 1))
  const records = Object.fromEntries(
    Object.entries(recordsOf(level)).map(([key, list]) => [key, byId<{ id: string }>(list)]),
  ) as ReturnType<typeof recordsOf>
  // A change takes about as long as a thing.
  const counted = new Counted(level.size + (journal ? revision : 0), output.share)
  await zip.add(
    LEVEL_JSON,
    told(
      writeLevelJson({ name, revision, placements: byId(level.placements()), records, parts: filed, kept }),
      counted,
      1000,
    ),
    true,
  )
  if (journal) await zip.add(JOURNAL_JSON, told(journalTexts(tx, id), counted, 1), true)
  for (const hash of [...meshes].sort()) await zip.add(meshPath(hash), [await getMesh(tx, hash)], false)
  for (const [hash, type] of [...textures].sort())
    await zip.add(texturePath(hash, type), [(await getTexture(tx, hash)).bytes], false)
  await zip.end()
  return { counts: { placements: level.size, parts: filed.length, textures: textures.size }, remarks: [] }
}

/** The same pieces, each counted as so many things. */
async function* told(
  pieces: Iterable<string> | AsyncIterable<string>,
  counted: Counted,
  each: number,
): AsyncGenerator<string> {
  for await (const piece of pieces) {
    yield piece
    counted.pass(each)
  }
}

async function* journalTexts(tx: Transaction, levelId: string): AsyncGenerator<string> {
  yield '['
  for (let after = 0, isFirst = true; ; ) {
    const rows = await tx
      .select()
      .from(changes)
      .where(and(eq(changes.levelId, levelId), gt(changes.revision, after)))
      .orderBy(asc(changes.revision))
      .limit(PAGE)
    for (const { id, label, author, operations, revision, madeAt, inverse } of rows) {
      yield `${isFirst ? '' : ',\n'}${JSON.stringify({ id, label, author, operations, revision, madeAt: madeAt.toISOString(), inverse } satisfies FiledChange)}`
      isFirst = false
    }
    if (rows.length < PAGE) break
    after = rows.at(-1)!.revision
  }
  yield ']\n'
}

/** A ZIP, written as it comes; always the same bytes for the same content. */
class ZipWriter {
  private readonly pending: Uint8Array[] = []
  private readonly zip = new Zip((error, chunk) => {
    if (error) throw error
    this.pending.push(chunk)
  })

  constructor(private readonly write: Output['write']) {}

  /** @param packs whether it is compressed */
  async add(
    path: string,
    pieces: Iterable<string | Uint8Array> | AsyncIterable<string | Uint8Array>,
    packs: boolean,
  ): Promise<void> {
    const file = packs ? new ZipDeflate(path, { level: 6 }) : new ZipPassThrough(path)
    file.mtime = ZIP_MOMENT
    this.zip.add(file)
    for await (const piece of pieces) {
      file.push(typeof piece === 'string' ? Buffer.from(piece) : piece)
      await this.flush()
    }
    file.push(new Uint8Array(0), true)
    await this.flush()
  }

  async end(): Promise<void> {
    this.zip.end()
    await this.flush()
  }

  private async flush(): Promise<void> {
    for (const chunk of this.pending.splice(0)) await this.write(chunk)
  }
}
