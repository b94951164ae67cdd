import { defineStore } from 'pinia'
import { computed, watch } from 'vue'
import type { PeopleMessage, Person } from '~~/core/api/people'
import { MOST_RESERVED } from '~~/core/api/people'
import { counted } from '~~/core/units/plural'
import { useAuth } from '~/editor/auth'
import type { Notice } from '~/editor/level'
import { useLevel } from '~/editor/level'
import { useReserved } from '~/editor/reserved'
import { copyOf } from '~~/core/scene/copy-id'

/** Things, groups and layers that somebody asks the others to leave alone, while they are here and a little longer. */
export const useReserving = defineStore('reserving', () => {
  const level = useLevel()
  const auth = useAuth()
  const reserved = useReserved()
  /** Of what is reserved here, what all have been told: who reserves that later has taken it over. */
  let told: ReadonlySet<string> = new Set()

  const named = (id: string) => level.view.get(id)?.name ?? level.view.layers.get(id)?.name ?? 'something'
  const namesOf = (ids: readonly string[]) =>
    ids.length > 3 ? `${ids.slice(0, 3).map(named).join(', ')} and ${ids.length - 3} more` : ids.map(named).join(', ')

  /**
   * What is heard of the people in the level, before it is known who they are.
   *
   * @param people all others, as they are after it
   * @param self who is here
   * @param notify says something mild
   */
  function hear(
    { you, people: updates, gone }: PeopleMessage,
    people: ReadonlyMap<string, Person>,
    self: string | null,
    notify: (title: string, lines: string[], again?: Notice['again']) => void,
  ): void {
    for (const update of updates) {
      if (!update.reserved) continue
      const person = people.get(update.id)
      if (update.id === self) told = new Set(update.reserved)
      else if (person && person.name !== auth.name && !person.away) {
        const taken = update.reserved.filter(id => reserved.own.has(id) && (you !== undefined || told.has(id)))
        if (taken.length === 0) continue
        reserved.own = new Set([...reserved.own].filter(id => !taken.includes(id)))
        notify(`${person.name} has taken over ${namesOf(taken)}`, ['You have it reserved no longer.'])
      }
    }
    if (you !== undefined) {
      // Whoever comes back within a while has what they had.
      const mine = [...people.values()].filter(({ away, name }) => away && name === auth.name)
      reserved.own = new Set([...reserved.own, ...mine.flatMap(person => person.reserved)].slice(0, MOST_RESERVED))
      told = new Set()
    }
    if (you !== undefined || gone.length > 0 || updates.some(update => update.reserved ?? update.name))
      reserved.byOthers = new Map(
        [...people.values()]
          // Another window of the same person is in nobody's way.
          .filter(({ name }) => name !== auth.name)
          .flatMap(person => person.reserved.map(id => [id, person.name] as const)),
      )
  }

  /** Nothing is known of anybody any more, until it is told anew. */
  function forget(): void {
    told = new Set()
    reserved.byOthers = new Map()
    reserved.question = null
  }
  watch(
    () => level.summary?.id,
    () => (reserved.own = new Set()),
  )

  const picked = computed(() => [...new Set([...level.selection.ids].map(id => copyOf(id)?.arrangementId ?? id))])
  const isPickedReserved = computed(() => picked.value.length > 0 && picked.value.every(id => reserved.own.has(id)))

  /** Reserves things and layers for the person here; what others have is asked for first. */
  function reserve(ids: readonly string[]): void {
    if (ids.length === 0 || auth.mayOnlyRead) return
    const theirs = ids.flatMap(id => reserved.of(level.view, id) ?? [])
    if (theirs.length > 0)
      reserved.question = {
        label: 'Reserve',
        found: theirs,
        takeOver: () => {
          reserved.question = null
          add([...ids, ...theirs.map(({ id }) => id)])
        },
      }
    else add(ids)
  }

  function add(ids: readonly string[]): void {
    const all = new Set([...reserved.own, ...ids])
    if (all.size > MOST_RESERVED)
      return level.notify('So much cannot be reserved', [
        `${MOST_RESERVED} things, groups and layers at a time. Reserve a group with them in it, or their layer.`,
      ])
    const isFirst = reserved.own.size === 0
    reserved.own = all
    reserved.byOthers = new Map([...reserved.byOthers].filter(([id]) => !all.has(id)))
    // Later ones are seen in the roster.
    if (!isFirst) return
    level.notify(
      `${ids.length > 3 ? counted(ids.length, 'thing') : namesOf(ids)} reserved for you`,
      ['Others are asked before they change it, as long as you are here and five minutes after.'],
      undefined,
      true,
    )
  }

  /** Lets go of some of what is reserved here, or of all. */
  function release(ids: Iterable<string> = reserved.own): void {
    const gone = new Set(ids)
    reserved.own = new Set([...reserved.own].filter(id => !gone.has(id)))
  }

  const toggle = (ids: readonly string[]) => (ids.every(id => reserved.own.has(id)) ? release(ids) : reserve(ids))

  return {
    hear,
    forget,
    isPickedReserved,
    toggle,
    togglePicked: () => toggle(picked.value),
    release,
  }
})
