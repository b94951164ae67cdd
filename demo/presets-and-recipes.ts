import type { LevelRecipe, Preset } from '../core/level/schema'
import { demoId } from './kit'

// What is kept with the night market for whoever works on it.

export const PRESETS: Preset[] = [
  {
    id: demoId('preset/next-stall'),
    form: 'duplicate',
    name: 'Next stall along',
    values: { as: 'instance', by: [3.5, 0, 0], stays: true },
    picture: null,
  },
]

export const RECIPES: LevelRecipe[] = [
  {
    id: demoId('recipe/stack-another'),
    name: 'Stack another',
    inputs: [
      { name: 'rise', label: 'Rise', quantity: 'length', first: 0.62 },
      { name: 'turn', label: 'Turn', quantity: 'angle', first: 12 },
    ],
    steps: [
      {
        label: 'One more on top',
        does: [{ do: 'make', of: 'placement', as: 'new1', like: 'each', by: [0, 'rise', 0], exact: [], fields: {} }],
      },
      {
        label: 'Turned a little',
        does: [{ do: 'turn', who: 'new1', axis: [0, 1, 0], by: 'turn', exact: [] }],
      },
    ],
  },
]
