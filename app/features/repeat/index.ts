import { mdiContentDuplicate } from '@mdi/js'
import { useEdits } from '~/editor/edits'
import { defineFeature } from '~/editor/feature'
import { ON_PICKED, ON_THINGS } from '~/editor/menu/menu-places'
import { useSteps } from '~/editor/steps'
import RepeatBench from './RepeatBench.vue'
import { useDuplicating } from './duplicating'

/** Duplicates, mirrored halves, and arrangements of copies by a rule. */
export const repeat = defineFeature({
  name: 'Repeat',
  step: { bench: 'repeat', name: 'Repeat', icon: mdiContentDuplicate, panel: RepeatBench },
  commands: () => {
    const [steps, duplicating] = [useSteps(), useDuplicating()]
    const { somePicked } = useEdits()
    return [
      { name: 'Repeat', run: () => steps.open('repeat') },
      {
        name: 'Duplicate',
        key: 'Ctrl+d',
        run: () => void duplicating.duplicatePicked(),
        can: somePicked,
        on: ON_PICKED,
      },
      {
        name: 'Duplicate again, the same step on',
        key: 'Ctrl+Shift+d',
        run: () => void duplicating.duplicateAgain(),
        can: () => somePicked() || duplicating.canRepeat(),
      },
      { name: 'Make independent', run: () => void duplicating.makeIndependent(), can: somePicked, on: ON_THINGS },
      { name: 'Make instances of …', run: () => void duplicating.makeInstanceOf(), can: somePicked },
    ]
  },
})
