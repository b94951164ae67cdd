import { createHash } from 'node:crypto'
import { MeshoptDecoder } from 'meshoptimizer'
import { v7 } from 'uuid'
import { FormatError } from '../../core/formats/format-error'
import { readGltfLevel } from '../../core/formats/import/gltf-level'
import type { FiledChange, Kept } from '../../core/formats/level-file'
import {
  JOURNAL_JSON,
  LEVEL_JSON,
  meshPath,
  readJournal,
  readLevelJson,
  texturePath,
} from '../../core/formats/level-file'
import { readPartGlb, writePartGlb } from '../../core/formats/part-glb'
import type { PartMesh } from '../../core/formats/part-glb'
import type { LevelRecords } from '../../core/level/level'
import { OWN_KIT } from '../../core/level/part'
import type { Placement } from '../../core/level/schema'
import type { Picture } from '../../core/mesh/texture'
import { counted } from '../../core/units/plural'
import type { NewPart } from './kit'
import { dracoDecoder } from './draco'
import { ZipReader } from './zip'

/** A part that comes with a level: what is said of it, what is in its mesh's file, and its mesh when it is needed. */
export type IncomingPart = { part: NewPart; hash: string; read: () => Promise<PartMesh> }

/** A level that comes from a file, whatever its format. */
export type IncomingLevel = {
  name: string
  placements: Placement[]
  records: LevelRecords
  parts: IncomingPart[]
  notes: string[]
  /** Of a level file: its changes so far, their number, and what is not known of it. */
  journal: FiledChange[]
  revision: number
  kept: Kept[]
}

/** Bytes of the level, and of its journal, in a level file. */
const MOST_JSON = 128 * 1024 * 1024

/** Reads a binary glTF file as a level. @throws FormatError */
export async function readGlbLevel(bytes: Uint8Array): Promise<IncomingLevel> {
  await MeshoptDecoder.ready
  const imported = await readGltfLevel(bytes, v7, { meshopt: MeshoptDecoder, draco: await dracoDecoder(bytes) })
  const parts: IncomingPart[] = []
  for (const { id, name, mesh, facts } of imported.parts) {
    parts.push({
      part: { kit: OWN_KIT, kind: 'prop', tags: [], pivot: [0, 0, 0], ...facts, id, name, inKit: true },
      hash: hashOf(await writePartGlb(name, mesh)),
      read: () => Promise.resolve({ mesh, pictures: imported.pictures }),
    })
  }
  return { ...imported, parts, journal: [], revision: 0, kept: [] }
}

/** Reads a level file. @throws FormatError */
export async function readLevelFile(bytes: Uint8Array): Promise<IncomingLevel> {
  const zip = await ZipReader.open(bytes)
  const json = await zip.read(LEVEL_JSON, MOST_JSON)
  if (!json) throw new FormatError(`it is no level file: there is no ${LEVEL_JSON} in it`)
  const { name, revision, placements, records, parts, kept } = readLevelJson(textOf(json, LEVEL_JSON))
  const journalJson = await zip.read(JOURNAL_JSON, MOST_JSON)
  const journal = journalJson ? readJournal(textOf(journalJson, JOURNAL_JSON), revision) : { changes: [], leftOut: 0 }
  const known = new Set([
    LEVEL_JSON,
    JOURNAL_JSON,
    ...parts.flatMap(({ meshHash, textures }) => [
      meshPath(meshHash),
      ...textures.map(({ picture, type }) => texturePath(picture, type)),
    ]),
  ])
  const strange = zip.names().filter(each => !known.has(each) && !each.endsWith('/'))
  const incoming = parts.map(
    ({ textures, meshHash, boundsMin: _least, boundsMax: _most, triangles: _triangles, ...part }): IncomingPart => ({
      part,
      hash: meshHash,
      read: async () => {
        const pictures = new Map<string, Picture>()
        for (const { picture, type } of textures)
          pictures.set(picture, { type, bytes: await content(zip, texturePath(picture, type), picture) })
        const { mesh } = await readPartGlb(await content(zip, meshPath(meshHash), meshHash))
        return { mesh, pictures }
      },
    }),
  )
  return {
    name,
    revision,
    placements,
    records,
    parts: incoming,
    kept,
    journal: journal.changes,
    notes: [
      ...(strange.length > 0
        ? [
            `Files that are not known here are left out: ${strange
              .slice(0, 5)
              .map(each => each.slice(0, 80))
              .join(', ')}${strange.length > 5 ? ' …' : ''}.`,
          ]
        : []),
      ...(journal.leftOut > 0
        ? [
            `Of its list of changes ${counted(journal.leftOut, 'is', 'are')} left out: they were made after the level was written, and are not in it.`,
          ]
        : []),
    ],
  }
}

/** A file that is named by what is in it. */
async function content(zip: ZipReader, path: string, hash: string): Promise<Uint8Array> {
  const bytes = await zip.read(path)
  if (!bytes) throw new FormatError(`${path} is not in it`)
  if (hashOf(bytes) !== hash) throw new FormatError(`${path} is not what its name says`)
  return bytes
}

const hashOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex')

function textOf(bytes: Uint8Array, what: string): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    throw new FormatError(`${what} is no text in UTF-8`)
  }
}
