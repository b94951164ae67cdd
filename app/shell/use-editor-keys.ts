import { useEventListener } from '@vueuse/core'
import { useCommands } from '~/editor/commands'
import { useClipboard } from '~/editor/clipboard'
import { useStageSession } from '~/editor/stage-session'
import { keyName } from '~/editor/tools/key-name'

const FIELDS = 'input:not([type="checkbox"]), textarea, select, [contenteditable]'
/** Other ways to write a key of the list. */
const ALSO: Record<string, string> = { 'Ctrl+y': 'Ctrl+Shift+z', 'Backspace': 'Delete' }

/** Whether a key or the clipboard is meant for a field, a dialog or a menu; one that is fading has been answered. */
function isElsewhere({ target }: Event): boolean {
  if (!(target instanceof Element)) return false
  if (target.matches(FIELDS)) return true
  const overlay = target.closest('.v-overlay')
  return overlay ? overlay.matches('.v-overlay--active') : target.closest('[role=dialog]') !== null
}

/**
 * The editor's keys. While something is typed into a field they are left to the field; a running drag hears them first.
 */
export function useEditorKeys(): void {
  const session = useStageSession()
  const clipboard = useClipboard()
  const commands = useCommands()

  // With the middle button some systems paste what was marked last, where a pan ends; only keys and menus are to.
  let byMiddle = false
  useEventListener(
    window,
    ['mousedown', 'pointerdown'],
    event => {
      byMiddle = event.button === 1
      if (byMiddle && !isElsewhere(event)) event.preventDefault()
    },
    { capture: true },
  )
  useEventListener(
    window,
    ['mouseup', 'auxclick'],
    event => {
      if (event.button === 1 && !isElsewhere(event)) event.preventDefault()
    },
    { capture: true },
  )
  useEventListener(window, 'keydown', event => {
    byMiddle = false
    if (isElsewhere(event)) return
    // Esc closes an open menu and does nothing else.
    if (event.key === 'Escape' && document.querySelector('.v-menu.v-overlay--active')) return
    // While a number is typed keys mean that, wherever the focus has gone.
    if (session.typed) {
      if (event.key === 'Escape') session.typed.cancel()
      if (event.key === 'Enter') session.typed.commit()
      return
    }
    const press = { code: event.code, key: event.key, shift: event.shiftKey }
    if (session.input?.key({ ...press, down: true }, event.ctrlKey || event.metaKey)) {
      event.preventDefault()
      return
    }
    const name = keyName(event)
    const command = commands.forKey(ALSO[name] ?? name)
    if (!command) return
    event.preventDefault()
    command.run()
  })
  useEventListener(document, ['copy', 'cut'], event => {
    // Text that somebody has marked is what is meant.
    if (isElsewhere(event) || document.getSelection()?.isCollapsed === false) return
    const text = clipboard.textOfPicked()
    if (text === null) return
    event.clipboardData?.setData('text/plain', text)
    event.preventDefault()
    if (event.type === 'cut') clipboard.removeCut()
  })
  useEventListener(document, 'paste', event => {
    if (isElsewhere(event)) return
    event.preventDefault()
    if (byMiddle) return
    clipboard.pasteText(event.clipboardData?.getData('text/plain') ?? '', 'pointer')
  })
  useEventListener(window, 'keyup', event => {
    session.input?.key(
      { code: event.code, key: event.key, shift: event.shiftKey, down: false },
      event.ctrlKey || event.metaKey,
    )
  })
}
