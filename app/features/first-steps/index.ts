import { defineFeature } from '~/editor/feature'
import { useLevel } from '~/editor/level'
import { whatFailed } from '~/api/client'
import { useFirstSteps } from './first-steps'
import { openYard } from './open-yard'

/** The first steps: exercises on a practice level of their own. */
export const firstSteps = defineFeature({
  name: 'First steps',
  commands: () => {
    const steps = useFirstSteps()
    const level = useLevel()
    return [
      {
        name: 'First steps',
        run: () => {
          if (steps.isYard()) return steps.begin()
          openYard().catch((error: unknown) => level.notify('The practice level cannot be opened', [whatFailed(error)]))
        },
        can: () => !steps.isOn,
      },
      { name: 'End the first steps', run: steps.end, can: () => steps.isOn },
    ]
  },
})
