import type { ArrangementOwn } from './arrangement'
import { RULES } from './rules'

/** An arrangement to begin from, with a name. */
export type Preset = { name: string; own: ArrangementOwn }

const [line, grid, ring, fan, path, scatter] = [
  RULES.line.first,
  RULES.grid.first,
  RULES.ring.first,
  RULES.fan.first,
  RULES.path.first,
  RULES.scatter.first,
]

/** Those that come with the application. Numbers of stairs are common practice. */
export const PRESETS: readonly Preset[] = [
  { name: 'Straight steps', own: { rule: { ...line, count: 15, along: [0, 0.17, -0.28] } } },
  {
    name: 'Spiral steps',
    own: { rule: { ...line, count: 15, along: [0, 0.17, -0.28], turn: [0, 10, 0], axes: 'local' } },
  },
  { name: 'Tapering tower', own: { rule: { ...line, count: 5, along: [0, 1, 0], size: 0.5, axes: 'local' } } },
  {
    name: 'Hexagonal field',
    own: { rule: { ...grid, counts: [6, 1, 6], spacing: [1, 1, Math.sqrt(3) / 2], stagger: 0.5 } },
  },
  {
    name: 'Wall in running bond',
    own: { rule: { ...grid, counts: [8, 3, 1], spacing: [1, 0.5, 1], stagger: 0.5, bond: true } },
  },
  { name: 'Spiral ramp', own: { rule: { ...ring, count: 24, radius: 2, arc: 720, rise: 0.17 } } },
  { name: 'Half circle', own: { rule: { ...ring, count: 7, arc: 180 } } },
  {
    name: 'Stepped rows',
    own: {
      rule: {
        ...fan,
        counts: 'spacing',
        rise: {
          by: 'profile',
          points: [
            [0, 0],
            [0.5, 0.3],
            [1, 1.2],
          ],
          smooth: true,
        },
      },
    },
  },
  {
    name: 'Closed loop',
    own: {
      rule: {
        ...path,
        points: [
          [0, 0, 0],
          [6, 0, 0],
          [6, 0, 6],
          [0, 0, 6],
        ],
        closed: true,
        count: 16,
      },
    },
  },
  { name: 'Meadow in clumps', own: { rule: { ...scatter, spread: 'clumps', density: 4 } } },
  { name: 'Evenly planted', own: { rule: { ...scatter, spread: 'even', density: 1 } } },
  { name: 'As full as can be', own: { rule: { ...scatter, density: 10_000 } } },
]
