import { useAuth } from '~/editor/auth'
import { defineFeature } from '~/editor/feature'
import { useLevel } from '~/editor/level'
import { useReserved } from '~/editor/reserved'
import { useSettings } from '~/editor/settings'
import { OthersMarks } from './others-marks'
import { usePeople } from './people'
import ReservedQuestion from './ReservedQuestion.vue'
import { useReserving } from './reserving'

/** The others who have the level open, on the stage and beside it. */
export const people = defineFeature({
  name: 'People',
  layers: [OthersMarks],
  dialogs: [ReservedQuestion],
  commands: () => {
    const here = usePeople()
    const reserving = useReserving()
    const level = useLevel()
    const { kept } = useSettings()
    const somebody = () => here.others.length > 0
    return [
      { name: 'Call the others: look here', key: 'Shift+h', run: () => here.call(null), can: somebody },
      { name: 'Follow nobody any more', run: () => here.setFollowing(null), can: () => here.following !== null },
      {
        name: 'Reserve what is picked, or let it go',
        key: 'Shift+r',
        run: reserving.togglePicked,
        can: () => level.selection.ids.size > 0 && useAuth().may('work'),
      },
      {
        name: 'Let go of all that you have reserved',
        run: () => reserving.release(),
        can: () => useReserved().own.size > 0,
      },
      { name: 'Show or hide where others look from', run: () => (kept.show.people = !kept.show.people) },
    ]
  },
})
