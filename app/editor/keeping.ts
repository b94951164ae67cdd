import { defineStore } from 'pinia'
import { v7 } from 'uuid'
import { computed, shallowRef, watch } from 'vue'
import { puttingRelations } from '~~/core/edit/copied'
import type { RestRule } from '~~/core/edit/snap/rest'
import type { Operation, Relation } from '~~/core/level/schema'
import { isRuleInBounds } from '~~/core/level/relation'
import { relationsIn } from '~~/core/relate/graph'
import { definitionOf } from '~~/core/relate/kinds'
import { lettingGo } from '~~/core/relate/loose'
import { inTheWayOf } from '~~/core/relate/refuse'
import { sayRelation } from '~~/core/relate/say'
import type { Offer } from '~~/core/relate/definition'
import { offersAmong, offersFor, onOffers } from '~~/core/relate/suggest'
import { copyOf } from '~~/core/scene/copy-id'
import { counted } from '~~/core/units/plural'
import { asName } from '~~/core/units/text'
import { useHandling } from '~/editor/handling'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useTools } from '~/editor/tools'

/** A number by which something is kept. */
export type RelationNumber = {
  label: string
  quantity: 'length' | 'factor'
  value: number
  ruleWith: (value: number) => Relation['rule']
  set: (value: number) => void
}

/** What is wrong with a rule, in words; null if nothing is. */
export const ruleProblem = (rule: Relation['rule']): string | null =>
  isRuleInBounds(rule) ? null : 'That number is too large or too small for it.'

/** What stays as it is to something else: making it, changing its number, letting go of it. */
export const useKeeping = defineStore('keeping', () => {
  const level = useLevel()
  const handling = useHandling()
  const tools = useTools()
  const settings = useSettings()

  const nameOf = (id: string) => level.view.get(id)?.name ?? 'something'
  const say = (relation: Pick<Relation, 'rule' | 'holders'>) =>
    sayRelation(level.view, relation, { length: tools.printLength, axes: settings.axes })

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
    held.value === null ? [] : [...(relationsIn(level.view).heldBy.get(held.value) ?? [])],
  )

  /** The number by which something is kept, and what sets it. */
  function numbersOf(relation: Relation): RelationNumber[] {
    const { number } = definitionOf(relation.rule)
    const value = number?.of(relation.rule, relation.holders.length) ?? null
    if (!number || value === null) return []
    const { label, quantity } = number
    const ruleWith = (next: number) => number.with(relation.rule, next)
    return [{ label, quantity, value, ruleWith, set: next => change(relation, ruleWith(next)) }]
  }

  /** What would be kept of it, as its row is pointed at: the stage shows it. */
  const pointed = shallowRef<Offer | null>(null)
  watch(held, () => (pointed.value = null))

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

  /**
   * Keeps things so, in one change; of two that ask for the same of a thing the first.
   *
   * @param all what it is called if it is more than one
   * @param joins undone together with what was done right before under this name
   * @returns how many are kept now
   */
  function keep(offers: readonly Offer[], all: string, joins?: string): number {
    const kept: Offer[] = []
    let problem: string | null = null
    for (const offer of offers) {
      const wrong = ruleProblem(offer.rule)
      if (wrong) {
        problem ??= `${nameOf(offer.held)} ${say(offer)}: ${wrong}`
        continue
      }
      const taken = inTheWayOf(level.view, level.index, offer, kept)
      if (!taken) kept.push(offer)
      else problem ??= `${nameOf(taken.held)} is ${say(taken)}, which takes the same of it. Let go of that first.`
    }
    if (problem) level.notify('Not all can be kept', [problem])
    const [first] = kept
    if (!first) return 0
    const label = kept.length === 1 ? `Keep ${nameOf(first.held)} ${say(first)}` : all
    return level.change(asName(label), puttingRelations(kept, v7), joins) ? kept.length : 0
  }

  /**
   * Does a change, and keeps things as they stand then; one step takes both back.
   *
   * @param offers what there is to be kept after it; null for nothing
   */
  function doAndKeep(label: string, operations: Operation[], offers: (() => Offer[]) | null): void {
    const joins = offers ? v7() : undefined
    if (!level.change(label, operations, joins) || !offers) return
    const found = offers()
    if (found.length > 0) keep(found, `${label}, kept`, joins)
    else level.notify('Nothing could be kept', ['There is no single thing that it could be kept to.'], undefined, true)
    level.endJoining()
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
    const found = ids.flatMap(id => onOffers(level.view, level.index, id, how).slice(0, 1))
    const left = ids.length - keep(found, `Keep ${found.length} things on what is below them`, joins)
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
      lettingGo(level.view, relations),
    )
  }

  /** Keeps it with another number. */
  function change(relation: Relation, rule: Relation['rule']): void {
    const problem = ruleProblem(rule)
    if (problem) return level.notify('It cannot be kept so', [problem])
    level.change(asName(`${nameOf(relation.held)} ${say({ ...relation, rule })}`), [
      { do: 'put-relation', id: relation.id, fields: { rule } },
    ])
  }

  tools.onCaught(({ ids, by, joins }) => {
    const isMeant = ({ rule, holders }: Offer) =>
      by.some(caught =>
        rule.kind === 'on' ? caught.by === 'hug' : rule.kind === 'flush' && caught.id === holders[0]!.on,
      )
    const found = ids.filter(id => !copyOf(id)).flatMap(id => offersFor(level.view, level.index, id).filter(isMeant))
    keep(found, `Keep ${ids.length} things as they were caught`, joins)
    level.endJoining()
    if (found.length === 0)
      level.notify('Nothing could be kept', ['What was caught is no face of its box and nothing right below it.'])
  })

  return {
    held,
    own,
    holds,
    offers,
    pointed,
    say,
    nameOf,
    numbersOf,
    keep,
    doAndKeep,
    keepOn,
    letGo,
  }
})
