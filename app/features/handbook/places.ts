import type { Bench } from '~/editor/settings-schema'

/** What there is to say about a place of the page: what it is called, a sentence, and the page that says more. */
export type Place = { at: string; name: string; says: string; page: string }

/** Places of the page, each found by a CSS selector; the more particular come first. */
export const PLACES: readonly Place[] = [
  // Header
  {
    at: '[data-test=save-state]',
    name: 'Save state',
    says: 'Whether all you did is saved; otherwise what waits, and why.',
    page: 'going-back',
  },
  {
    at: '[data-test=set-apart]',
    name: 'Set apart',
    says: 'Changes that the server did not take: try again, keep as a file, or drop.',
    page: 'going-back',
  },
  {
    at: '[data-test=check-state]',
    name: 'Level check',
    says: 'How much is wrong with the level right now; a click lists it.',
    page: 'checking',
  },
  { at: '[data-test=notes]', name: 'Notes', says: 'How many notes are open; a click lists them.', page: 'together' },
  {
    at: '[data-test=people]',
    name: 'People',
    says: 'Who has this level open besides you: go there, follow, or call them.',
    page: 'together',
  },
  {
    at: '[data-test=history]',
    name: 'List of changes',
    says: 'All that was done, by whom; a click takes the level back to that moment.',
    page: 'going-back',
  },
  {
    at: 'header .pill',
    name: 'The level',
    says: 'Its name, and what can be done with it as a whole: milestones, comparing, variants.',
    page: 'going-back',
  },
  // Panels of their own
  {
    at: '[data-test=first-steps]',
    name: 'First steps',
    says: 'The exercise that is on: it ticks itself off when the level is really so.',
    page: 'first-steps',
  },
  {
    at: '[data-test=handbook]',
    name: 'Handbook',
    says: 'All pages by task; the field above looks in them.',
    page: 'README',
  },
  {
    at: '[data-test=compare]',
    name: 'Compare',
    says: 'What is not the same here and there: to go through, and to take from.',
    page: 'going-back',
  },
  {
    at: '[data-test=workshop]',
    name: 'Editing a part',
    says: 'All instances of the part follow when you are done, in all levels.',
    page: 'your-own-parts',
  },
  {
    at: '[data-test=modes]',
    name: 'What is on',
    says: 'What changes what a click does or what is seen; Esc ends it.',
    page: 'first-steps',
  },
  {
    at: '[data-test=stats]',
    name: 'Numbers of the picture',
    says: 'Frames a second, draws, things and copies, triangles, memory of shared meshes against full copies.',
    page: 'looking-around',
  },
  {
    at: '[data-test=pointer-position]',
    name: 'Pointer position',
    says: 'Where the pointer is in the world; type a place to go there, or +30 to shift the view.',
    page: 'looking-around',
  },
  {
    at: '.rose',
    name: 'Compass',
    says: 'Turns the view: a click on a direction looks from there.',
    page: 'looking-around',
  },
  {
    at: '.pane .alone',
    name: 'View of this pane',
    says: 'Walkaround in perspective, or Plan, Front and Side, which never tilt.',
    page: 'looking-around',
  },
  {
    at: '.menus',
    name: 'View, look, stations, panes',
    says: 'What is shown and how, saved viewpoints, and how many panes there are.',
    page: 'looking-around',
  },
  // Rail
  {
    at: '.rail',
    name: 'Rail',
    says: 'Axes, what things turn around, the grid, turn and size steps, and what drags snap to.',
    page: 'snapping',
  },
  // Ledger
  {
    at: '[data-test=kept]',
    name: 'What it is kept to',
    says: 'What holds it, so that it follows for good.',
    page: 'keeping',
  },
  {
    at: '[data-test=local-size]',
    name: 'Size in metres',
    says: 'Width, height and depth in the thing’s own axes, with all that hangs from it.',
    page: 'numbers',
  },
  {
    at: '[aria-label^=Position]',
    name: 'Position',
    says: 'Where the pivot stands, in metres; sums and units work: 2 + 35 cm, +0.5, *2.',
    page: 'numbers',
  },
  { at: '[aria-label^=Turn]', name: 'Turn', says: 'Degrees about X, Y and Z.', page: 'numbers' },
  {
    at: '[aria-label^=Size]',
    name: 'Size',
    says: 'A factor for each axis; 1 is as large as it was made.',
    page: 'numbers',
  },
  {
    at: '.ledger',
    name: 'Ledger',
    says: 'The exact numbers of what is picked; when nothing is, the level in numbers.',
    page: 'numbers',
  },
  // Roster
  {
    at: '.layers',
    name: 'Layers',
    says: 'Named sets of things, shown or hidden, locked or not, reserved or not.',
    page: 'picking',
  },
  {
    at: '[role=treeitem]',
    name: 'A thing in the roster',
    says: 'Click picks it, drag hangs it elsewhere or changes its order, F2 renames it.',
    page: 'picking',
  },
  { at: '.roster', name: 'Roster', says: 'All things of the level in their tree.', page: 'picking' },
  // Steps and the bench
  {
    at: 'nav.steps',
    name: 'Steps of the job',
    says: 'Each opens its form in the bench; a click on the open one closes that.',
    page: 'first-steps',
  },
  {
    at: '.bench',
    name: 'Bench',
    says: 'The form of the step that is open, with a preview on the stage and one main button.',
    page: 'first-steps',
  },
  // The list of levels
  {
    at: '.card',
    name: 'A level',
    says: 'Click opens it; tick several to tag, put away or delete them at once.',
    page: 'levels',
  },
]

/** Of each step of the job, the page that says how it is done. */
export const PAGE_OF_BENCH = {
  'kit': 'placing',
  'blocks': 'blocks',
  'line-up': 'lining-up',
  'repeat': 'repeating',
  'scatter': 'scattering',
  'measure': 'measuring',
  'check': 'checking',
  'cameras': 'cameras-and-lights',
  'settle': 'settling',
} as const satisfies Record<Bench, string>
