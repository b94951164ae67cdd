import { watchDebounced } from '@vueuse/core'
import { api } from '~/api/client'
import { orNothing } from '~/errors/or-nothing'
import { useAuth } from '~/editor/auth'
import { useStageSession } from '~/editor/stage-session'
import { useLevel } from '~/editor/level'

const WIDTH = 640
const HEIGHT = 400

/**
 * Takes the level's picture for the list of levels, a while after changes have been saved, and where there is none of
 * the level as it is.
 */
export function useLevelPicture(): void {
  const level = useLevel()
  const session = useStageSession()
  const auth = useAuth()
  /** Of the last picture that was taken here. */
  let pictured: number | null = null
  const revisionPictured = () => (level.summary?.hasPicture ? level.summary.pictureRevision : null)

  watchDebounced(
    () => level.saving,
    async state => {
      if (
        state.kind !== 'saved'
        || level.view.size === 0
        || auth.mayOnlyRead
        || state.revision === (pictured ?? revisionPictured())
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
