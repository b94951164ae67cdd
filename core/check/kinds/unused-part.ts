import type { CheckDefinition } from '../definition'

/** A part of the kit that this level does not use. */
export const unusedPart: CheckDefinition = {
  name: 'Part never used',
  severity: 'note',
  explains: 'A part of the kit that nothing in this level shows.',
  limits: {},
  looksAt: 'part',
  isAside: true,
  find: ({ kit, uses }, id) =>
    kit.part(id)?.inKit && !uses.get(id) ? [{ things: [id], amount: null, at: [0, 0, 0] }] : [],
  says: ({ things: [id] }, { name }) => `${name(id!)} is not used here`,
}
