import { defineStore } from 'pinia'
import { shallowRef } from 'vue'
import type { Handle } from '~~/core/edit/handles/handle'
import type { ScreenPoint } from '~~/core/math/screen'
import type { WrittenAxes } from '~~/core/units/height'
import { KINDS } from '~~/core/level/kinds'
import { useCommands } from '~/editor/commands'
import { useKeys } from '~/editor/keys/keys'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useStageSession } from '~/editor/stage-session'
import { useHandbook } from './handbook'
import { PAGE_OF_BENCH, PLACES } from './places'

/** What is said of what the pointer is at. */
export type Answer = { at: ScreenPoint; name: string; says: string; keys: string; page: string }

/** What people press, choose or fill in. */
const CONTROLS =
  'button, a, input, [role=button], [role=menuitem], [role=menuitemradio], [role=checkbox], [role=radio], [role=option], [role=treeitem], [role=combobox]'
/** Letters of a control's own text that make a name. */
const LONGEST = 60

/** Says what the pointer is at: a control, a part of the page, or something on the stage. */
export const useWhatIsThis = defineStore('what-is-this', () => {
  const session = useStageSession()
  const commands = useCommands()
  const keys = useKeys()
  const level = useLevel()
  const kit = useKit()
  const settings = useSettings()
  const handbook = useHandbook()
  const answer = shallowRef<Answer | null>(null)
  let pointer: ScreenPoint = { x: 0, y: 0 }

  /** Follows the pointer. @param at pixels of the page */
  function follow(at: ScreenPoint): void {
    pointer = at
  }

  /** Says what it is, or nothing any more. */
  async function ask(): Promise<void> {
    if (answer.value) return end()
    await handbook.load()
    const at = pointer
    const element = document.elementFromPoint(at.x, at.y)
    const canvas = session.input?.canvas
    const found = canvas && element === canvas ? onStage(canvas, at) : element && onPage(element, at)
    answer.value = { at, keys: '', ...(found ?? NOWHERE) }
  }

  /** Says what the panel is that a question mark stands in. */
  async function askAbout(mark: Element): Promise<void> {
    await handbook.load()
    const { left, bottom } = mark.getBoundingClientRect()
    answer.value = { at: { x: left, y: bottom }, keys: '', ...(panelAt(mark) ?? NOWHERE) }
  }

  function end(): void {
    answer.value = null
  }

  /** A form by what it is called and what its page is about; another part of the page as it is called. */
  function panelAt(element: Element): Said | null {
    const place = PLACES.find(place => element.closest(place.at))
    const form = element.closest<HTMLElement>('[data-page]') ?? element.closest<HTMLElement>('.bench-form')
    if (!form || (place && place.at !== '.bench')) return place ?? null
    const page = form.dataset.page ?? PAGE_OF_BENCH[settings.kept.bench]
    return { name: form.querySelector('h2')?.textContent ?? '', says: handbook.content?.leadOf(page) ?? '', page }
  }

  /** A control by its name, with the keys of the action that is called so; else the part of the page that it is in. */
  function onPage(element: Element, at: ScreenPoint): Said | null {
    const panel = panelAt(element)
    const control = element.closest(CONTROLS) ?? disabledAt(element, at)
    const name = control && nameOf(control)
    if (!name || control.matches('.ask-mark')) return panel
    const command = commands.all.find(each => each.name === name)
    const means = control.matches('input') ? handbook.content?.meaningOf(name) : undefined
    const says = means ? `${means[0]!.toUpperCase()}${means.slice(1)}.` : (control.getAttribute('title') ?? '')
    return {
      name,
      keys: (command && keys.labelOf(command.name)) ?? '',
      says: [says === name ? '' : says, panel && !means ? `${panel.name}: ${panel.says}` : '']
        .filter(Boolean)
        .join(' '),
      page:
        (command && handbook.content?.pageOfAction(command.name)) ?? (means ? 'numbers' : (panel?.page ?? 'README')),
    }
  }

  /** Of the stage: a handle, a number, a link or point to take hold of, a thing, or the ground. */
  function onStage(canvas: HTMLCanvasElement, onPagePoint: ScreenPoint): Said | null {
    const { stage } = session
    if (!stage) return null
    const rect = canvas.getBoundingClientRect()
    const at = { x: onPagePoint.x - rect.x, y: onPagePoint.y - rect.y }
    const view = stage.viewAt(at)
    const handle = stage.handles.hit(at, view)
    if (handle) return sayHandle(handle, settings.axes)
    if (stage.numberAt(at, view)) return NUMBER
    if (stage.graspAt(at, view) !== null) return GRASP
    const hit = level.index.raycast(view.rayAt(at))
    if (!hit) return GROUND
    const id = hit.copy ?? hit.id
    const { name, kind, partId } = level.view.need(id)
    const part = partId === null ? undefined : kit.part(partId)?.name
    const isCopy = hit.copy !== undefined && hit.copy !== null
    return {
      name,
      says: isCopy
        ? 'A copy that an arrangement makes: a click picks the arrangement, one more the copy alone.'
        : `${KINDS[kind].isMark ? 'It has no shape of its own; what is drawn stands for it.' : `A ${part ? `placement of the part ${part}` : kind}.`} A click picks it; M, T and S show its handles.`,
      page: isCopy ? 'repeating' : 'picking',
    }
  }

  return { answer, follow, ask, askAbout, end }
})

type Said = Pick<Answer, 'name' | 'says' | 'page'> & { keys?: string }

const NOWHERE: Said = {
  name: 'Handy Grid',
  says: 'Point at anything and press ? again: a control, a handle, a mark, a number, a thing.',
  page: 'README',
}
const NUMBER: Said = {
  name: 'A measured number',
  says: 'A click types another: what is at its end moves, or it says why that cannot be.',
  page: 'measuring',
}
const GRASP: Said = {
  name: 'Something to take hold of',
  says: 'A link to what holds a thing, the end of a measure, a corner of an area: drag or click it.',
  page: 'keeping',
}
const GROUND: Said = {
  name: 'The stage',
  says: 'Alt and drag orbits, the middle button pans, the wheel zooms at the pointer. A click on nothing lets go.',
  page: 'looking-around',
}

/** What a handle does. */
function sayHandle(handle: Handle, axes: WrittenAxes): Said {
  const page = handle.do === 'move' ? 'moving' : handle.do === 'grip' ? 'repeating' : 'turning-and-pivots'
  if (handle.do === 'move') {
    if (handle.kind === 'axis')
      return {
        name: `Peg of ${axes.letter(handle.axis)}`,
        says: 'Drags along this axis alone; the equals key types the way.',
        page,
      }
    if (handle.kind === 'plane')
      return { name: 'Quarter-disc', says: 'Drags in the plane of its two axes, out of the third.', page }
    return { name: 'Square in the middle', says: 'Drags in the plane of the screen.', page }
  }
  if (handle.do === 'turn')
    return {
      name: `Dial of ${axes.letter(handle.axis)}`,
      says: 'Turns about this axis, in turn steps; Ctrl does without them.',
      page,
    }
  if (handle.do === 'size')
    return {
      name: 'Size grip',
      says: 'On a face it moves that face alone, on a corner it sizes evenly; Shift sizes around the pivot.',
      page,
    }
  if (handle.do === 'pivot')
    return { name: 'Place for the pivot', says: 'A click puts the pivot there; the thing stays.', page }
  return {
    name: 'Grip of a rule',
    says: 'Drag it, and the numbers of the arrangement follow: count, spacing, radius, points.',
    page,
  }
}

/** A control that cannot be used now lets the pointer through to what it is in. */
const disabledAt = (element: Element, { x, y }: ScreenPoint): Element | null =>
  [...element.querySelectorAll(':disabled')].find(control => {
    const { left, right, top, bottom } = control.getBoundingClientRect()
    return x >= left && x <= right && y >= top && y <= bottom
  }) ?? null

/** What a control is called, as assistive technology would say it. */
function nameOf(control: Element): string {
  const said = control.getAttribute('aria-label') ?? control.textContent ?? ''
  const own = said.replace(/\s+/g, ' ').trim() || (control.getAttribute('title') ?? '')
  return own.length > LONGEST ? `${own.slice(0, LONGEST)} …` : own
}
