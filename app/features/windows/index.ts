import { defineFeature } from '~/editor/feature'
import { useSettings } from '~/editor/settings'
import { useWindows } from './windows'

/** A second window of the same level, for a second screen. */
export const windows = defineFeature({
  name: 'Windows',
  commands: () => {
    const here = useWindows()
    const { kept } = useSettings()
    return [
      { name: 'Second window with the stage', run: () => here.open('stage') },
      { name: 'Second window with roster and ledger', run: () => here.open('lists') },
      {
        name: 'The same view in both windows, or not',
        run: () => (kept.sharesView = !kept.sharesView),
        can: () => here.isShared,
      },
    ]
  },
})
