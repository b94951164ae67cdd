import { defineStore } from 'pinia'
import { v7 } from 'uuid'
import { computed } from 'vue'
import type { RestRule } from '~~/core/edit/snap/rest'
import type { Relation } from '~~/core/level/schema'
import { relationsIn } from '~~/core/relate/graph'
import { inTheWayOf } from '~~/core/relate/refuse'
import { sayRelation } from '~~/core/relate/say'
import type { Offer } from '~~/core/relate/suggest'
import { offersAmong, offersFor, onOffers } from '~~/core/relate/suggest'
import { copyOf } from '~~/core/scene/copy-id'
import { counted } from '~~/core/units/plural'
import { asName } from '~~/core/units/text'
import { useHandling } from '~/editor/handling'
import { useLevel } from '~/editor/level'
import { useTools } from '~/editor/tools'

/** More relations than this are not listed. */
const LISTED = 40

/** What stays as it is to something else: making it, changing its number, letting go of it. */
export const useKeeping = defineStore('keeping', () => {
  const level = useLevel()
  const handling = useHandling()
  const tools = useTools()

  const nameOf = (id: string) => level.view.get(id)?.name ?? 'something'
  const say = (relation: Pick<Relation, 'rule' | 'holders'>) =>
    sayRelation(level.view, relation, metres => tools.printLength(metres))

  /** The thing that is meant: the last picked, which is no copy. */
  const held = computed(() => {
    const { last } = level.selection
    return last !== null && !copyOf(last) && level.view.has(last) ? last : null
  })
  const others = computed(() => [...level.selection.ids].filter(id => id !== held.value))

  /** What holds it, and what it holds. */
  const own = computed<readonly Relation[]>(() =>
    held.value === null ? [] : (relationsIn(level.view).byHeld.get(held.value) ?? []),
  )
  const holds = computed<readonly string[]>(() =>
    held.value === null ? [] : [...(relationsIn(level.view).heldBy.get(held.value) ?? [])].slice(0, LISTED),
  )

  const isKept = (offer: Offer) =>
    own.value.some(
      ({ rule, holders }) => rule.kind === offer.rule.kind && holders.every(({ on }, i) => on === offer.holders[i]?.on),
    )
  /** What could be kept as it is now. */
  const offers = computed<readonly Offer[]>(() => {
    if (held.value === null) return []
    const found = [
      ...offersFor(level.view, level.index, held.value),
      ...offersAmong(level.view, level.index, held.value, others.value),
    ]
    return found.filter(offer => !isKept(offer))
  })

  /** Whether it is kept on something already. */
  const isOn = (id: string) =>
    relationsIn(level.view)
      .byHeld.get(id)
      ?.some(({ rule }) => rule.kind === 'on') ?? false

  function refusal(relation: Relation): string | null {
    const taken = inTheWayOf(level.view, level.index, relation)
    return taken && `${nameOf(taken.held)} is ${say(taken)}, which takes the same of it. Let go of that first.`
  }

  /** Keeps one thing so. @param joins undone together with what was done right before under this name */
  function keep(offer: Offer, joins?: string): boolean {
    const relation = { ...offer, id: v7() }
    const problem = refusal(relation)
    if (problem) level.notify('Both cannot be kept', [problem])
    return problem === null && put(asName(`Keep ${nameOf(offer.held)} ${say(offer)}`), [relation], joins)
  }

  function put(label: string, relations: readonly Relation[], joins?: string): boolean {
    return level.change(
      label,
      relations.map(({ id, ...fields }) => ({ do: 'put-relation', id, fields })),
      joins,
    )
  }

  /**
   * Keeps each thing on what it stands on, in one change.
   *
   * @param of all that is picked when left out
   * @param how it rests there; by its lowest point when left out
   * @param joins undone together with what was done right before under this name
   */
  function keepOn(of: readonly string[] = handling.movable(), how?: RestRule, joins?: string): void {
    const ids = of.filter(id => !copyOf(id) && !isOn(id))
    const relations = ids
      .flatMap(id => onOffers(level.view, level.index, id, how).slice(0, 1))
      .map(offer => ({ ...offer, id: v7() }))
      .filter(relation => inTheWayOf(level.view, level.index, relation) === null)
    const left = ids.length - relations.length
    if (relations.length > 0)
      put(
        relations.length === 1
          ? asName(`Keep ${nameOf(relations[0]!.held)} ${say(relations[0]!)}`)
          : `Keep ${relations.length} things on what is below them`,
        relations,
        joins,
      )
    if (left > 0)
      level.notify(`${counted(left, 'thing')} kept on nothing`, [
        'Nothing is right below, or it is kept otherwise already. Set down first (G).',
      ])
  }

  /** Lets go of relations; their things stay where they are. */
  function letGo(relations: readonly Relation[]): void {
    const [first] = relations
    if (!first) return
    level.change(
      asName(
        relations.length === 1 ? `Let go: ${nameOf(first.held)} ${say(first)}` : `Let go ${relations.length} times`,
      ),
      relations.map(({ id }) => ({ do: 'remove-relation', id })),
    )
  }

  /** Keeps it with another number. */
  function change(relation: Relation, rule: Relation['rule']): void {
    level.change(asName(`${nameOf(relation.held)} ${say({ ...relation, rule })}`), [
      { do: 'put-relation', id: relation.id, fields: { rule } },
    ])
  }

  tools.onCaught(({ ids, by, joins }) => {
    for (const id of ids)
      for (const offer of offersFor(level.view, level.index, id)) {
        const { on } = offer.holders[0]!
        const isMeant = by.some(caught =>
          offer.rule.kind === 'on' ? caught.by === 'hug' : offer.rule.kind === 'flush' && caught.id === on,
        )
        if (isMeant) keep(offer, joins)
      }
    level.endJoining()
  })

  return { held, own, holds, offers, say, nameOf, keep, keepOn, letGo, change }
})
