import type { Dragged, Presence } from '~~/core/api/people'
import { MOST_DRAGGED, MOST_PICKED, presenceSchema } from '~~/core/api/people'
import type { Operation, Placement } from '~~/core/level/schema'
import { copyOf } from '~~/core/scene/copy-id'

/** Digits after the point: a micrometre, and what leaves a turn one of unit length. */
const [LENGTH_DIGITS, TURN_DIGITS] = [6, 9]

/** Of what is picked, what others are told: of copies their arrangements, and not more than many. */
export function pickedToTell(ids: Iterable<string>): string[] {
  const told = new Set<string>()
  for (const id of ids) {
    told.add(copyOf(id)?.arrangementId ?? id)
    if (told.size === MOST_PICKED) break
  }
  return [...told]
}

/**
 * Of what a tool would do, what others are told: things that would be moved, turned or sized, and parts that would be
 * put down.
 *
 * @param placement what a thing is in the level
 */
export function draggedToTell(
  operations: readonly Operation[] | null,
  placement: (id: string) => Placement | undefined,
): Presence['drags'] {
  const things: Dragged[] = []
  let of = 0
  for (const operation of operations ?? []) {
    const dragged = operation.do === 'put' ? draggedAs(operation.id, operation.fields, placement(operation.id)) : null
    if (!dragged) continue
    of++
    if (things.length < MOST_DRAGGED) things.push(dragged)
  }
  return of === 0 ? null : { things, of }
}

function draggedAs(id: string, fields: Partial<Placement>, stands: Placement | undefined): Dragged | null {
  const { translation, rotation, scale, pivot, parentId, partId } = { ...stands, ...fields }
  const isMoved = fields.translation ?? fields.rotation ?? fields.scale ?? fields.pivot
  // What changes hands is told once that is done.
  if (!isMoved || !translation || !rotation || !scale || !pivot) return null
  if (stands ? parentId !== stands.parentId : !partId) return null
  return {
    id,
    parentId: parentId ?? null,
    translation: rounded(translation, LENGTH_DIGITS),
    rotation: rounded(rotation, TURN_DIGITS),
    scale: rounded(scale, LENGTH_DIGITS),
    pivot: rounded(pivot, LENGTH_DIGITS),
    partId: stands ? null : partId!,
  }
}

const rounded = <T extends readonly number[]>(numbers: T, digits: number) =>
  numbers.map(each => Number(each.toFixed(digits)) + 0) as unknown as T

/** What of somebody is another than was said last; nothing that cannot be, such as a drag to where no thing may be. */
export function newsOf(before: Partial<Presence>, now: Presence): Partial<Presence> {
  return Object.fromEntries(
    Object.entries(now).filter(([name, value]) => {
      const field = name as keyof Presence
      return (
        JSON.stringify(before[field]) !== JSON.stringify(value) && presenceSchema.shape[field].safeParse(value).success
      )
    }),
  )
}
