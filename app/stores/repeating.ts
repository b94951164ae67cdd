import { defineStore } from 'pinia'
import { computed } from 'vue'
import { v7 } from 'uuid'
import { release } from '~~/core/arrange/release'
import type { Rule } from '~~/core/arrange/rule'
import { countOf } from '~~/core/arrange/rule'
import { pivotOf } from '~~/core/handles/pivot'
import { freeName } from '~~/core/level/create'
import type { Operation } from '~~/core/level/schema'
import { group, topmost } from '~~/core/level/tree'
import { useEdits } from './edits'
import { useHandling } from './handling'
import { useLevel } from './level'

const NAMES: Record<Rule['rule'], string> = { line: 'Line', grid: 'Grid', ring: 'Ring', fan: 'Fan' }

/** Arrangements: made of what is picked, changed while they live, released. */
export const useRepeating = defineStore('repeating', () => {
  const level = useLevel()
  const edits = useEdits()
  const handling = useHandling()

  /** The arrangement that is picked, or that a picked source is in. */
  const current = computed(() => {
    void level.version
    const { last } = level.selection
    if (last === null || !level.document.has(last)) return null
    return level.document.arrangementIds.has(last) ? last : level.document.arrangementAbove(last)
  })

  const rule = computed((): Rule | null => {
    void level.version
    const own = current.value === null ? null : level.document.need(current.value).own
    return own && 'rule' in own ? own.rule : null
  })

  /** Makes what is picked the sources of a new arrangement, which stands at the last picked's pivot. */
  function create(next: Rule): void {
    const ids = topmost(level.document, new Set(handling.movable()))
    const last = handling.lead()
    if (ids.length === 0 || last === null) return
    const id = v7()
    const made = group(level.document, new Set(ids), id, freeName(level.document, NAMES[next.rule]), pivotOf(level.document, last).toArray())
    const operations = made.operations.map((operation): Operation => operation.do === 'put' && operation.id === id
      ? { ...operation, fields: { ...operation.fields, kind: 'arrangement', own: { rule: next } } }
      : operation)
    if (edits.restructure(edits.label(`${NAMES[next.rule]} of`, ids), { ...made, operations })) level.pick([id])
  }

  /** @param joins what changes one after the other are undone together, such as the ticks of a wheel */
  function setRule(next: Rule, joins?: string): void {
    if (current.value === null) return
    const { name } = level.document.need(current.value)
    level.change(`Change ${name}`.slice(0, 200), [{ do: 'put', id: current.value, fields: { own: { rule: next } } }], joins)
  }

  /** Turns the copies into ordinary placements in a group. */
  function releaseCurrent(): void {
    if (current.value === null) return
    const id = current.value
    level.change(`Release ${level.document.need(id).name}`.slice(0, 200), release(level.document, id, v7))
    level.pick([id])
  }

  const countLive = computed(() => rule.value ? countOf(rule.value) : 0)

  return { current, rule, countLive, create, setRule, releaseCurrent }
})
