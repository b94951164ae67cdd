/** Where a menu is asked for, each with what stands over what it offers there. */
export const MENU_PLACES = {
  thing: 'What is picked',
  copy: 'The copy that is picked',
  ground: 'Here',
  handle: 'Handles',
  row: 'What is picked',
  card: 'Kit',
} as const
export type MenuPlace = keyof typeof MENU_PLACES

/** Where what can be done with what is picked belongs. */
export const ON_PICKED: readonly MenuPlace[] = ['thing', 'copy', 'row']
/** The same, but not with one copy of a rule. */
export const ON_THINGS: readonly MenuPlace[] = ['thing', 'row']
