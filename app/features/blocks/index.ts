import { mdiCubeOutline } from '@mdi/js'
import { defineFeature } from '~/editor/feature'
import { useSteps } from '~/editor/steps'
import BlocksBench from './BlocksBench.vue'

/** Plain shapes drawn on the stage. */
export const blocks = defineFeature({
  name: 'Blocks',
  step: { bench: 'blocks', name: 'Blocks', icon: mdiCubeOutline, panel: BlocksBench },
  commands: () => {
    const steps = useSteps()
    return [{ name: 'Draw blocks', run: () => steps.open('blocks'), on: ['ground'] }]
  },
})
