import { watchEffect } from 'vue'
import { useTheme } from 'vuetify'
import { useSettings } from '~/editor/settings'

/** Dresses the page as somebody likes to see it: its board, its contrast, the size of its text, what moves. */
export function useLook(): void {
  const settings = useSettings()
  const theme = useTheme()
  watchEffect(() => {
    theme.change(settings.boardName)
    const { style, dataset } = document.documentElement
    style.setProperty('--scale', String(settings.kept.textSize / 100))
    dataset.hand = settings.byFinger ? 'finger' : 'pointer'
    dataset.motion = settings.movesLess ? 'less' : 'all'
  })
}
