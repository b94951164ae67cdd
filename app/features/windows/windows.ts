import { useBroadcastChannel, useIntervalFn } from '@vueuse/core'
import isEqual from 'fast-deep-equal'
import { defineStore } from 'pinia'
import { Vector3 } from 'three'
import { v4 } from 'uuid'
import { onMounted, ref, watch } from 'vue'
import type { Vec3 } from '~~/core/math/vectors'
import { useHandling } from '~/editor/handling'
import { useLevel } from '~/editor/level'
import { useOwnWindows } from '~/editor/own-windows'
import { useSettings } from '~/editor/settings'
import { useStageSession } from '~/editor/stage-session'
import type { WindowMessage, WindowPart } from './window-messages'
import { WINDOW_PARTS, windowMessageSchema } from './window-messages'

type Picked = Extract<WindowMessage, { picked: string[] }>

/** Milliseconds between two looks at where the stage is looked at from. */
const LOOKS = 120
/** Pixels of a second window as it opens. */
const FIRST_SIZE = { stage: 'width=1280,height=800', lists: 'width=560,height=800' }

/**
 * Several windows of one person on one level, for two screens: what is picked in one is picked in the other, so are the
 * handles, and the view if that is wanted. Each saves its own changes, as windows of several people do.
 */
export const useWindows = defineStore('windows', () => {
  const level = useLevel()
  const handling = useHandling()
  const settings = useSettings()
  const session = useStageSession()
  const own = useOwnWindows()
  const part = ref<WindowPart>('all')
  /** What those that belong together have in common. */
  let pair: string = v4()
  let post: (message: WindowMessage) => void = () => {}
  /** Whether another one is there. */
  const isShared = ref(false)

  /** What was told or heard last, which is not said again. */
  let picked: WindowMessage | null = null
  let view: WindowMessage | null = null
  /** What is picked elsewhere and not here yet. */
  let coming: Picked | null = null

  const pickedNow = () => ({ picked: [...level.selection.ids], last: level.selection.last })

  function tellPicked(): void {
    const now = pickedNow()
    if (isEqual(now, picked)) return
    picked = now
    coming = null
    post(now)
  }

  /** Picks what another window has picked, as far as it is here by now. */
  function follow(message: Picked): void {
    const here = message.picked.filter(id => level.view.has(id))
    coming = here.length < message.picked.length ? message : null
    // The last is picked last.
    level.pick([...here.filter(id => id !== message.last), ...here.filter(id => id === message.last)])
    picked = pickedNow()
  }

  function hear(message: WindowMessage): void {
    isShared.value = true
    if ('hello' in message) {
      post(pickedNow())
      post({ handles: handling.choice })
      tellSelf()
      view = null
    } else if ('picked' in message) follow(message)
    else if ('handles' in message) handling.choice = message.handles
    else if ('self' in message) own.add(message.self)
    else if (settings.kept.sharesView && session.stage) {
      view = message
      session.stage.view.lookFrom(new Vector3(...message.eye), new Vector3(...message.target))
      session.stage.requestDraw()
    }
  }

  function tellSelf(): void {
    if (own.self !== null) post({ self: own.self })
  }

  function tellView(): void {
    const of = session.stage?.view
    if (!isShared.value || !settings.kept.sharesView || of?.kind !== 'walkaround') return
    const now = { eye: of.eye.toArray() as Vec3, target: of.target.toArray() as Vec3 }
    if (isEqual(now, view)) return
    view = now
    post(now)
  }

  /**
   * Takes part, for as long as the level is open.
   *
   * @param query of the address, which says of a second window what it shows, and with which it belongs together
   */
  function begin(query: Readonly<Record<string, unknown>>): void {
    part.value = WINDOW_PARTS.find(each => each === query.window) ?? 'all'
    if (typeof query.with === 'string' && /^[\w-]{1,40}$/.test(query.with)) pair = query.with
    const channel = useBroadcastChannel<unknown, WindowMessage>({ name: `handy-grid.windows.${pair}` })
    const { data } = channel
    post = channel.post
    watch(data, given => {
      const read = windowMessageSchema.safeParse(given)
      if (read.success) hear(read.data)
    })
    watch(() => level.selection, tellPicked)
    watch(
      () => handling.choice,
      handles => post({ handles }),
    )
    level.onTouched(() => coming && follow(coming))
    watch(() => own.self, tellSelf)
    useIntervalFn(tellView, LOOKS)
    // The channel is there once the page is.
    onMounted(() => {
      if (part.value !== 'all') post({ hello: true })
    })
  }

  /** Opens one beside this. */
  function open(shows: 'stage' | 'lists'): void {
    if (!level.summary) return
    const address = `/levels/${level.summary.id}?${new URLSearchParams({ window: shows, with: pair })}`
    if (window.open(address, `handy-grid-${shows}-${pair}`, `popup,${FIRST_SIZE[shows]}`)) return
    level.notify('The second window did not open', [
      'Your browser keeps pages from opening windows. Allow it for this address, and try again.',
    ])
  }

  return {
    part,
    isShared,
    begin,
    open,
  }
})
