import { computed, onBeforeUnmount, watch } from 'vue'
import { useStageSession } from '~/stores/stage-session'
import { useTools } from '~/stores/tools'
import { useHandling } from '~/stores/handling'
import { useRepeating } from '~/stores/repeating'

/** Shows on the stage what the arrangement in the bench would make of what is picked, until it is made. */
export function useDraftPreview(): void {
  const session = useStageSession()
  const tools = useTools()
  const handling = useHandling()
  const repeating = useRepeating()

  const operations = computed(() => {
    const { task } = repeating
    // A path is shown while it is drawn; a mirror has a form of its own.
    if (task === 'once' || task === 'path' || task === 'mirror' || repeating.current !== null || session.mode !== null || handling.lead() === null) return null
    return repeating.preview(repeating.drafts[task])
  })
  watch(operations, (next, before) => {
    if (next || before) tools.preview(next)
  }, { immediate: true })
  onBeforeUnmount(() => tools.preview(null))
}
