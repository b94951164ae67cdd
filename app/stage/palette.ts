/** The colours of one board: of the page by their Vuetify names, and of the stage by the same. */
type Palette = { dark: boolean; colors: Record<ColorName, string> }

export type ColorName =
  | 'background'
  | 'surface'
  | 'line'
  | 'rail'
  | 'on-background'
  | 'on-surface'
  | 'quiet'
  | 'field'
  | 'primary'
  | 'on-primary'
  | 'header'
  | 'on-header'
  | 'picked'
  | 'on-picked'
  | 'picture'
  | 'action'
  | 'on-action'
  | 'error'
  | 'axis-x'
  | 'axis-y'
  | 'axis-z'
  | 'sky-top'
  | 'sky-horizon'
  | 'grid'
  | 'sunlight'
  | 'skylight'
  | 'groundlight'
  | 'slate'
  | 'on-slate'
  | 'quiet-on-slate'
  | 'on-person'
  | `person-${0 | 1 | 2 | 3 | 4 | 5 | 6 | 7}`

/** What is said at the pointer is said on the same slate by day and by night. */
const SLATE = { 'slate': '#22303A', 'on-slate': '#FBF8F1', 'quiet-on-slate': '#C9D2D4' }

/** A board, and the same with more contrast. */
export type BoardName = 'day' | 'night' | 'day-more' | 'night-more'

/** What differs with more contrast: lines are as dark as text, and what is quiet is nearly so. */
const MORE: Record<'day' | 'night', Partial<Palette['colors']>> = {
  day: {
    'background': '#FFFFFF',
    'surface': '#FFFFFF',
    'line': '#4A4F57',
    'rail': '#FFFFFF',
    'on-background': '#000000',
    'on-surface': '#000000',
    'quiet': '#2B353A',
    'primary': '#004A4A',
    'header': '#00282A',
    'on-header': '#FFFFFF',
    'picked': '#A3154B',
    'error': '#8C0F0A',
    'grid': '#3D5A59',
    'slate': '#000000',
    'on-slate': '#FFFFFF',
    'quiet-on-slate': '#FFFFFF',
  },
  night: {
    'background': '#000000',
    'surface': '#0B0F11',
    'line': '#B5C0C4',
    'rail': '#0B0F11',
    'on-background': '#FFFFFF',
    'on-surface': '#FFFFFF',
    'quiet': '#DCE3E5',
    'field': '#000000',
    'primary': '#7FE3DB',
    'header': '#001A1C',
    'on-header': '#FFFFFF',
    'picked': '#FF9DBF',
    'error': '#FFB4AB',
    'grid': '#8FA5AC',
    'slate': '#000000',
    'on-slate': '#FFFFFF',
    'quiet-on-slate': '#FFFFFF',
  },
}

/** The two boards as they are made. Every colour of the application stands here. */
const ORDINARY: Record<'day' | 'night', Palette> = {
  day: {
    dark: false,
    colors: {
      'background': '#F4EFE4',
      'surface': '#FBF8F1',
      'line': '#D9D0BE',
      'rail': '#E8E0CD',
      'on-background': '#22303A',
      'on-surface': '#22303A',
      'quiet': '#5C6A70',
      'field': '#FFFFFF',
      'primary': '#0E6E6E',
      'on-primary': '#FFFFFF',
      'header': '#0E4A4D',
      'on-header': '#F4EFE4',
      'picked': '#D6336C',
      'on-picked': '#FFFFFF',
      'picture': '#F4EFE4',
      'action': '#F2B441',
      'on-action': '#22303A',
      'error': '#B3261E',
      'axis-x': '#D55E00',
      'axis-y': '#009E73',
      'axis-z': '#0072B2',
      'sky-top': '#DFE9E8',
      'sky-horizon': '#E9E6DA',
      'grid': '#7D9A99',
      'sunlight': '#FFF1D6',
      'skylight': '#EAF2F2',
      'groundlight': '#B5A585',
      'person-0': '#2456A6',
      'person-1': '#A34A00',
      'person-2': '#1F6B3A',
      'person-3': '#6D3AA0',
      'person-4': '#7A5C00',
      'person-5': '#00677A',
      'person-6': '#5B6B12',
      'person-7': '#4A4F57',
      'on-person': '#FFFFFF',
      ...SLATE,
    },
  },
  night: {
    dark: true,
    colors: {
      'background': '#171D21',
      'surface': '#20282D',
      'line': '#38444B',
      'rail': '#2A343A',
      'on-background': '#EDE6D8',
      'on-surface': '#EDE6D8',
      'quiet': '#A3AEB2',
      'field': '#171D21',
      'primary': '#4FB3AC',
      'on-primary': '#10201F',
      'header': '#0B2F32',
      'on-header': '#EDE6D8',
      'picked': '#F0719B',
      'on-picked': '#171D21',
      'picture': '#5A6870',
      'action': '#F2B441',
      'on-action': '#22303A',
      'error': '#FF8A80',
      'axis-x': '#F08A3C',
      'axis-y': '#3CC79A',
      'axis-z': '#56A8E0',
      'sky-top': '#1B2A30',
      'sky-horizon': '#2B3136',
      'grid': '#56696F',
      'sunlight': '#9DB7D6',
      'skylight': '#8A9BB0',
      'groundlight': '#6B4E33',
      'person-0': '#8FB4F5',
      'person-1': '#F3A765',
      'person-2': '#86D39B',
      'person-3': '#C7A6F0',
      'person-4': '#E0C25A',
      'person-5': '#74CFE0',
      'person-6': '#C5D86D',
      'person-7': '#C3CAD2',
      'on-person': '#171D21',
      ...SLATE,
    },
  },
}

const withMore = (of: 'day' | 'night'): Palette => ({
  ...ORDINARY[of],
  colors: { ...ORDINARY[of].colors, ...MORE[of] },
})

/** All boards. */
export const palettes: Record<BoardName, Palette> = {
  ...ORDINARY,
  'day-more': withMore('day'),
  'night-more': withMore('night'),
}
