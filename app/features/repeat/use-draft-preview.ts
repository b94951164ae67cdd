import { computed, onBeforeUnmount, watch } from 'vue'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { useHandling } from '~/editor/handling'
import { useMirroring } from './mirroring'
import { useRepeating } from './repeating'

/** Shows on the stage what the arrangement in the bench would make of what is picked, until it is made. */
export function useDraftPreview(): void {
  const session = useStageSession()
  const tools = useTools()
  const showPreview = tools.claimPreview()
  const handling = useHandling()
  const repeating = useRepeating()
  const mirroring = useMirroring()

  const operations = computed(() => {
    const { task, acts } = repeating
    if (task === 'once' || acts === 'live' || session.mode !== null || handling.lead() === null) return null
    if (task === 'mirror') return mirroring.preview()
    if (acts === 'turn') return repeating.turned(repeating.drafts[task].rule)
    // A path is shown while it is drawn.
    return task === 'path' ? null : repeating.preview(repeating.drafts[task])
  })
  watch(
    operations,
    (next, before) => {
      if (next || before) showPreview(next)
    },
    { immediate: true },
  )
  onBeforeUnmount(() => showPreview(null))
}
