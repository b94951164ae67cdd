import { defineFeature } from '~/editor/feature'
import KeysSheet from './KeysSheet.vue'
import PointingSheet from './PointingSheet.vue'
import { useSettingKeys } from './setting-keys'

/** What keys, buttons and the wheel do: shown, and set. */
export const keys = defineFeature({
  name: 'Keys',
  dialogs: [KeysSheet, PointingSheet],
  commands: () => {
    const setting = useSettingKeys()
    return [
      { name: 'Keys …', key: 'Ctrl+k', run: setting.open },
      { name: 'Pointing device …', run: () => (setting.isPointingOpen = true) },
    ]
  },
})
