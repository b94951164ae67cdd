import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { v7 } from 'uuid'
import { Vector3 } from 'three'
import type { ArrangementOwn, Exception } from '~~/core/arrange/arrangement'
import { isArrangement } from '~~/core/arrange/arrangement'
import { copyOf, withoutNothing } from '~~/core/arrange/copy'
import { countOf } from '~~/core/arrange/count'
import { withoutPoint } from '~~/core/arrange/grips'
import type { PartOf } from '~~/core/arrange/release'
import { bentShapesOf, release, releaseCopy } from '~~/core/arrange/release'
import type { PathRule, Rule, RuleKind } from '~~/core/arrange/rule'
import { FIRST_RULES } from '~~/core/arrange/rule'
import { pivotOf } from '~~/core/handles/pivot'
import { freeName } from '~~/core/level/create'
import type { Operation, Quat, Vec3 } from '~~/core/level/schema'
import type { Reparenting } from '~~/core/level/tree'
import { group, topmost } from '~~/core/level/tree'
import { tidy } from '~~/core/units/quantity'
import { useEditor } from './editor'
import { useEdits } from './edits'
import { useHandling } from './handling'
import { useKit } from './kit'
import { CHANGED_MEANWHILE, useLevel } from './level'

export const RULE_NAMES: Record<RuleKind, string> = { line: 'Line', grid: 'Grid', ring: 'Ring', fan: 'Fan', path: 'Path', mirror: 'Mirror' }

/** Arrangements: made of what is picked, changed while they live, released. */
export const useRepeating = defineStore('repeating', () => {
  const level = useLevel()
  const edits = useEdits()
  const editor = useEditor()
  const handling = useHandling()
  const kit = useKit()
  /** What a new arrangement of each kind begins with. */
  const drafts = shallowRef<Record<RuleKind, ArrangementOwn>>(Object.fromEntries(Object.values(FIRST_RULES).map(rule => [rule.rule, { rule }])) as Record<RuleKind, ArrangementOwn>)
  const task = ref<'once' | RuleKind>('once')

  /** The arrangement that is picked, or that a picked source or copy is in. */
  const current = computed(() => {
    void level.version
    const { last } = level.selection
    if (last === null || !level.document.has(last)) return null
    return level.document.arrangementIds.has(last) ? last : level.document.arrangementAbove(last)
  })

  const own = computed((): ArrangementOwn | null => {
    void level.version
    // While a grip is dragged the numbers run along.
    const of = current.value === null ? null : level.previewed.get(current.value)?.own ?? level.document.need(current.value).own
    return of && isArrangement(of) ? of : null
  })

  /** The names of the sources, or of what would become them, in their order. */
  const names = computed(() => {
    void level.version
    return (current.value === null ? movable() : level.document.children(current.value)).map(id => level.document.need(id).name)
  })

  /** The picked copy, by its key. */
  const copyKey = computed(() => {
    void level.version
    const { last } = level.selection
    return last === null ? null : copyOf(last)?.key ?? null
  })

  const countLive = computed(() => own.value ? countOf(own.value.rule) : 0)

  const movable = () => topmost(level.document, new Set(handling.movable().filter(id => !copyOf(id))))

  /**
   * The operations that make what is picked the sources of an arrangement at the last picked's pivot; null if nothing is picked.
   *
   * @param placed other sources, another place or rotation; `stands` is where it goes in the end, its sources with it
   */
  function arrange(next: ArrangementOwn, id: string, placed: { ids?: string[], at?: Vec3, rotation?: Quat, stands?: Vec3 } = {}): (Reparenting & { ids: string[] }) | null {
    const ids = placed.ids ?? movable()
    const last = handling.lead()
    if (ids.length === 0 || last === null) return null
    const made = group(level.document, new Set(ids), id, freeName(level.document, RULE_NAMES[next.rule.rule]), placed.at ?? pivotOf(level.document, last).toArray(), placed.rotation)
    const operations = made.operations.map((operation): Operation => operation.do === 'put' && operation.id === id
      ? { ...operation, fields: { ...operation.fields, kind: 'arrangement', own: next, ...placed.stands ? { translation: inParent(last, placed.stands) } : {} } }
      : operation)
    return { ...made, operations, ids }
  }

  const inParent = (sibling: string, [x, y, z]: Vec3) => new Vector3(x, y, z).applyMatrix4(level.document.parentMatrix(sibling).clone().invert()).toArray().map(tidy) as Vec3

  function create(next: ArrangementOwn, stands?: Vec3): void {
    const id = v7()
    const made = arrange(next, id, { stands })
    if (made && edits.restructure(edits.label(`${RULE_NAMES[next.rule.rule]} of`, made.ids), made)) level.pick([id])
  }

  /** The operations that would make it, under an id that is only shown. */
  const preview = (next: ArrangementOwn, stands?: Vec3) => arrange(next, DRAFT_ID, { stands })?.operations ?? null

  /** @param joins what changes one after the other are undone together, such as the ticks of a wheel */
  function setOwn(next: ArrangementOwn, joins?: string): void {
    if (current.value === null) drafts.value = { ...drafts.value, [next.rule.rule]: next }
    else level.change(`Change ${level.document.need(current.value).name}`.slice(0, 200), [{ do: 'put', id: current.value, fields: { own: withoutNothing(next) } }], joins)
  }

  /** Changes the rule and keeps sources, variation and exceptions. */
  function setRule(rule: Rule, joins?: string): void {
    const before = own.value
    if (current.value === null || !before || before.rule.rule === rule.rule) return setOwn({ ...before ?? drafts.value[rule.rule], rule }, joins)
    // A name that was given by the rule goes along with it.
    const { name } = level.document.need(current.value)
    const renamed = name.startsWith(`${RULE_NAMES[before.rule.rule]} `) ? { name: freeName(level.document, RULE_NAMES[rule.rule]) } : {}
    level.change(`Make ${name} a ${RULE_NAMES[rule.rule].toLowerCase()}`.slice(0, 200), [{ do: 'put', id: current.value, fields: { own: { ...before, rule }, ...renamed } }])
  }

  function setException(key: string, exception: Exception | null): void {
    if (!own.value) return
    const { [key]: _old, ...others } = own.value.exceptions ?? {}
    setOwn({ ...own.value, exceptions: exception ? { ...others, [key]: exception } : others })
  }

  /** Turns the copies into ordinary placements in a group. */
  async function releaseCurrent(): Promise<void> {
    if (current.value === null) return
    const id = current.value
    await withBentParts(id, (partOf) => {
      if (level.change(`Release ${level.document.need(id).name}`.slice(0, 200), release(level.document, id, v7, partOf))) level.pick([id])
    })
  }

  async function releasePickedCopy(): Promise<void> {
    const { last } = level.selection
    if (last === null || !copyOf(last)) return
    await withBentParts(last, (partOf) => {
      const { operations, made } = releaseCopy(level.document, last, v7, partOf)
      if (level.change(`Release ${level.document.need(last).name}`.slice(0, 200), operations)) level.pick(made)
    })
  }

  /** Gives each bent piece's mesh a part of its own, for this level alone, and then does what needs them. */
  async function withBentParts(id: string, work: (partOf?: PartOf) => void): Promise<void> {
    const shapes = bentShapesOf(level.document, id)
    if (shapes.length > MOST_BENT_PARTS) return level.tell('Too many bent pieces', [`Each of them becomes a part; ${shapes.length.toLocaleString('en')} are too many. ${MOST_BENT_PARTS} are the most: make the pieces longer, or release copies one by one.`])
    if (shapes.length === 0) return work()
    const parts = new Map<string, string>()
    const { name } = level.document.need(id)
    await kit.online(async () => {
      for (const shape of shapes) {
        const made = await kit.create({ id: v7(), name: `${name}, bent`.slice(0, 200), kind: 'piece', tags: [], inKit: false }, kit.solid(shape)!.mesh)
        parts.set(shape, made.id)
      }
      // The path may have been changed while the parts were being made; then they are of other pieces.
      if (!level.document.has(id) || bentShapesOf(level.document, id).some(shape => !parts.has(shape))) return level.tell(...CHANGED_MEANWHILE)
      work(shape => parts.get(shape)!)
    }, level.tell)
  }

  /** Draws the path of a new arrangement of what is picked. */
  function drawPath(next: ArrangementOwn): void {
    const last = handling.lead()
    if (last === null || next.rule.rule !== 'path') return
    const { rule } = next
    const ownFor = (points: Vec3[], closed: boolean): ArrangementOwn => {
      const toOwn = level.document.parentMatrix(last).clone().setPosition(...points[0]!).invert()
      return { ...next, rule: { ...rule, closed, points: points.map(point => new Vector3(...point).applyMatrix4(toOwn).toArray().map(tidy) as Vec3) } }
    }
    const leaveOut = new Set(movable().flatMap(id => level.document.subtree(id)))
    editor.drawPath(leaveOut,
      (points, closed) => editor.preview(points && preview(ownFor(points, closed), points[0])),
      (points, closed) => create(ownFor(points, closed), points[0]))
  }

  /** Takes away the point of a path that the pointer is on. @returns whether it is on one */
  function removePointUnderPointer(): boolean {
    const lit = editor.stage?.handles.lit
    const rule = own.value?.rule
    if (lit?.do !== 'grip' || rule?.rule !== 'path' || lit.index >= rule.points.length) return false
    const next = withoutPoint(rule, lit.index)
    if (next) setRule(next)
    else level.tell('The point stays', ['A path needs two points.'])
    return true
  }

  /** Asks for the middle of a ring or fan; the first copy stays where it is. */
  function touchCentre(): void {
    const id = current.value
    const of = own.value
    if (id === null || (of?.rule.rule !== 'ring' && of?.rule.rule !== 'fan')) return
    editor.touch('Touch the middle', 'point', ({ point }) => {
      const { rule } = of
      const first = new Vector3().setFromMatrixPosition(level.index.shownBy(id)[0]!.matrix)
      const parent = level.document.parentMatrix(id).clone().invert()
      const matrix = level.document.worldMatrix(id).clone().setPosition(point).invert()
      const inOwn = first.applyMatrix4(matrix)
      const axis = rule.rule === 'ring' ? rule.axis : 1
      const [u, v] = [inOwn.getComponent((axis + 1) % 3), inOwn.getComponent((axis + 2) % 3)]
      const radius = tidy(Math.hypot(u, v))
      const next = rule.rule === 'ring' ? { ...rule, radius, start: tidy(Math.atan2(v, u) * 180 / Math.PI) } : { ...rule, radius }
      level.change(`Move the middle of ${level.document.need(id).name}`.slice(0, 200), [
        { do: 'put', id, fields: { own: { ...of, rule: next }, translation: point.clone().applyMatrix4(parent).toArray().map(tidy) as Vec3 } },
      ])
      return true
    })
  }

  /** Lets a path's pieces be as long as its first source is along X, and begin where that does. */
  function measured(rule: PathRule): PathRule {
    const id = current.value
    const first = id === null ? movable()[0] : level.document.children(id)[0]
    if (first === undefined) return rule
    const axes = id === null ? level.document.parentMatrix(first).clone().setPosition(pivotOf(level.document, first)) : level.document.worldMatrix(id).clone()
    const box = level.index.boxIn(first, axes.invert())
    return box.isEmpty() ? rule : { ...rule, spacing: Math.max(tidy(box.max.x - box.min.x), 0.01), begins: tidy(box.min.x) }
  }

  return {
    task, drafts, arrange, current, own, names, copyKey, countLive, preview, create, setOwn, setRule, setException, releaseCurrent, releasePickedCopy,
    drawPath, removePointUnderPointer, touchCentre, measured, movable,
  }
})

/** More parts than this are not made at once. */
const MOST_BENT_PARTS = 500

/** Names an arrangement that is only shown. */
const DRAFT_ID = '00000000-0000-7000-8000-000000000000'
