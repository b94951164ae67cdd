import { defineFeature } from '~/editor/feature'
import { useSettings } from '~/editor/settings'
import { OthersMarks } from './others-marks'
import { usePeople } from './people'

/** The others who have the level open, on the stage and beside it. */
export const people = defineFeature({
  layers: [OthersMarks],
  commands: () => {
    const here = usePeople()
    const { kept } = useSettings()
    const somebody = () => here.others.length > 0
    return [
      { name: 'Call the others: look here', key: 'Shift+h', run: () => here.call(null), can: somebody },
      { name: 'Follow nobody any more', run: () => here.setFollowing(null), can: () => here.following !== null },
      { name: 'Show or hide where others look from', run: () => (kept.show.people = !kept.show.people) },
    ]
  },
})
