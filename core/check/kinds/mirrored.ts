import type { CheckDefinition } from '../definition'

/** Turned inside out by an odd number of negative sizes (glTF 2.0, 3.7.4: such an odd number flips the winding). */
export const mirrored: CheckDefinition = {
  name: 'Mirrored',
  severity: 'note',
  explains:
    'It is a mirror image of its shape. Some programs shade such things wrongly, and lettering on them runs backwards.',
  limits: {},
  looksAt: 'shown',
  find: (site, id) =>
    site.level.worldMatrix(id).determinant() < 0 && !site.level.arrangementIds.has(id)
      ? [{ things: [id], amount: null, at: site.middleOf(id) }]
      : [],
  says: ({ things: [id] }, { name }) => `${name(id!)} is mirrored`,
  fix: { does: 'Bake it', by: 'bake', what: 'size' },
}
