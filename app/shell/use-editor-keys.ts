import { useEventListener } from '@vueuse/core'
import { useCommands } from '~/editor/commands'
import { useClipboard } from '~/editor/clipboard'
import { useStageSession } from '~/editor/stage-session'
import { useKeys } from '~/editor/keys/keys'
import type { StageUse } from '~/editor/keys/stage-uses'

const FIELDS = 'input:not([type="checkbox"]), textarea, select, [contenteditable]'
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
  const keys = useKeys()
  /** What keys that are held meant when they were pressed, by their places: modifiers may have changed since. */
  const held = new Map<string, (use: StageUse) => boolean>()

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
    const press = keys.pressOf(event)
    held.set(event.code, press.is)
    if (session.input?.key({ ...press, down: true }, event.ctrlKey || event.metaKey)) {
      event.preventDefault()
      return
    }
    const command = commands.forEvent(event)
    if (!command || (session.input?.mode?.hearsAll && !command.ends)) return
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
    const is = held.get(event.code) ?? (() => false)
    held.delete(event.code)
    session.input?.key({ is, isOnPage: () => false, down: false }, event.ctrlKey || event.metaKey)
  })
}
