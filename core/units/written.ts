import type { Field } from './field'
import type { WrittenAxes } from './height'

/** What rows of three along the axes have in common. */
const kindOf = (field: Field) => (field.type === 'number' && field.axis !== undefined ? bare(field.label) : null)
const bare = (label: string) => label.replace(/ ?\b[XYZ]\b/, '')

/**
 * Rows of a form as somebody reads them: labels with the letters of the axes as they are written, and rows along all
 * three of them in that order.
 */
export function writtenFields<F extends Field>(fields: readonly F[], axes: WrittenAxes): F[] {
  const rows = fields.map(field => written(field, axes))
  if (axes.height === 'y') return rows
  const ordered: F[] = []
  for (let i = 0; i < rows.length; ) {
    const kind = kindOf(fields[i]!)
    const run = kind === null ? 1 : fields.slice(i).findIndex(each => kindOf(each) !== kind)
    const some = rows.slice(i, run < 0 ? undefined : i + run)
    ordered.push(...(kind === null ? some : some.toSorted(byLetter)))
    i += some.length
  }
  return ordered
}

const letterOf = ({ label }: Field) => /\b[XYZ]\b/.exec(label)?.[0] ?? ''
const byLetter = (a: Field, b: Field) => (letterOf(a) < letterOf(b) ? -1 : letterOf(a) > letterOf(b) ? 1 : 0)

function written<F extends Field>(field: F, axes: WrittenAxes): F {
  if (field.type === 'choice' && field.ofAxes)
    return { ...field, options: axes.inOrder.map(({ axis, letter }) => ({ value: axis, name: letter })) }
  if (field.type !== 'number' || field.axis === undefined) return field
  const { axis, label, named, otherEnd } = field
  const said = (text: string) =>
    axes.label(otherEnd !== undefined && axes.sign(axis) < 0 ? text.replace(label, otherEnd) : text, axis)
  return { ...field, label: said(label), ...(named !== undefined && { named: said(named) }) }
}
