import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { v7 } from 'uuid'
import { Vector3 } from 'three'
import type { ArrangementOwn, Exception } from '~~/core/arrange/arrangement'
import { isArrangement } from '~~/core/arrange/arrangement'
import { copyOf } from '~~/core/scene/copy-id'
import { withoutNothing } from '~~/core/scene/copies'
import { withoutPoint } from '~~/core/arrange/rules/path'
import type { PathRule } from '~~/core/arrange/path/rule'
import type { Rule, RuleType } from '~~/core/arrange/rules'
import type { PartOf } from '~~/core/edit/release'
import { bentShapesOf, release, releaseCopies } from '~~/core/edit/release'
import { keepGaps } from '~~/core/arrange/gaps'
import { definitionOf, RULE_TYPES, RULES } from '~~/core/arrange/rules'
import { pivotOf } from '~~/core/edit/handles/pivot'
import { freeName } from '~~/core/level/create'
import type { Operation } from '~~/core/level/schema'
import type { Quat, Vec3 } from '~~/core/math/vectors'
import type { Reparenting } from '~~/core/level/tree'
import { group, topmost } from '~~/core/level/tree'
import { tidy } from '~~/core/units/quantity'
import { useModes } from '~/editor/modes'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { useEdits } from '~/editor/edits'
import { useHandling } from '~/editor/handling'
import { useKit } from '~/editor/kit'
import { CHANGED_MEANWHILE, useLevel } from '~/editor/level'
import { pointToMicrometre } from '~~/core/math/micrometre'

/** Arrangements: made of what is picked, changed while they live, released. */
export const useRepeating = defineStore('repeating', () => {
  const level = useLevel()
  const edits = useEdits()
  const modes = useModes()
  const session = useStageSession()
  const tools = useTools()
  const showPreview = tools.claimPreview()
  const handling = useHandling()
  const kit = useKit()
  /**
   * What was asked for the next arrangement of each kind, and the size of the sources then; nothing of those that are
   * as they come.
   */
  const asked = shallowRef<Partial<Record<RuleType, { own: ArrangementOwn; size: Vec3 | null }>>>({})
  const task = ref<'once' | RuleType>('once')

  /** The arrangement that is picked, or that a picked source or copy is in. */
  const current = computed(() => {
    const { last } = level.selection
    if (last === null || !level.view.has(last)) return null
    return level.view.arrangementIds.has(last) ? last : level.view.arrangementAbove(last)
  })

  const own = computed((): ArrangementOwn | null => {
    const kept = current.value === null ? null : level.view.need(current.value).own
    if (!kept || !isArrangement(kept)) return null
    // While a grip is dragged the numbers run along; what it would be by another rule it is not yet.
    const shown = level.previewed.get(current.value!)?.own
    return shown && isArrangement(shown) && shown.rule.type === kept.rule.type ? shown : kept
  })

  /**
   * What the form of the chosen kind does: changes the arrangement that is picked (`live`), makes it one of another
   * kind (`turn`), or makes a new one of what is picked (`new`), be that an arrangement itself.
   */
  const acts = computed((): 'live' | 'turn' | 'new' => {
    const rule = own.value?.rule
    if (!rule || task.value === 'once') return 'new'
    if (rule.type === task.value) return 'live'
    return RULES[task.value].keepsSources || definitionOf(rule).keepsSources || rule.type === 'scatter' ? 'new' : 'turn'
  })
  /** The sources of what the form of the chosen kind is about, or what would become them. */
  const sources = computed(() =>
    acts.value === 'new' || current.value === null ? movable() : level.view.children(current.value),
  )
  const namesOf = (ids: readonly string[]) => ids.map(id => level.view.need(id).name)
  const sourceNames = computed(() => namesOf(sources.value))

  /** The names of the sources of the arrangement that is picked, or of what would become them, in their order. */
  const names = computed(() => namesOf(current.value === null ? movable() : level.view.children(current.value)))

  /** The picked copy, by its key. */
  const copyKey = computed(() => {
    const { last } = level.selection
    return last === null ? null : (copyOf(last)?.key ?? null)
  })

  /** All copies that are picked, of the same arrangement as the last. */
  const pickedCopies = computed(() =>
    [...level.selection.ids].filter(id => copyOf(id)?.arrangementId === current.value && level.view.has(id)),
  )

  const countLive = computed(() => (current.value === null ? 0 : level.view.countOf(current.value)))

  /**
   * How large the sources are, or what would become them: of several the largest along each axis of the arrangement;
   * null without any.
   */
  const sourceSize = computed((): Vec3 | null => {
    const boxes = sources.value
      .slice(0, MOST_SIZED)
      .map(id => {
        // What an arrangement shows are its copies.
        if (level.view.arrangementIds.has(id)) return level.index.extents.ownBox(id)
        const axes =
          acts.value === 'new' || current.value === null
            ? level.view.parentMatrix(id)
            : level.view.worldMatrix(current.value)
        return level.index.extents.boxIn(id, axes.clone().invert())
      })
      .filter(box => !box.isEmpty())
    if (boxes.length === 0) return null
    return pointToMicrometre(boxes.map(box => box.getSize(new Vector3())).reduce((most, size) => most.max(size)))
  })

  /**
   * What a new arrangement of each kind begins with: its copies side by side, or as it was asked for, with the same
   * gaps.
   */
  const drafts = computed(
    () => Object.fromEntries(RULE_TYPES.map(type => [type, draftOf(type)])) as Record<RuleType, ArrangementOwn>,
  )

  function draftOf(type: RuleType): ArrangementOwn {
    const size = sourceSize.value
    const { own: wanted, size: before } = asked.value[type] ?? {}
    if (!wanted) return { rule: fitted(RULES[type].first, size) }
    if (!size || !before) return wanted
    // Numbers that came from the size of other sources do so again.
    const isAsItComes = JSON.stringify(fitted(wanted.rule, before)) === JSON.stringify(wanted.rule)
    return { ...wanted, rule: isAsItComes ? fitted(wanted.rule, size) : keepGaps(wanted.rule, before, size) }
  }

  const fitted = (rule: Rule, size: Vec3 | null): Rule => (size ? definitionOf(rule).sideBySide(rule, size) : rule)

  const movable = () => topmost(level.view, new Set(handling.movable().filter(id => !copyOf(id))))

  /**
   * The operations that make what is picked the sources of an arrangement at the last picked's pivot; null if nothing
   * is picked.
   *
   * @param placed other sources, another place or rotation; `stands` is where it goes in the end, its sources with it
   */
  function arrange(
    next: ArrangementOwn,
    id: string,
    placed: { ids?: string[]; at?: Vec3; rotation?: Quat; stands?: Vec3 } = {},
  ): (Reparenting & { ids: string[] }) | null {
    const ids = placed.ids ?? movable()
    const last = handling.lead()
    if (ids.length === 0 || last === null) return null
    const made = group(
      level.view,
      new Set(ids),
      id,
      freeName(level.view, RULES[next.rule.type].name),
      placed.at ?? pivotOf(level.view, last).toArray(),
      placed.rotation,
    )
    const operations = made.operations.map(
      (operation): Operation =>
        operation.do === 'put' && operation.id === id
          ? {
              ...operation,
              fields: {
                ...operation.fields,
                kind: 'arrangement',
                own: next,
                ...(placed.stands ? { translation: inParent(last, placed.stands) } : {}),
              },
            }
          : operation,
    )
    return { ...made, operations, ids }
  }

  const inParent = (sibling: string, [x, y, z]: Vec3) =>
    new Vector3(x, y, z).applyMatrix4(level.view.parentMatrix(sibling).clone().invert()).toArray().map(tidy) as Vec3

  function create(next: ArrangementOwn, stands?: Vec3): void {
    const id = v7()
    const made = arrange(next, id, { stands })
    if (made && edits.restructure(edits.label(`${RULES[next.rule.type].name} of`, made.ids), made)) level.pick([id])
  }

  /** The operations that would make it, under an id that is only shown. */
  const preview = (next: ArrangementOwn, stands?: Vec3) => arrange(next, DRAFT_ID, { stands })?.operations ?? null

  /** Takes down what the next arrangement of a kind shall be like. */
  function ask(next: ArrangementOwn): void {
    asked.value = { ...asked.value, [next.rule.type]: { own: next, size: sourceSize.value } }
  }

  /** The picked arrangement by another rule: its sources, variation and exceptions stay. */
  const turned = (rule: Rule): Operation[] =>
    current.value === null || !own.value
      ? []
      : [{ do: 'put', id: current.value, fields: { own: { ...own.value, rule } } }]

  /** @param joins what changes one after the other are undone together, such as the ticks of a wheel */
  function setOwn(next: ArrangementOwn, joins?: string): void {
    if (current.value === null) ask(next)
    else
      level.change(
        `Change ${level.view.need(current.value).name}`,
        [{ do: 'put', id: current.value, fields: { own: withoutNothing(next) } }],
        joins,
      )
  }

  /** Changes the rule and keeps sources, variation and exceptions. */
  function setRule(rule: Rule, joins?: string): void {
    const before = own.value
    if (current.value === null || !before || before.rule.type === rule.type)
      return setOwn({ ...(before ?? drafts.value[rule.type]), rule }, joins)
    // A name that was given by the rule goes along with it.
    const { name } = level.view.need(current.value)
    const renamed = name.startsWith(`${RULES[before.rule.type].name} `)
      ? { name: freeName(level.view, RULES[rule.type].name) }
      : {}
    level.change(`Make ${name} a ${RULES[rule.type].name.toLowerCase()}`, [
      { do: 'put', id: current.value, fields: { own: { ...before, rule }, ...renamed } },
    ])
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
    await withBentParts(id, partOf => {
      if (edits.restructure(`Release ${level.view.need(id).name}`, release(level.view, id, v7, partOf)))
        level.pick([id])
    })
  }

  async function releasePickedCopy(): Promise<void> {
    const { last } = level.selection
    if (last === null || !copyOf(last)) return
    await withBentParts(last, partOf => {
      // Bent pieces have meshes of their own, made for the last one alone.
      const ids = partOf ? [last] : pickedCopies.value
      const released = releaseCopies(level.view, ids, v7, partOf)
      if (edits.restructure(edits.label('Release', ids), released)) level.pick(released.made)
    })
  }

  level.onRelease(() => void releasePickedCopy())

  /** Gives each bent piece's mesh a part of its own, for this level alone, and then does what needs them. */
  async function withBentParts(id: string, work: (partOf?: PartOf) => void): Promise<void> {
    const shapes = bentShapesOf(level.view, id)
    if (shapes.length > MOST_BENT_PARTS)
      return level.notify('Too many bent pieces', [
        `Each of them becomes a part; ${shapes.length.toLocaleString('en')} are too many. ${MOST_BENT_PARTS} are the most: make the pieces longer, or release copies one by one.`,
      ])
    if (shapes.length === 0) return work()
    const parts = new Map<string, string>()
    const { name } = level.view.need(id)
    await kit.online(async () => {
      for (const shape of shapes) {
        const made = await kit.create(
          { id: v7(), name: `${name}, bent`, kind: 'piece', tags: [], inKit: false },
          kit.solid(shape)!.mesh,
        )
        parts.set(shape, made.id)
      }
      // The path may have been changed while the parts were being made; then they are of other pieces.
      if (!level.view.has(id) || bentShapesOf(level.view, id).some(shape => !parts.has(shape)))
        return level.notify(...CHANGED_MEANWHILE)
      work(shape => parts.get(shape)!)
    }, level.notify)
  }

  /** Draws the path of a new arrangement of what is picked. */
  function drawPath(next: ArrangementOwn): void {
    const last = handling.lead()
    if (last === null || next.rule.type !== 'path') return
    const { rule } = next
    const ownFor = (points: Vec3[], closed: boolean): ArrangementOwn => {
      const toOwn = level.view
        .parentMatrix(last)
        .clone()
        .setPosition(...points[0]!)
        .invert()
      return {
        ...next,
        rule: {
          ...rule,
          closed,
          points: points.map(point => new Vector3(...point).applyMatrix4(toOwn).toArray().map(tidy) as Vec3),
        },
      }
    }
    const leaveOut = new Set(movable().flatMap(id => level.view.subtree(id)))
    modes.drawPath({
      leaveOut,
      show: (points, closed) => showPreview(points && preview(ownFor(points, closed), points[0])),
      done: (points, closed) => create(ownFor(points, closed), points[0]),
    })
  }

  /** Takes away the point of a path that the pointer is on. @returns whether it is on one */
  function removePointUnderPointer(): boolean {
    const lit = session.stage?.handles.lit
    const rule = own.value?.rule
    if (lit?.do !== 'grip' || rule?.type !== 'path' || lit.index >= rule.points.length) return false
    const next = withoutPoint(rule, lit.index)
    if (next) setRule(next)
    else level.notify('The point stays', ['A path needs two points.'])
    return true
  }

  /** Asks for the middle of a rule that has one; the first copy stays where it is. */
  function touchCentre(): void {
    const id = current.value
    const of = own.value
    const aroundMiddle = of && definitionOf(of.rule).aroundMiddle
    if (id === null || !of || !aroundMiddle) return
    modes.touch('Touch the middle', 'point', ({ point }) => {
      const parent = level.view.parentMatrix(id).clone().invert()
      const toOwn = level.view.worldMatrix(id).clone().setPosition(point).invert()
      const first = new Vector3().setFromMatrixPosition(level.index.shownBy(id)[0]!.matrix).applyMatrix4(toOwn)
      level.change(`Move the middle of ${level.view.need(id).name}`, [
        {
          do: 'put',
          id,
          fields: {
            own: { ...of, rule: aroundMiddle(of.rule, first) },
            translation: point.clone().applyMatrix4(parent).toArray().map(tidy) as Vec3,
          },
        },
      ])
      return true
    })
  }

  /** Lets a path's pieces be as long as its first source is along X, and begin where that does. */
  function measured(rule: PathRule): PathRule {
    const id = current.value
    const first = id === null ? movable()[0] : level.view.children(id)[0]
    if (first === undefined) return rule
    const axes =
      id === null
        ? level.view.parentMatrix(first).clone().setPosition(pivotOf(level.view, first))
        : level.view.worldMatrix(id).clone()
    const box = level.index.extents.boxIn(first, axes.invert())
    return box.isEmpty()
      ? rule
      : { ...rule, spacing: Math.max(tidy(box.max.x - box.min.x), 0.01), begins: tidy(box.min.x) }
  }

  return {
    task,
    acts,
    drafts,
    ask,
    turned,
    sourceSize,
    arrange,
    current,
    own,
    names,
    sourceNames,
    copyKey,
    pickedCopies,
    countLive,
    preview,
    create,
    setOwn,
    setRule,
    setException,
    releaseCurrent,
    releasePickedCopy,
    drawPath,
    removePointUnderPointer,
    touchCentre,
    measured,
    movable,
  }
})

/** More parts than this are not made at once. */
const MOST_BENT_PARTS = 500

/** Of more sources sizes are not looked at. */
const MOST_SIZED = 200

/** Names an arrangement that is only shown. */
export const DRAFT_ID = '00000000-0000-7000-8000-000000000000'
