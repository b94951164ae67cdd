import type { ChoiceField, Field } from '~~/core/units/field'
import { choiceField, numberField, switchField } from '~~/core/units/field'
import { SHOWN_UNITS } from '~~/core/units/quantity'
import type { Panels, Settings } from '~/editor/settings-schema'
import { HANDLE_SIZE, TEXT_SIZE } from '~/editor/settings-schema'

/** One thing to set: its field, what it does, and further words that it is found by. */
export type SettingRow = { field: Field; says: string; words?: string }

/** Settings that belong together. */
export type Section = {
  name: string
  rows: readonly SettingRow[]
  /** An action that opens where more of it is set. */
  opens?: { name: string; says: string; words?: string }
  /** What goes back to how it was, and out and in as a file. */
  keys: readonly (keyof Settings)[]
}

const row = (field: Field, says: string, words = ''): SettingRow => ({ field, says, words })
const choice = (label: string, key: keyof Settings, options: Record<string, string>, more?: Partial<ChoiceField>) =>
  choiceField(label, key, options, more)

const sides = (label: string, key: keyof Panels, names: Record<string, string>): Field => ({
  ...choiceField(label, key, names, { isOpen: true }),
  path: ['panels', key],
})
const panel = (label: string, key: keyof Panels) => switchField(label, ['panels', key])
const BESIDE = { left: 'Left', right: 'Right' }
const ABOVE = { above: 'Above the stage', below: 'Below it' }
const UNIT_NAMES = Object.fromEntries(SHOWN_UNITS.map(unit => [unit, unit === 'ft-in' ? 'ft and in' : unit]))

/** Everything that a person sets once, by what it is about. What a bench or a menu sets on the way stands there. */
export const SECTIONS: readonly Section[] = [
  {
    name: 'Look',
    keys: ['board', 'contrast', 'textSize', 'hand', 'motion'],
    rows: [
      row(
        choice('Board', 'board', { day: 'Day', night: 'Night', system: 'As the system' }, { isOpen: true }),
        'Light paper or dark. The sky over the level is chosen with the view.',
        'theme dark light mode',
      ),
      row(
        choice(
          'Contrast',
          'contrast',
          { system: 'As the system', ordinary: 'Ordinary', more: 'More' },
          { isOpen: true },
        ),
        'More: lines as dark as text, black on white.',
        'accessibility visible',
      ),
      row(
        numberField('Size of text', ['textSize'], 'number', {
          suffix: '%',
          decimals: 0,
          least: TEXT_SIZE[0],
          most: TEXT_SIZE[1],
        }),
        'Of all text and of the buttons and fields around it, from 80 to 150 %.',
        'font zoom larger smaller scale interface',
      ),
      row(
        choice(
          'Buttons and fields',
          'hand',
          { system: 'As the device', pointer: 'For a pointer', finger: 'For fingers' },
          { isOpen: true },
        ),
        'For fingers all that is pressed is at least 44 pixels large.',
        'touch tablet target size large controls',
      ),
      row(
        choice('Movement', 'motion', { system: 'As the system', less: 'Less', all: 'All' }, { isOpen: true }),
        'Less: the view jumps instead of gliding, and nothing fades.',
        'animation reduced motion',
      ),
    ],
  },
  {
    name: 'Numbers',
    keys: ['unit', 'digits', 'decimalMark', 'angles', 'height', 'sizeInMetres'],
    rows: [
      row(
        choice('Lengths in', 'unit', UNIT_NAMES),
        'Shown in this unit. Any other is understood as typed, such as 5 ft or 20 cm.',
        'units metres millimetres feet inches imperial metric',
      ),
      row(
        numberField('Digits of lengths', ['digits'], 'number', {
          decimals: 0,
          least: 0,
          most: 6,
          empty: 'as needed',
        }),
        'After the decimal mark. What is typed is kept to the last digit, whatever is shown.',
        'decimals precision places',
      ),
      row(
        choice(
          'Decimals after',
          'decimalMark',
          { locale: 'As here', dot: 'Dot 1.5', comma: 'Comma 1,5' },
          { isOpen: true },
        ),
        'Both are understood as typed. Where three digits follow, as in 1,500, it says what it was taken for.',
        'separator locale point',
      ),
      row(
        choice('Angles in', 'angles', { degrees: 'Degrees', turns: 'Turns' }, { isOpen: true }),
        'A quarter turn is 90° or 0.25.',
        'rotation radians',
      ),
      row(
        choice('Height along', 'height', { y: 'Y', z: 'Z' }, { isOpen: true }),
        'Along Z, Y points away from you: letters, colours and numbers are written so, and what is kept stays as it is.',
        'up axis vertical upwards',
      ),
      row(
        switchField('Sizes as lengths in the ledger', 'sizeInMetres'),
        'Instead of factors on how large the part was made.',
        'scale dimensions',
      ),
    ],
  },
  {
    name: 'Handles and marks',
    keys: ['handleSize', 'markSize', 'marksPickable'],
    rows: [
      row(
        numberField('Size of handles', ['handleSize'], 'number', {
          suffix: '×',
          decimals: 2,
          least: HANDLE_SIZE[0],
          most: HANDLE_SIZE[1],
        }),
        'And of how near the pointer has to be. For a finger they are larger by themselves.',
        'gizmo larger smaller hit',
      ),
      row(
        numberField('Size of marks', ['markSize'], 'number', { suffix: 'px', decimals: 0, least: 12, most: 48 }),
        'Of cameras, lights and markers on the stage, in pixels.',
        'icons',
      ),
      row(switchField('Marks can be picked on the stage', 'marksPickable'), 'Otherwise a click goes through them.'),
    ],
  },
  {
    name: 'Keys',
    keys: ['keys', 'keysBy'],
    rows: [],
    opens: { name: 'Keys …', says: 'Which key does what.', words: 'shortcuts hotkeys' },
  },
  {
    name: 'Pointing device',
    keys: ['pointing'],
    rows: [],
    opens: {
      name: 'Pointing device …',
      says: 'Which button, wheel and gesture steer the view, and how fast.',
      words: 'mouse trackpad pen orbit zoom invert speed',
    },
  },
  {
    name: 'Menus',
    keys: ['favouriteActions', 'lastActions'],
    rows: [
      row(
        { type: 'several', label: 'Favourites', path: ['favouriteActions'], options: [], empty: 'none yet' },
        'At the top of every menu; a star in a menu or in find or do adds one.',
        'context menu star',
      ),
    ],
  },
  {
    name: 'Panels',
    keys: ['panels', 'rosterSort', 'rosterFollows', 'sharesView'],
    rows: [
      row(panel('Bench', 'showBench'), 'With the step of the job.', 'sidebar show hide'),
      row(sides('Bench on the', 'benchSide', BESIDE), 'With the steps of the job beside it.', 'sidebar left right'),
      row(panel('Roster', 'showRoster'), 'With all that is placed.', 'list tree sidebar show hide'),
      row(
        sides('Roster on the', 'rosterSide', BESIDE),
        'On one side with the bench it stands nearer to the stage.',
        'left right',
      ),
      row(sides('Rail', 'railSide', ABOVE), 'With axes, pivot and steps.', 'toolbar top bottom'),
      row(panel('Ledger', 'showLedger'), 'With the numbers of what is picked.', 'properties show hide'),
      row(sides('Ledger stands', 'ledgerSide', ABOVE), 'Above or below the stage.', 'top bottom'),
      row(
        switchField('The same view in both windows', 'sharesView'),
        'Of a level that is open in a second window as well, for a second screen.',
        'monitor screen popup',
      ),
      row(
        switchField('The roster follows what is picked', 'rosterFollows'),
        'It opens the way to it, and scrolls there.',
      ),
    ],
  },
  {
    name: 'Together',
    keys: ['author', 'isNamed', 'initials'],
    rows: [
      row(
        { type: 'text', label: 'Your name', path: ['author'], empty: 'Guest' },
        'As others see it at your pointer, and in the list of changes. Where you have signed in, your own is shown.',
        'author collaboration user',
      ),
      row(
        { type: 'text', label: 'Initials', path: ['initials'], empty: 'of your name' },
        'Up to three letters, at your pointer and in the roster. If somebody has the same, others of your name are taken.',
        'letters badge short',
      ),
    ],
  },
]

/** All settings that go along: to another device, and with whoever signs in. */
export const PORTABLE: readonly (keyof Settings)[] = SECTIONS.flatMap(({ keys }) => keys)

const wordsOf = ({ name, opens }: Section) => `${name} ${opens?.name ?? ''} ${opens?.says ?? ''} ${opens?.words ?? ''}`

const optionsOf = (field: Field) => (field.type === 'choice' ? field.options.map(({ name }) => name).join(' ') : '')

/** Sections with those of their rows that have all words of a text; all of them for no text. */
export function findSections(text: string): Section[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  const has = (said: string) => words.every(word => said.toLowerCase().includes(word))
  return SECTIONS.flatMap(section => {
    if (has(wordsOf(section))) return [section]
    const rows = section.rows.filter(({ field, says, words: more }) =>
      has(`${section.name} ${field.label} ${optionsOf(field)} ${says} ${more ?? ''}`),
    )
    return rows.length > 0 ? [{ ...section, rows, opens: undefined }] : []
  })
}
