import { tinykeys } from 'tinykeys'
import { onBeforeUnmount, onMounted } from 'vue'
import { removeWithChildren } from '~~/core/level/edit'
import { useEditor } from '~/stores/editor'
import { useLevel } from '~/stores/level'
import { useSettings } from '~/stores/settings'

/** The editor's keys. While something is typed into a field they are left to the field. */
export function useEditorKeys(): void {
  const level = useLevel()
  const editor = useEditor()
  const settings = useSettings()
  const calm = (run: () => void) => (event: KeyboardEvent) => {
    const target = event.target as HTMLElement
    if (target.matches('input:not([type="checkbox"]), textarea, select, [contenteditable]')) return
    event.preventDefault()
    run()
  }
  const bindings = {
    'Escape': calm(() => editor.escape()),
    'm': calm(() => {
      editor.handleChoice = 'move'
    }),
    'l': calm(() => editor.lookAtSelection()),
    'Shift+L': calm(() => editor.lookAtAll()),
    '[': calm(() => {
      settings.kept.gridStep /= 2
    }),
    ']': calm(() => {
      settings.kept.gridStep *= 2
    }),
    'Delete': calm(() => removePicked()),
    'Control+z': calm(() => level.undo()),
    'Meta+z': calm(() => level.undo()),
    'Control+Shift+Z': calm(() => level.redo()),
    'Meta+Shift+Z': calm(() => level.redo()),
    'Control+y': calm(() => level.redo()),
    'Control+a': calm(() => level.pick([...level.document.placements()].filter(({ parentId, kind }) => parentId === null || kind === 'part').map(({ id }) => id))),
  }

  function removePicked(): void {
    const { ids } = level.selection
    if (ids.size === 0) return
    const what = ids.size === 1 ? level.document.need([...ids][0]!).name : `${ids.size} things`
    level.change(`Remove ${what}`.slice(0, 200), removeWithChildren(level.document, ids))
  }

  let stop = () => {}
  onMounted(() => {
    stop = tinykeys(window, bindings)
  })
  onBeforeUnmount(() => stop())
}
