import { mdiArrowCollapseDown } from '@mdi/js'
import { useEdits } from '~/editor/edits'
import { defineFeature } from '~/editor/feature'
import { useSteps } from '~/editor/steps'
import SettleBench from './SettleBench.vue'
import { useSettling } from './settling'

/** Things that fall and come to rest. */
export const settle = defineFeature({
  name: 'Settle',
  step: { bench: 'settle', name: 'Settle', icon: mdiArrowCollapseDown, panel: SettleBench },
  commands: () => {
    const [steps, settling] = [useSteps(), useSettling()]
    const { somePicked } = useEdits()
    const settlePicked = () => {
      steps.open('settle')
      settling.settle()
    }
    return [{ name: 'Let what is picked settle', run: settlePicked, can: somePicked }]
  },
})
