import { CLICK_SLACK } from '~/editor/tools/pick-tool'
import type { StageInput } from '~/editor/tools/stage-input'

/** What dragging something out of a list onto the stage needs of the editor. */
export type DragOut = {
  input: () => StageInput | null
  /** Starts the tool that puts it down. */
  start: () => void
  stop: () => void
  /** A press that did not wander off. */
  click: () => void
  /** Let go over the roster: on one of its rows, by the id of that, or below them. */
  onRoster?: (id: string | null) => void
}

/**
 * Follows a press on an entry of a list: one that wanders off drags it onto the stage and puts it down where it is let
 * go; one that does not is a click.
 */
export function dragOut(event: PointerEvent, { input, start, stop, click, onRoster }: DragOut): void {
  const entry = event.currentTarget as HTMLElement
  const listeners = new AbortController()
  const options = { signal: listeners.signal }
  let dragging = false
  const finish = () => {
    listeners.abort()
    if (dragging) stop()
  }
  entry.setPointerCapture(event.pointerId)
  entry.addEventListener(
    'pointermove',
    moved => {
      if (!dragging && Math.hypot(moved.clientX - event.clientX, moved.clientY - event.clientY) > CLICK_SLACK) {
        dragging = true
        start()
      }
      const stage = dragging ? input() : null
      if (stage && isOver(stage, moved)) stage.mode?.hover(stage.pointerOf(moved))
      else stage?.mode?.leave()
    },
    options,
  )
  entry.addEventListener(
    'pointerup',
    released => {
      const stage = input()
      if (dragging && stage && isOver(stage, released)) stage.mode?.letGo?.(stage.pointerOf(released))
      const roster = dragging ? document.elementFromPoint(released.clientX, released.clientY)?.closest('.roster') : null
      if (roster)
        onRoster?.(
          document
            .elementFromPoint(released.clientX, released.clientY)
            ?.closest('[data-placement]')
            ?.getAttribute('data-placement') ?? null,
        )
      finish()
      if (!dragging) click()
    },
    options,
  )
  entry.addEventListener('pointercancel', finish, options)
  entry.addEventListener('pointerdown', other => other.button === 2 && finish(), options)
  window.addEventListener('keydown', key => key.key === 'Escape' && finish(), options)
}

const isOver = (stage: StageInput, event: PointerEvent) =>
  document.elementsFromPoint(event.clientX, event.clientY).includes(stage.canvas)
