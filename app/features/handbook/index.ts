import { defineFeature } from '~/editor/feature'
import { useHandbook } from './handbook'
import { useWhatIsThis } from './what-is-this'

/** The handbook beside the stage, and what anything is that the pointer is at. */
export const handbook = defineFeature({
  name: 'Help',
  commands: () => {
    const book = useHandbook()
    const asked = useWhatIsThis()
    return [
      { name: 'Handbook', key: 'F1', run: () => (book.isOpen ? book.close() : book.open()) },
      { name: 'What is this?', key: '?', run: () => void asked.ask() },
    ]
  },
})
