import { defineFeature } from '~/editor/feature'
import KeysSheet from './KeysSheet.vue'
import { useSettingKeys } from './setting-keys'

/** Which keys do what: shown, and set. */
export const keys = defineFeature({
  name: 'Keys',
  dialogs: [KeysSheet],
  commands: () => {
    const setting = useSettingKeys()
    return [{ name: 'Keys …', key: 'Ctrl+k', run: setting.open }]
  },
})
