import { z } from 'zod'
import type { Texture } from '../mesh/texture'
import type { LevelView } from '../scene/level-view'
import type { SceneReport } from './out/scene-writer'
import { writeScene } from './out/scene-writer'
import { flag, Scope, scopeSchema } from './out/scope'
import type { OnShare } from './out/share'
import type { PartSource } from './out/shapes'
import type { TextSink } from './usda-file'
import { UsdaFile } from './usda-file'

/** How a level is handed over as USD. */
export const usdOptionsSchema = scopeSchema.extend({
  /** Copies of arrangements by point instancers instead of prims. */
  instanced: flag(true),
  /** The share of its triangles that each mesh keeps. */
  triangles: z.coerce.number().pipe(z.number().min(0.01).max(1)).default(1),
})

export type UsdOptions = z.output<typeof usdOptionsSchema>

/**
 * Where the picture of a texture lies, seen from the file. USD packages may have PNG and JPEG; others are written as
 * PNG.
 */
export const texturePathInUsd = ({ picture, type }: Pick<Texture, 'picture' | 'type'>) =>
  `textures/${picture}.${type === 'image/jpeg' ? 'jpg' : 'png'}`

/**
 * Writes a level as USD text; see `writeScene`.
 *
 * @returns what became of it, and the names of the pictures that its textures show with where they are looked for
 * @throws RangeError if a placement shows a part that is not there; HandOverError if it is too much for one file
 */
export async function writeLevelUsda(
  name: string,
  level: LevelView,
  partOf: PartSource,
  options: UsdOptions,
  sink: TextSink,
  onShare?: OnShare,
): Promise<{ pictures: ReadonlyMap<string, string>; report: SceneReport & { scope: Scope['leftOut'] } }> {
  const file = new UsdaFile(sink, name, texturePathInUsd)
  const scope = new Scope(level, options)
  const report = await writeScene(file, level, partOf, { ...options, scope, onShare })
  await file.finish()
  return { pictures: file.pictures, report: { ...report, scope: scope.leftOut } }
}
