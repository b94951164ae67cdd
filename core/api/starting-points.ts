/** What levels can be begun from besides others: what each is called, and what it is, in a sentence. */
export const STARTING_POINTS = {
  'bridge-square': {
    name: 'Bridge square',
    about: 'A paved square on a grid of 4 m, a canal and a bridge: for laying out on the grid.',
  },
  'warehouse-passage': {
    name: 'Warehouse passage',
    about: 'A passage between two walls, of pieces end to end: for rows, joints and what stands along them.',
  },
  'reed-bank': {
    name: 'Reed bank',
    about: 'A towpath and a grassed bank with a scatter: for dealing out what grows.',
  },
  'boathouse-yard': {
    name: 'The boathouse yard',
    about: 'The yard of the first steps, with an exercise at each corner.',
  },
} as const

export type StartingPoint = keyof typeof STARTING_POINTS
export const STARTING_POINT_NAMES = Object.keys(STARTING_POINTS) as [StartingPoint, ...StartingPoint[]]

/** All that a level can be begun from by name. */
export const BEGINNINGS = ['empty', 'demo', ...STARTING_POINT_NAMES] as const
export type Beginning = (typeof BEGINNINGS)[number]

/** Whether that is said by name; otherwise it is the id of a level. */
export const isBeginning = (from: string): from is Beginning => (BEGINNINGS as readonly string[]).includes(from)
