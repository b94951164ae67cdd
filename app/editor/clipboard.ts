import { defineStore } from 'pinia'
import { v7 } from 'uuid'
import { findLanding } from '~~/core/edit/snap/landing'
import { pasteThings } from '~~/core/edit/things'
import { readThings, writeThings } from '~~/core/formats/things-text'
import { removeWithChildren } from '~~/core/level/edit'
import { useEdits } from './edits'
import { useKit } from './kit'
import { useLevel } from './level'
import { useSettings } from './settings'
import { useStageSession } from './stage-session'

/** Things as text in the system's clipboard: from one level, window or machine to another. */
export const useClipboard = defineStore('clipboard', () => {
  const level = useLevel()
  const kit = useKit()
  const edits = useEdits()
  const settings = useSettings()
  const session = useStageSession()
  /** What this window copied last, for browsers that do not let pages read the clipboard. */
  let kept = ''

  /** The text of what is picked; null, with a notice if it is too much, where there is none. */
  function textOfPicked(): string | null {
    const ids = edits.picked()
    if (ids.length === 0) return null
    const box = level.index.extents.boundsOf(ids.flatMap(id => level.view.subtree(id)))
    try {
      kept = writeThings(level.view, ids, box.isEmpty() ? null : box.min.y, id => kit.part(id)?.name ?? 'a part', v7)
      return kept
    } catch (error) {
      if (!(error instanceof RangeError)) throw error
      level.notify('This is too much for the clipboard', [error.message])
      return null
    }
  }

  /** Takes what is picked away, once its text is kept. */
  function removeCut(): void {
    const ids = edits.picked()
    level.change(edits.label('Cut', ids), removeWithChildren(level.view, ids))
  }

  /** Puts things of a text onto the surface under the pointer, or exactly where they were. */
  function pasteText(text: string, where: 'pointer' | 'same'): void {
    const things = readThings(text)
    if (!things) return level.notify('Nothing to paste', ['What is in the clipboard are no things copied here.'])
    const at = where === 'same' ? null : placeUnderPointer()
    if (at === undefined)
      return level.notify('Nowhere to paste', [
        'There is no surface under the pointer. Point at one, or paste exactly where the things were with Ctrl+Shift+V.',
      ])
    const { operations, tops, missing, copied } = pasteThings(
      level.view,
      things,
      at,
      id => kit.part(id) !== undefined,
      v7,
    )
    if (
      !level.change(
        tops.length === 1 ? `Paste ${things.placements[0]!.name}` : `Paste ${tops.length} things`,
        operations,
        undefined,
        copied,
      )
    )
      return
    level.pick(tops)
    if (missing.length > 0)
      level.notify('Not all of it is known here', [
        `${missing.slice(0, 5).join(', ')}${missing.length > 5 ? ` and ${missing.length - 5} more` : ''}: not in this kit. Groups stand in their places, with what hung below them.`,
      ])
  }

  /** Undefined where there is no surface. */
  function placeUnderPointer() {
    const { stage, input } = session
    if (!stage || !input) return undefined
    const pointer = input.pointerOrMiddle()
    return findLanding(
      level.index,
      stage.viewAt(pointer).rayAt(pointer),
      settings.stepInForce('grid', pointer.ctrl).size,
    )?.point
  }

  /** The same by name or menu, for which the browser has no event. */
  async function copyPicked(): Promise<boolean> {
    const text = textOfPicked()
    // Where pages may not write to the clipboard, the window keeps the text.
    if (text !== null) await navigator.clipboard?.writeText(text).catch(() => {})
    return text !== null
  }

  async function cutPicked(): Promise<void> {
    if (await copyPicked()) removeCut()
  }

  async function paste(where: 'pointer' | 'same'): Promise<void> {
    pasteText((await navigator.clipboard?.readText().catch(() => kept)) ?? kept, where)
  }

  return { textOfPicked, removeCut, pasteText, copyPicked, cutPicked, paste }
})
