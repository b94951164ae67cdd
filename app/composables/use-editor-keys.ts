import { useEventListener } from '@vueuse/core'
import { useActions } from '~/composables/use-actions'
import { useStageSession } from '~/stores/stage-session'
import { keyName } from '~/tools/key-name'

const FIELDS = 'input:not([type="checkbox"]), textarea, select, [contenteditable]'
/** Other ways to write a key of the list. */
const ALSO: Record<string, string> = { 'Ctrl+y': 'Ctrl+Shift+z', 'Backspace': 'Delete' }

/** The editor's keys. While something is typed into a field they are left to the field; a running drag hears them first. */
export function useEditorKeys(): void {
  const session = useStageSession()
  const { actions } = useActions()
  const byKey = new Map(actions.filter(action => action.key).map(action => [action.key!, action]))

  useEventListener(window, 'keydown', (event) => {
    const target = event.target as HTMLElement
    if (target.matches(FIELDS) || target.closest('[role=dialog], .v-overlay-container')) return
    // Esc closes an open menu and does nothing else.
    if (event.key === 'Escape' && document.querySelector('.v-menu.v-overlay--active')) return
    const press = { code: event.code, key: event.key, shift: event.shiftKey }
    if (session.input?.key({ ...press, down: true }, event.ctrlKey || event.metaKey)) {
      event.preventDefault()
      return
    }
    const name = keyName(event)
    const action = byKey.get(ALSO[name] ?? name)
    if (!action || action.can?.() === false) return
    event.preventDefault()
    action.run()
  })
  useEventListener(window, 'keyup', (event) => {
    session.input?.key({ code: event.code, key: event.key, shift: event.shiftKey, down: false }, event.ctrlKey || event.metaKey)
  })
}
