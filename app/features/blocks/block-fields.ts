import type { BlockShape } from '~~/core/mesh/block'
import { blockShapeSchema } from '~~/core/mesh/block'
import { riserAndTread, stairWarnings } from '~~/core/mesh/stairs'

export type BlockField = { key: string; label: string; isCount: boolean }

const LABELS: Record<string, string> = {
  width: 'Width',
  height: 'Height',
  depth: 'Depth',
  thickness: 'Thickness',
  radius: 'Radius',
  top: 'Radius at the top',
  wall: 'Wall',
  sides: 'Sides',
  count: 'Steps',
}

/** The parameters of a block's shape as fields of a form. */
export function blockFields(shape: BlockShape): BlockField[] {
  return Object.keys(shape)
    .filter(key => key !== 'type')
    .map(key => ({ key, label: LABELS[key]!, isCount: key === 'sides' || key === 'count' }))
}

export const blockNumber = (shape: BlockShape, key: string) => (shape as unknown as Record<string, number>)[key]!

/** The shape with another number, or what is wrong with it in words. */
export function withNumber(
  shape: BlockShape,
  key: string,
  value: number,
): { ok: true; shape: BlockShape } | { ok: false; error: string } {
  const parsed = blockShapeSchema.safeParse({ ...shape, [key]: value })
  return parsed.success
    ? { ok: true, shape: parsed.data }
    : { ok: false, error: `It ${parsed.error.issues[0]!.message}.` }
}

/** What is wrong with a flight of steps for walking. */
export const walkingWarnings = (shape: BlockShape) =>
  shape.type === 'steps' ? stairWarnings(riserAndTread(shape)) : []
