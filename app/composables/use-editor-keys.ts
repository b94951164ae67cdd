import { useEventListener } from '@vueuse/core'
import { removeWithChildren } from '~~/core/level/edit'
import { useEditor } from '~/stores/editor'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'
import { keyName } from '~/tools/key-name'

const FIELDS = 'input:not([type="checkbox"]), textarea, select, [contenteditable]'

/** The editor's keys. While something is typed into a field they are left to the field. */
export function useEditorKeys(): void {
  const level = useLevel()
  const editor = useEditor()
  const settings = useSettings()

  const actions: Record<string, () => void> = {
    'Escape': () => editor.escape(),
    'm': () => {
      editor.handleChoice = 'move'
    },
    'l': () => editor.lookAtSelection(),
    'Shift+l': () => editor.lookAtAll(),
    '[': () => {
      settings.kept.gridStep /= 2
    },
    ']': () => {
      settings.kept.gridStep *= 2
    },
    'Delete': removePicked,
    'Ctrl+z': () => level.undo(),
    'Ctrl+Shift+z': () => level.redo(),
    'Ctrl+y': () => level.redo(),
    'Ctrl+a': () => level.pick([...level.document.placements()].filter(({ kind }) => kind === 'part').map(({ id }) => id)),
  }

  function removePicked(): void {
    const { ids } = level.selection
    if (ids.size === 0) return
    const what = ids.size === 1 ? level.document.need([...ids][0]!).name : `${ids.size} things`
    level.change(`Remove ${what}`.slice(0, 200), removeWithChildren(level.document, ids))
  }

  useEventListener(window, 'keydown', (event) => {
    const action = actions[keyName(event)]
    if (!action || (event.target as HTMLElement).matches(FIELDS)) return
    event.preventDefault()
    action()
  })
}
