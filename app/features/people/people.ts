import { useIntervalFn, useRafFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import { Vector3 } from 'three'
import { computed, ref, shallowRef, watch } from 'vue'
import type { Call, Dragged, Person, PersonUpdate, Presence } from '~~/core/api/people'
import { lettersOf, MARKS, SAID_EVERY, withUpdates } from '~~/core/api/people'
import { counted } from '~~/core/units/plural'
import { asName } from '~~/core/units/text'
import { useAuth } from '~/editor/auth'
import type { Heard, Notice } from '~/editor/level'
import { useLevel } from '~/editor/level'
import { useOwnWindows } from '~/editor/own-windows'
import { useReserved } from '~/editor/reserved'
import { useSettings } from '~/editor/settings'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { boards } from '~/stage/board'
import { DraggedByOthers, STAYS } from './dragged-by-others'
import type { OthersMark } from './others-marks'
import { OthersMarks } from './others-marks'
import { draggedToTell, newsOf, pickedToTell } from './own-presence'
import { useReserving } from './reserving'

/** Characters of a name on the stage. */
const LONGEST = 28
/** Milliseconds for which it is shown where somebody calls to. */
const CALLED_FOR = 20_000
/** People whom the stage shows: the nearest. */
export const MOST_SHOWN = 30
/** Of what is said of people, what the lists of them show. */
const LISTED = ['name', 'mark', 'picked', 'role', 'proven', 'reserved', 'away'] as const
/** Metres: off by which a view that follows somebody counts as moved by hand, and as not there yet. */
const [BY_HAND, THERE] = [1e-6, 1e-3]
/** Milliseconds after something is over, by when it is sure to be. */
const SOON = 50
/** Milliseconds in which a view that follows comes most of the way. */
const FOLLOWS = 120

/** Somebody who has reserved something, and how that is said. */
type HolderOf = Pick<Person, 'id' | 'name' | 'mark'> & { says: string }

type CallShown = { by: string; call: Call; until: number }

/** Who else has the level open: what they have picked, what they hold, and where they look. */
export const usePeople = defineStore('people', () => {
  const level = useLevel()
  const settings = useSettings()
  const auth = useAuth()
  const session = useStageSession()
  const tools = useTools()
  const reserving = useReserving()
  const reserved = useReserved()
  const own = useOwnWindows()

  /** As they are right now. */
  let now: ReadonlyMap<string, Person> = new Map()
  /** The same, as far as lists show it; also those who have left, and are known for what they have reserved. */
  const known = shallowRef<readonly Person[]>([])
  const others = computed(() => known.value.filter(({ id, away }) => !away && !own.others.has(id)))
  const self = ref<string | null>(null)
  const mark = ref(0)
  const following = ref<string | null>(null)
  let calls: CallShown[] = []
  let dragged = nothingDragged()
  /** What was said last of the person here. */
  let said: Partial<Presence> = {}

  function calm(): boolean {
    return settings.movesLess
  }

  function nothingDragged(): DraggedByOthers {
    return new DraggedByOthers({ get: id => level.view.get(id) }, calm())
  }

  const letters = computed(() =>
    lettersOf([
      ...known.value.filter(({ id }) => !own.others.has(id)),
      ...(self.value ? [{ id: self.value, name: auth.name, initials: settings.kept.initials }] : []),
    ]),
  )
  const letterOf = (id: string) => letters.value.get(id) ?? '?'
  /** Who has picked a thing, by its id; and who has picked it or something below it. */
  const pickers = computed(() => {
    const [picked, below] = [new Map<string, Person[]>(), new Map<string, Person[]>()]
    const add = (to: Map<string, Person[]>, id: string, person: Person) => {
      const known = to.get(id) ?? []
      if (!known.includes(person)) to.set(id, [...known, person])
    }
    for (const person of others.value)
      for (const id of person.picked) {
        add(picked, id, person)
        for (let at: string | null = id; at !== null; at = level.view.get(at)?.parentId ?? null) add(below, at, person)
      }
    return { own: picked, below }
  })

  const holders = computed(
    () =>
      new Map(
        known.value.flatMap(person =>
          person.reserved.map(id => {
            const says = `${person.name}${person.away ? ', who has left,' : ''} has reserved this`
            return [id, { id: person.id, name: person.name, mark: person.mark, says }] as const
          }),
        ),
      ),
  )

  function hear(heard: Heard): void {
    if ('people' in heard) {
      const before = now
      now = withUpdates(before, heard, heard.you ?? self.value ?? undefined)
      reserving.hear(heard, now, heard.you ?? self.value, notify)
      if (heard.you !== undefined) begin(heard.you)
      yieldMark()
      for (const id of heard.gone) dragged.forget(id)
      for (const update of heard.people) if ('drags' in update) tellDragged(update)
      const isListed = (update: PersonUpdate) => LISTED.some(field => field in update) && now.has(update.id)
      if (heard.you !== undefined || heard.gone.length > 0 || heard.people.some(isListed))
        known.value = [...now.values()].sort((a, b) => (a.id < b.id ? -1 : 1))
      if (following.value !== null && !now.has(following.value)) following.value = null
      moving.resume()
    } else if ('call' in heard) called(heard.by, heard.call)
  }

  /** The connection stands: all of the person here is told anew. */
  function begin(id: string): void {
    self.value = id
    own.self = id
    said = {}
    dragged = nothingDragged()
    for (const person of now.values()) dragged.tell(person.id, person.drags, performance.now())
    tell()
  }

  /** Of two with one colour, who came by the greater id takes another, as long as there is one. */
  function yieldMark(): void {
    const before = [...now.values()].some(({ id, mark: other }) => other === mark.value && id < (self.value ?? ''))
    const taken = new Set([...now.values()].map(person => person.mark))
    if (before) mark.value = Array.from({ length: MARKS }, (_, i) => i).find(each => !taken.has(each)) ?? mark.value
  }

  function tellDragged({ id, drags = null }: PersonUpdate): void {
    const person = now.get(id)
    if (!person) return
    const before = dragged.movers
    dragged.tell(id, drags, performance.now())
    if (!drags) setTimeout(moving.resume, STAYS + SOON)
    const mine = new Set(tools.dragged?.map(operation => operation.id))
    const both = [...dragged.movers].find(([thing, by]) => by === id && mine.has(thing) && before.get(thing) !== id)
    if (both) sayBoth(person.name, both[0])
  }

  const sayBoth = (name: string, thing: string) =>
    notify(`${name} moves ${level.view.get(thing)?.name ?? 'this'} too`, [
      'What is let go of last stays, as far as both changed the same of it.',
    ])

  // Who takes what somebody else drags is told so, as that person is.
  watch(
    () => tools.dragged,
    (mine, before) => {
      const { movers } = dragged
      if (movers.size === 0) return
      const known = new Set(before?.map(({ id }) => id))
      const both = mine?.find(({ id }) => movers.has(id) && !known.has(id))
      if (both) sayBoth(now.get(movers.get(both.id)!)?.name ?? 'Somebody', both.id)
    },
  )

  function presence(): Presence {
    const view = session.stage?.view
    return {
      name: asName(auth.name),
      initials: settings.kept.initials,
      mark: mark.value,
      picked: pickedToTell(level.selection.ids),
      drags: draggedToTell(tools.dragged, id => level.view.get(id)),
      view: view ? { eye: rounded(view.eye), target: rounded(view.target) } : null,
      reserved: [...reserved.own],
    }
  }

  /** Says what is new of the person here. */
  function tell(): void {
    if (self.value === null) return
    const is = presence()
    // Who is alone says only who it is and what is dragged, for other programs; the rest as soon as somebody comes.
    const { picked, view, ...rest } = is
    const news = newsOf(said, now.size > 0 ? is : ({ ...said, ...rest } as Presence))
    if (Object.keys(news).length === 0) return
    said = { ...said, ...news }
    level.say({ here: news })
  }
  watch(
    () => own.others,
    () => moving.resume(),
  )
  useIntervalFn(() => {
    tell()
    steered()
  }, SAID_EVERY)

  /** Shows what moves by itself, as long as something does. */
  const moving = useRafFn(
    ({ delta }) => {
      const at = performance.now()
      calls = calls.filter(({ until }) => until > at)
      const { moved, goesOn } = dragged.step(Math.max(delta, 1), at)
      if (moved) {
        tools.showOthers(dragged.operations())
        tools.movers = new Map([...dragged.movers].map(([id, by]) => [id, now.get(by)?.name ?? '']))
      }
      const isFollowing = follow(delta)
      show()
      if (!goesOn && !isFollowing) moving.pause()
    },
    { immediate: false },
  )

  function show(): void {
    const { stage } = session
    if (!stage) return
    stage.layer(OthersMarks).set(settings.kept.show.people ? marks() : marks().filter(each => !each.to))
    stage.requestOverlay()
  }

  function showPicked(): void {
    const { people } = boards[settings.boardName]
    session.stage?.setOthersPicked(
      nearest(others.value).map(({ picked, mark: its }) => ({ ids: picked, color: people[its]! })),
    )
  }

  /** Of many those nearest to where one looks from, the nearest first; who looks at nothing comes last. */
  function nearest(people: readonly Person[]): readonly Person[] {
    const eye = session.stage?.view.eye
    if (people.length <= MOST_SHOWN || !eye) return people
    const away = ({ view }: Person) => (view ? eye.distanceTo(new Vector3(...view.eye)) : Infinity)
    return people
      .map(person => ({ person, at: away(person) }))
      .sort((a, b) => a.at - b.at)
      .slice(0, MOST_SHOWN)
      .map(({ person }) => person)
  }

  function marks(): OthersMark[] {
    const shown = nearest([...now.values()].filter(({ id }) => !own.others.has(id)))
    const isShown = new Set(shown.map(({ id }) => id))
    const markOf = (id: string) => now.get(id)?.mark ?? 0
    const nameOf = (id: string) => shortened(now.get(id)?.name ?? '')
    const looks = shown
      .flatMap(person => (person.view && person.id !== following.value ? [{ person, view: person.view }] : []))
      .map(({ person, view: { eye, target } }) => ({
        text: shortened(person.name),
        mark: person.mark,
        at: new Vector3(...eye),
        to: new Vector3(...target),
      }))
    const drags = new Map<string, OthersMark>()
    for (const { id, by, now: place } of dragged.dragged())
      if (isShown.has(by) && !drags.has(by))
        drags.set(by, {
          text: `${nameOf(by)} moves ${shortened(level.view.get(id)?.name ?? 'something new')}`,
          mark: markOf(by),
          at: inWorld(place),
        })
    const called = calls.map(({ by, call }) => ({
      text: `${nameOf(by)}: look here`,
      mark: markOf(by),
      at: new Vector3(...call.at),
    }))
    return [...looks, ...drags.values(), ...called]
  }

  const inWorld = ({ translation, parentId }: Dragged) => {
    const at = new Vector3(...translation)
    return parentId !== null && level.view.has(parentId) ? at.applyMatrix4(level.view.worldMatrix(parentId)) : at
  }

  /** Where the view was put last that follows somebody. */
  let followed: { eye: Vector3; target: Vector3 } | null = null
  /** Goes along with whoever is followed. @returns whether there is farther to go */
  function follow(elapsed: number): boolean {
    const view = session.stage?.view
    const goal = following.value === null ? null : now.get(following.value)?.view
    if (!view || !goal || steered()) return false
    const share = calm() ? 1 : 1 - Math.exp(-elapsed / FOLLOWS)
    const pose = view.savePose()
    const [eye, target] = [new Vector3(...goal.eye), new Vector3(...goal.target)]
    if (pose.eye.distanceTo(eye) + pose.target.distanceTo(target) > THERE) {
      pose.eye.lerp(eye, share)
      pose.target.lerp(target, share)
      view.follow(pose)
      session.stage!.moves()
    }
    followed = { eye: view.eye.clone(), target: view.target.clone() }
    return view.eye.distanceTo(eye) + view.target.distanceTo(target) > THERE
  }

  /** Whether the view is elsewhere than it followed to: a hand has moved it, and it follows nobody any more. */
  function steered(): boolean {
    const view = session.stage?.view
    if (!view || !followed) return false
    if (followed.eye.distanceTo(view.eye) < BY_HAND && followed.target.distanceTo(view.target) < BY_HAND) return false
    followed = null
    following.value = null
    return true
  }

  /** Looks where somebody looks. */
  function goTo(id: string): void {
    const there = now.get(id)?.view
    if (there) look(there)
  }

  function look({ eye, target }: { eye: readonly number[]; target: readonly number[] }): void {
    session.lookFrom(new Vector3().fromArray(eye), new Vector3().fromArray(target))
  }

  /** Goes along with somebody until the view is moved by hand; null ends it. */
  function setFollowing(id: string | null): void {
    if (id !== null) session.walkaround()
    followed = null
    following.value = id
    moving.resume()
  }

  /** Calls somebody, or all if null, to what the pointer is on, or to what is looked at. */
  function call(to: string | null): void {
    const view = session.stage?.view
    if (!view) return
    level.say({ call: { to, at: session.pointer?.at ?? rounded(view.target), from: rounded(view.eye) } })
    const whom = to === null ? counted(others.value.length, 'person', 'people') : now.get(to)?.name
    level.notify(`${whom} called`, ['They are told where you look, and can go there.'])
  }

  function called(by: string, call: Call): void {
    const person = now.get(by)
    if (!person) return
    calls = [...calls.filter(other => other.by !== by), { by, call, until: performance.now() + CALLED_FOR }]
    moving.resume()
    setTimeout(moving.resume, CALLED_FOR + SOON)
    notify(`${person.name} calls: look here`, ['The place is marked on the stage for a while.'], {
      label: 'Go there',
      run: () => look({ eye: call.from, target: call.at }),
    })
  }

  /**
   * Says something that takes the place of nothing but what was as little urgent.
   *
   * @returns whether it was said
   */
  function notify(title: string, lines: string[], again?: Notice['again']): boolean {
    if (level.notice && !level.notice.isMild) return false
    level.notify(title, lines, again, true)
    return true
  }

  /** Nothing is known of anybody any more, until it is told anew. */
  function forget(): void {
    now = new Map()
    known.value = []
    reserving.forget()
    following.value = null
    followed = null
    calls = []
    dragged = nothingDragged()
    tools.showOthers([])
    tools.movers = new Map()
    show()
  }

  level.onHeard(hear)
  level.onTouched(touched => {
    dragged.touched(touched)
    if (now.size > 0) moving.resume()
  })
  level.onDeaf(() => now.size > 0 && forget())
  watch(
    () => level.summary?.id,
    () => {
      self.value = null
      forget()
    },
  )
  watch([() => session.stage, () => settings.kept.show.people, () => settings.boardName], show)
  watch([() => session.stage, others, () => settings.boardName], showPicked)

  return {
    others,
    /** Who has reserved a thing or a layer; null if nobody has. */
    holderOf: (id: string): HolderOf | null =>
      reserved.own.has(id)
        ? { id: self.value ?? '', name: auth.name, mark: mark.value, says: 'You have reserved this' }
        : (holders.value.get(id) ?? null),
    self,
    mark,
    letterOf,
    pickers,
    following,
    notify,
    /** What somebody is and does right now; undefined if they are gone. */
    right: (id: string) => now.get(id),
    goTo,
    setFollowing,
    call,
  }
})

/** A name as there is room for it on a plate. */
const shortened = (name: string) => ([...name].length > LONGEST ? `${[...name].slice(0, LONGEST - 1).join('')}…` : name)

const rounded = (point: Vector3) =>
  point.toArray().map(each => Number(each.toFixed(4)) || 0) as [number, number, number]
