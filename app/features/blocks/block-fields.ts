import type { BlockShape } from '~~/core/mesh/block'
import { blockShapeSchema } from '~~/core/mesh/block'
import type { NumberField } from '~~/core/units/field'
import { numberField } from '~~/core/units/field'
import { riserAndTread, stairWarnings } from '~~/core/mesh/stairs'

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

/** The parameters of a block's shape as rows of a form. */
export const blockFields = (shape: BlockShape): NumberField[] =>
  Object.keys(shape)
    .filter(key => key !== 'type')
    .map(key => numberField(LABELS[key]!, [key], key === 'sides' || key === 'count' ? 'count' : 'length'))

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
