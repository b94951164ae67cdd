import { z } from 'zod'
import { recordsOf } from '../level/level'
import type { LevelView } from '../scene/level-view'
import type { BinarySink, PictureSource } from './glb-file'
import { GlbFile } from './glb-file'
import type { Encoders } from './glb-packing'
import { COMPRESSIONS } from './glb-packing'
import { writeMerged } from './out/merged'
import type { SceneReport } from './out/scene-writer'
import { writeScene } from './out/scene-writer'
import { flag, Scope, scopeSchema } from './out/scope'
import type { OnShare } from './out/share'
import type { PartSource } from './out/shapes'

/** How a level is handed over as a binary glTF file. */
export const glbOptionsSchema = scopeSchema.extend({
  /** Copies of arrangements as instances (EXT_mesh_gpu_instancing) instead of nodes. */
  instanced: flag(false),
  compression: z.enum(COMPRESSIONS).default('none'),
  /** Positions, normals and colours in fewer bits. */
  quantised: flag(false),
  /** What stands in one square of so many metres as one mesh for each material; not at all if 0. */
  merge: z.coerce.number().pipe(z.number().min(0).max(10_000)).default(0),
  /** The share of its triangles that each mesh keeps. */
  triangles: z.coerce.number().pipe(z.number().min(0.01).max(1)).default(1),
})

export type GlbOptions = z.output<typeof glbOptionsSchema>

/** What else is needed for it. */
export type GlbSource = {
  /** Takes the binary data, which comes after the head. */
  sink: BinarySink
  /** The pictures of textures. */
  pictureOf: PictureSource
  encoders?: Encoders
  /** Told how far it is. */
  onShare?: OnShare
}

/** The version of what is said in `extras.handyGrid`. */
export const EXTRAS_VERSION = 1

/**
 * Writes a level as a binary glTF file (ISO/IEC 12113:2022); see `writeScene`, and `writeMerged` for meshes put
 * together.
 *
 * @returns the beginning of the file, up to its binary data; and what became of the level
 * @throws RangeError if a placement shows a part that is not there; HandOverError if it does not fit into one file
 */
export async function writeLevelGlb(
  name: string,
  level: LevelView,
  partOf: PartSource,
  { merge, compression, quantised, ...options }: GlbOptions,
  { sink, pictureOf, encoders, onShare }: GlbSource,
): Promise<{ head: Uint8Array; report: SceneReport & { scope: Scope['leftOut'] } }> {
  const file = new GlbFile(sink, pictureOf, { compression, quantised }, encoders)
  const scope = new Scope(level, options)
  const scene = { ...options, scope, onShare }
  const report =
    merge > 0 ? await writeMerged(file, level, partOf, scene, merge) : await writeScene(file, level, partOf, scene)
  const extras = merge > 0 ? undefined : { handyGrid: { version: EXTRAS_VERSION, ...recordsOf(level) } }
  return { head: file.finish(name, extras), report: { ...report, scope: scope.leftOut } }
}
