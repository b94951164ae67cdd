import { watchDebounced } from '@vueuse/core'
import { api } from '~/api/client'
import { orNothing } from '~/errors/or-nothing'
import { useStageSession } from '~/editor/stage-session'
import { useLevel } from '~/editor/level'

const WIDTH = 640
const HEIGHT = 400

/** Takes the level's picture for the list of levels, a while after changes have been saved. */
export function useLevelPicture(): void {
  const level = useLevel()
  const session = useStageSession()
  let pictured = 0

  watchDebounced(
    () => level.saving,
    async state => {
      if (
        state.kind !== 'saved'
        || state.revision === pictured
        || level.undoSteps.length + level.redoSteps.length === 0
      )
        return
      const { stage } = session
      const { summary } = level
      if (!stage || !summary || session.readout) return
      pictured = state.revision
      // A missing picture is no loss to the person; the next change takes another one.
      await stage
        .picture(WIDTH, HEIGHT)
        .then(picture => picture && api.savePicture(summary.id, picture, state.revision))
        .catch(orNothing)
    },
    { debounce: 1500 },
  )
}
