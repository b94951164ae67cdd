import { mdiAlignHorizontalLeft } from '@mdi/js'
import { useEdits } from '~/editor/edits'
import { defineFeature } from '~/editor/feature'
import { useSteps } from '~/editor/steps'
import LineUpBench from './LineUpBench.vue'
import { useFacing } from './facing'

/** Things in order with each other, and on what is below them. */
export const lineUp = defineFeature({
  step: { bench: 'line-up', name: 'Line up', icon: mdiAlignHorizontalLeft, panel: LineUpBench },
  commands: () => {
    const [steps, facing] = [useSteps(), useFacing()]
    const { somePicked } = useEdits()
    return [
      { name: 'Line up', run: () => steps.open('line-up') },
      { name: 'Set down', key: 'g', run: facing.setDownPicked, can: somePicked },
      { name: 'Face a point or a thing …', run: () => facing.face('towards'), can: somePicked },
      { name: 'Face away from a surface …', run: () => facing.face('away'), can: somePicked },
    ]
  },
})
