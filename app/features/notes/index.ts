import { defineFeature } from '~/editor/feature'
import { useSettings } from '~/editor/settings'
import { useNotes } from './notes'

/** Notes at places of the level that are talked about. */
export const notes = defineFeature({
  name: 'Notes',
  commands: () => {
    const here = useNotes()
    const { kept } = useSettings()
    const areThere = () => here.listed.length > 0
    return [
      {
        name: 'Write a note here',
        key: 'Shift+n',
        run: () => here.begin(),
        can: () => here.mayWrite,
        on: ['thing', 'copy', 'ground'],
      },
      { name: 'Next note', key: 'Alt+.', run: () => here.step(1), can: areThere },
      { name: 'Note before', key: 'Alt+,', run: () => here.step(-1), can: areThere },
      { name: 'All open notes', run: () => (here.isOpen = true) },
      { name: 'Show or hide notes on the stage', run: () => (kept.show.notes = !kept.show.notes) },
    ]
  },
})
