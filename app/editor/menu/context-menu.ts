import { defineStore } from 'pinia'
import { Vector3 } from 'three'
import { computed, ref, shallowRef } from 'vue'
import { copyOf } from '~~/core/scene/copy-id'
import { clickTarget } from '~~/core/level/tree'
import type { ScreenPoint } from '~~/core/math/screen'
import type { Command, CommandGroup } from '../commands'
import { useCommands } from '../commands'
import { useLevel } from '../level'
import { useSettings } from '../settings'
import { FAVOURITE_ACTIONS, LAST_ACTIONS } from '../settings-schema'
import { useStageSession } from '../stage-session'
import type { PointerAt } from '../tools/gesture'
import type { ThingAt } from '../tools/pick-tool'
import type { MenuPlace } from './menu-places'
import { MENU_PLACES } from './menu-places'

/** Something that a menu offers which belongs to that one card or row alone. */
export type MenuDeed = {
  title: string
  end?: string
  disabled?: boolean
  /** One of several to choose, which is chosen or not. */
  checked?: boolean
  run: () => unknown
}

/** A menu that is open. */
export type MenuShown = {
  place: MenuPlace
  /** Pixels, in the page. */
  at: [number, number]
  label: string
  /** On the stage: everything under the pointer, the nearest first. */
  things: readonly ThingAt[] | null
  deeds: readonly MenuDeed[]
}

/** A part of a menu, with what stands over it. */
export type MenuSection = { title: string; commands: readonly Command[] }

/** The one menu for whatever the pointer, a finger or the keyboard asks about. */
export const useContextMenu = defineStore('context-menu', () => {
  const commands = useCommands()
  const level = useLevel()
  const session = useStageSession()
  const { kept } = useSettings()
  const shown = shallowRef<MenuShown | null>(null)
  /** Of everything that can be done: whether it is shown, and the group that is open. */
  const isAllOpen = ref(false)
  const openGroup = ref<string | null>(null)

  function open(menu: MenuShown): void {
    isAllOpen.value = false
    openGroup.value = null
    shown.value = menu
  }

  const close = () => void (shown.value = null)

  /** At a point of the stage. Where nothing is picked yet, what a click would pick there is. */
  function openOnStage(at: PointerAt, things: readonly ThingAt[]): void {
    const { stage } = session
    if (!stage) return
    if (stage.handles.hit(at, stage.viewAt(at))) return openAt(at, 'handle', things)
    const first = things[0]?.id
    if (first === undefined) return openAt(at, 'ground', things)
    const { ids } = level.selection
    const meant = clickTarget(level.view, first, ids)
    if (ids.size === 0) level.pick([meant])
    // What is picked is meant where it is pointed at; anything else is ground.
    openAt(at, ids.size === 0 || ids.has(first) || ids.has(meant) ? placeOfPicked() : 'ground', things)
  }

  function openAt(at: ScreenPoint, place: MenuPlace, things: readonly ThingAt[] | null): void {
    const box = session.input?.canvas.getBoundingClientRect()
    const where: [number, number] = [at.x + (box?.left ?? 0), at.y + (box?.top ?? 0)]
    open({ place, at: where, label: things ? 'Under the pointer' : 'For what is picked', things, deeds: [] })
  }

  const placeOfPicked = (): MenuPlace => (copyOf(level.selection.last ?? '') ? 'copy' : 'thing')

  /**
   * By key: of the row or card that has the focus, else of what is picked, where that is on the stage; else of what is
   * under the pointer.
   */
  function openByKey(): void {
    const focused = document.activeElement?.closest('[data-has-menu]')
    if (focused) {
      const { left, bottom } = focused.getBoundingClientRect()
      const asked = { bubbles: true, cancelable: true, clientX: left + 24, clientY: bottom - 4 }
      focused.dispatchEvent(new MouseEvent('contextmenu', asked))
      return
    }
    const { stage, input } = session
    if (!stage || !input) return
    const { ids } = level.selection
    const at = input.pointerOrMiddle()
    if (ids.size === 0) return openOnStage(at, input.picking.thingsAt(at))
    const box = level.index.extents.boundsOf([...ids].flatMap(id => level.view.subtree(id)))
    openAt((box.isEmpty() ? null : stage.view.project(box.getCenter(new Vector3()))) ?? at, placeOfPicked(), null)
  }

  const named = (names: readonly string[]) => names.flatMap(name => commands.find(name) ?? [])

  const sections = computed((): MenuSection[] => {
    if (!shown.value) return []
    const { place } = shown.value
    const possible = new Set(commands.possible())
    // What can be done is asked anew once something else is picked.
    const some = level.selection.ids.size > 0
    const offered = (on: MenuPlace) => [...possible].filter(command => command.on?.includes(on))
    const last = named(kept.lastActions).filter(
      command => possible.has(command) && !kept.favouriteActions.includes(command.name),
    )
    return [
      { title: 'Favourites', commands: named(kept.favouriteActions) },
      { title: 'Last used', commands: last },
      { title: MENU_PLACES[place], commands: offered(place) },
      ...(some && (place === 'ground' || place === 'handle')
        ? [{ title: MENU_PLACES.thing, commands: offered('thing') }]
        : []),
    ].filter(section => section.commands.length > 0)
  })

  /** Everything that can be done, by groups. */
  const groups = computed((): readonly CommandGroup[] => (isAllOpen.value ? commands.groups : []))

  /** Does what was chosen by its name, and remembers it among the last. */
  function choose(command: Command): void {
    close()
    kept.lastActions = [command.name, ...kept.lastActions.filter(name => name !== command.name)].slice(0, LAST_ACTIONS)
    command.run()
  }

  const isFavourite = (name: string) => kept.favouriteActions.includes(name)

  function toggleFavourite(name: string): void {
    if (isFavourite(name)) kept.favouriteActions = kept.favouriteActions.filter(each => each !== name)
    else if (kept.favouriteActions.length < FAVOURITE_ACTIONS) kept.favouriteActions = [...kept.favouriteActions, name]
    else level.notify(`There are ${FAVOURITE_ACTIONS} favourites; take one away first.`, [])
  }

  /** Puts a favourite where another is; those between make room. */
  function moveFavourite(name: string, to: string): void {
    const all = kept.favouriteActions
    const place = all.indexOf(to)
    if (!all.includes(name) || place === -1) return
    kept.favouriteActions = all.filter(each => each !== name).toSpliced(place, 0, name)
  }

  /** Puts a favourite up or down by so many of those that are shown. */
  function stepFavourite(name: string, by: -1 | 1): void {
    const known = named(kept.favouriteActions).map(command => command.name)
    const to = known[known.indexOf(name) + by]
    if (to !== undefined) moveFavourite(name, to)
  }

  return {
    shown,
    isAllOpen,
    openGroup,
    sections,
    groups,
    open,
    openOnStage,
    openByKey,
    close,
    choose,
    isFavourite,
    toggleFavourite,
    moveFavourite,
    stepFavourite,
  }
})
