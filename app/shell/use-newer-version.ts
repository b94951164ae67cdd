import { useRuntimeConfig } from '#imports'
import { ref, watch } from 'vue'
import { z } from 'zod'
import { useLevel } from '~/editor/level'
import { reportError } from '~/errors/page-errors'

/** What Nuxt writes beside the application: by which build it was made. */
const latestSchema = z.object({ id: z.string() })

/** Whether the server has another version than this page; false as long as that is not known. */
async function isOutdated(): Promise<boolean> {
  const { baseURL, buildAssetsDir, buildId } = useRuntimeConfig().app
  const address = `${baseURL}${buildAssetsDir}builds/latest.json`.replaceAll('//', '/')
  // That the server is away is said where it is saved.
  const answer = await fetch(address, { cache: 'no-store' }).catch(() => null)
  return answer?.ok === true && latestSchema.parse(await answer.json()).id !== buildId
}

/**
 * Tells once that the server has a newer version, when it is heard again after it was away. Reloading waits for what is
 * being saved; what cannot be is kept on the device and goes out after that.
 */
export function useNewerVersion(): void {
  const level = useLevel()
  const isOld = ref(false)
  level.onHeard(async heard => {
    if ('you' in heard && (await isOutdated())) isOld.value = true
  })
  // A newer server may say what an older page does not know.
  level.onStrange(async () => {
    if (await isOutdated()) isOld.value = true
    else reportError(new Error('What the server tells of the level makes no sense'), 'event')
  })
  const reload = async () => {
    await level.settled()
    location.reload()
  }
  const stop = watch([isOld, () => level.notice], ([old, notice]) => {
    if (!old || (notice && !notice.isMild)) return
    stop()
    level.notify(
      'There is a newer version',
      ['This page is older than the server, and may not show or do all that others see. Nothing of yours is lost.'],
      { label: 'Reload', run: () => void reload() },
    )
  })
}
