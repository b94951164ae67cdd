/** The colours the stage draws with, as CSS hexadecimals. */
export type Board = {
  name: 'day' | 'night'
  skyTop: string
  skyHorizon: string
  grid: string
  picked: string
  hovered: string
  ink: string
  application: string
  action: string
  axes: readonly [string, string, string]
}

export const boards: Record<Board['name'], Board> = {
  day: {
    name: 'day', skyTop: '#DFE9E8', skyHorizon: '#E9E6DA', grid: '#7D9A99', picked: '#D6336C', hovered: '#0E6E6E', ink: '#22303A', application: '#0E6E6E', action: '#F2B441',
    axes: ['#D55E00', '#009E73', '#0072B2'],
  },
  night: {
    name: 'night', skyTop: '#1B2A30', skyHorizon: '#2B3136', grid: '#56696F', picked: '#F0719B', hovered: '#4FB3AC', ink: '#EDE6D8', application: '#4FB3AC', action: '#F2B441',
    axes: ['#F08A3C', '#3CC79A', '#56A8E0'],
  },
}
