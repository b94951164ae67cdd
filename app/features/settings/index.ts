import { defineFeature } from '~/editor/feature'
import { useSetting } from './setting'

/** Everything that a person sets once, on one page. */
export const settings = defineFeature({
  name: 'Settings',
  commands: () => [{ name: 'Settings …', key: 'Ctrl+,', run: useSetting().open }],
})
