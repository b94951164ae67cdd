import { computed, onBeforeUnmount, watch } from 'vue'
import { useEditor } from '~/stores/editor'
import { useHandling } from '~/stores/handling'
import { useLevel } from '~/stores/level'
import { useRepeating } from '~/stores/repeating'

/** Shows on the stage what the arrangement in the bench would make of what is picked, until it is made. */
export function useDraftPreview(): void {
  const level = useLevel()
  const editor = useEditor()
  const handling = useHandling()
  const repeating = useRepeating()

  const operations = computed(() => {
    void level.version
    const { task } = repeating
    // A path is shown while it is drawn; a mirror has a form of its own.
    if (task === 'once' || task === 'path' || task === 'mirror' || repeating.current !== null || editor.mode !== null || handling.lead() === null) return null
    return repeating.preview(repeating.drafts[task])
  })
  watch(operations, (next, before) => {
    if (next || before) editor.preview(next)
  }, { immediate: true })
  onBeforeUnmount(() => editor.preview(null))
}
