import { mdiCheckDecagramOutline } from '@mdi/js'
import { defineFeature } from '~/editor/feature'
import { useSteps } from '~/editor/steps'
import CheckBench from './CheckBench.vue'
import { FindingFrames } from './finding-frames'

/** What is wrong with the level, found while one works, and mended. */
export const check = defineFeature({
  name: 'Check',
  step: { bench: 'check', name: 'Check', icon: mdiCheckDecagramOutline, panel: CheckBench },
  layers: [FindingFrames],
  commands: () => {
    const steps = useSteps()
    return [{ name: 'Check the level', run: () => steps.open('check') }]
  },
})
