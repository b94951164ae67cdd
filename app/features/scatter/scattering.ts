import { Matrix4, Vector3 } from 'three'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { v7 } from 'uuid'
import { referringTo } from '~~/core/arrange/refer'
import { RULES } from '~~/core/arrange/rules'
import type { Dealt } from '~~/core/arrange/scatter/deal'
import type { Figures } from '~~/core/arrange/scatter/figures'
import type { Area, Ingredient, ScatterRule } from '~~/core/arrange/scatter/rule'
import { FIRST_INGREDIENT, nextStream } from '~~/core/arrange/scatter/rule'
import { createPlacement, freeName } from '~~/core/level/create'
import type { Operation } from '~~/core/level/schema'
import { reparent } from '~~/core/level/tree'
import { localMatrix } from '~~/core/math/transform'
import type { Vec3 } from '~~/core/math/vectors'
import { copyOf } from '~~/core/scene/copy-id'
import type { ShapeCopies } from '~~/core/scene/expand'
import { matrixOfArea, movedArea } from '~~/core/arrange/scatter/anchor'
import { scatterOf, surfacesOf } from '~~/core/scene/scatter-site'
import { tidy } from '~~/core/units/quantity'
import { DRAFT } from '~/editor/dealing/dealing'
import { useEdits } from '~/editor/edits'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useRepeating } from '~/features/repeat/repeating'
import { useStageSession } from '~/editor/stage-session'
import { orNothing } from '~/errors/or-nothing'
import { counted } from '~~/core/units/plural'
import { ScatterOverlay } from './scatter-overlay'

/** The scatter that is worked on: begun as a draft, kept, and changed while it lives. */
export const useScattering = defineStore('scattering', () => {
  const level = useLevel()
  const kit = useKit()
  const edits = useEdits()
  const session = useStageSession()
  const repeating = useRepeating()

  /** What a new scatter begins with; its mix names parts of the kit, or placements that become sources. */
  const draft = shallowRef<ScatterRule>(RULES.scatter.first)
  const isOpen = ref(false)
  /** A rule that is tried out on a scatter, such as during a stroke, instead of its own. */
  const tried = shallowRef<{ id: string; rule: ScatterRule } | null>(null)
  /** The limit whose tint is shown; -1 for all together, null for none. */
  const tinted = ref<number | null>(null)
  /** Counts what became known of scatters, which are looked up where they are dealt. */
  const news = ref(0)

  const currentId = computed(() => {
    const id = repeating.current
    return id !== null && scatterOf(level.view, id) ? id : null
  })
  const rule = computed((): ScatterRule => {
    const own = currentId.value === null ? null : repeating.own
    return own?.rule.type === 'scatter' ? own.rule : draft.value
  })
  const id = computed(() => currentId.value ?? DRAFT)
  const known = computed(() => {
    void news.value
    return level.session.dealing.known(id.value)
  })
  const report = computed(() => known.value?.report ?? null)
  const progress = computed(() => known.value?.progress ?? null)
  const dealt = computed(() => known.value?.dealt ?? null)

  /** Stops working on it; what is there stays. */
  const cancel = () => level.session.dealing.cancel(id.value)

  /** Tries a rule out on what is shown; null ends that. */
  function tryOut(next: ScatterRule | null): void {
    tried.value = next && { id: id.value, rule: next }
    level.session.dealing.tryOut(id.value, next)
  }

  /** Deals the draft as it is now. */
  const dealDraft = () => level.session.dealing.tryOut(DRAFT, draft.value)

  async function showTint(): Promise<void> {
    const { stage } = session
    if (!stage) return
    const [limit, its] = [tinted.value, tried.value?.rule ?? rule.value]
    if (limit === null || limit >= its.limits.length) return stage.layer(ScatterOverlay).tint(null)
    const tint = await level.session.dealing.tint(id.value, its, limit).catch(orNothing)
    if (tinted.value === limit) stage.layer(ScatterOverlay).tint(tint)
    stage.requestDraw()
  }

  /** The areas are drawn while the form is open and no tool draws something of its own. */
  function showAreas(): void {
    if (session.mode) return
    const toWorld = (currentId.value === null ? new Matrix4() : level.view.worldMatrix(currentId.value)).toArray()
    const surfaces = rule.value.areas.some(({ lies }) => lies) ? surfacesOf(level.view, id.value, rule.value) : []
    session.stage?.layer(ScatterOverlay).outline(
      isOpen.value
        ? rule.value.areas.map(area => {
            const matrix = matrixOfArea(area, { surfaces, toWorld })
            return {
              points: area.points.map(point => new Vector3(...point).applyMatrix4(matrix)),
              closed: area.type === 'loop',
              hole: area.hole,
            }
          })
        : [],
    )
    session.stage?.requestDraw()
  }

  /** The copies of the draft, as the stage draws them. */
  function showDraft(): void {
    const of = level.session.dealing.known(DRAFT)?.dealt
    const isShown = isOpen.value && currentId.value === null && of
    session.stage?.showDraft(
      isShown ? draft.value.mix.flatMap((_, i) => shapesOf(draft.value.mix[i]!.source, of, i)) : null,
    )
  }

  function shapesOf(source: string, { count, sources, matrices }: Dealt, number: number): ShapeCopies[] {
    const indices = Int32Array.from({ length: count }, (_, i) => i).filter(i => sources[i] === number)
    const placed = (matrix: Matrix4) => {
      const out = new Float64Array(indices.length * 16)
      const one = new Matrix4()
      indices.forEach((from, i) =>
        one
          .fromArray(matrices, from * 16)
          .multiply(matrix)
          .toArray(out, i * 16),
      )
      return out
    }
    if (!level.view.has(source)) return [{ shape: source, matrices: placed(new Matrix4()), indices }]
    const its = level.view.need(source)
    const back = localMatrix({ ...its, translation: [0, 0, 0] }, new Matrix4()).multiply(
      level.view.worldMatrix(source).clone().invert(),
    )
    return level.view.subtree(source).flatMap(below => {
      const shape = level.view.shapeOf(below)
      return shape === null
        ? []
        : [{ shape, matrices: placed(back.clone().multiply(level.view.worldMatrix(below))), indices }]
    })
  }

  /** Changes the rule: of the draft, or of the scatter that is picked, as one change. */
  function setRule(next: ScatterRule, joins?: string): void {
    if (currentId.value !== null) repeating.setRule(next, joins)
    else {
      draft.value = next
      dealDraft()
    }
  }

  /** What is picked, without copies and what the scatter itself is made of. */
  const picked = () =>
    [...level.selection.ids]
      .map(each => copyOf(each)?.arrangementId ?? each)
      .filter(
        each =>
          each !== currentId.value
          && level.view.has(each)
          && (currentId.value === null || !level.view.isWithin(each, currentId.value)),
      )

  /** Things whose surfaces are meant as well. */
  function addSurfaces(ids: readonly string[] = picked()): void {
    let { on } = rule.value
    for (const each of new Set(ids))
      if (!on.some(other => other.id === each) && !scatterOf(level.view, each))
        on = [...on, { id: each, stream: nextStream(on) }]
    setRule({ ...rule.value, on })
  }

  const ingredientFor = (source: string, mix: readonly Ingredient[]): Ingredient => ({
    ...FIRST_INGREDIENT,
    source,
    stream: nextStream(mix),
  })

  /**
   * What is picked when a new scatter is begun: props are what is scattered, and all else is what it is scattered on.
   */
  function takeUpPicked(): void {
    const { on, mix, areas } = draft.value
    if (on.length > 0 || mix.length > 0 || areas.length > 0) return
    const ids = picked()
    const isProp = (each: string) => {
      const { partId } = level.view.need(each)
      return partId !== null && kit.part(partId)?.kind === 'prop' && !kit.tagsOf(partId).includes('ground')
    }
    if (ids.length > 0 && ids.every(isProp)) addPicked()
    else addSurfaces(ids.filter(each => !isProp(each)))
  }

  /** Parts of the kit as further sources. */
  function addParts(partIds: readonly string[]): void {
    const before = rule.value
    if (currentId.value === null) {
      let { mix } = before
      for (const part of partIds) mix = [...mix, ingredientFor(part, mix)]
      return setRule({ ...before, mix })
    }
    const made = partIds.map(partId => ({ id: v7(), partId }))
    let { mix } = before
    for (const each of made) mix = [...mix, ingredientFor(each.id, mix)]
    const of = currentId.value
    level.change(`Add to ${level.view.need(of).name}`, [
      ...made.map((each, i) => putPart(each.id, each.partId, of, 1000 + mix.length + i)),
      { do: 'put', id: of, fields: { own: { ...repeating.own!, rule: { ...before, mix } } } },
    ])
  }

  /** What is picked as further sources: it goes into the scatter when that is kept, or at once if it is. */
  function addPicked(): void {
    const ids = repeating
      .movable()
      .filter(each => each !== currentId.value && !rule.value.on.some(on => on.id === each))
    let { mix } = rule.value
    for (const each of ids) if (!mix.some(({ source }) => source === each)) mix = [...mix, ingredientFor(each, mix)]
    const of = currentId.value
    if (of === null) return setRule({ ...rule.value, mix })
    edits.restructure(
      `Add to ${level.view.need(of).name}`,
      withOperations(reparent(level.view, ids, of), [
        { do: 'put', id: of, fields: { own: { ...repeating.own!, rule: { ...rule.value, mix } } } },
      ]),
    )
  }

  const withOperations = (made: ReturnType<typeof reparent>, more: Operation[]) => ({
    ...made,
    operations: [...made.operations, ...more],
  })

  function putPart(of: string, partId: string, parentId: string, order: number): Operation {
    const { name = 'Part', pivot = [0, 0, 0] as Vec3 } = kit.part(partId) ?? {}
    const { id: _id, ...fields } = createPlacement({ id: of, name, kind: 'part', partId, parentId, order, pivot })
    return { do: 'put', id: of, fields }
  }

  /** A source goes: back beside the scatter if it was something of the level, or for good if it came from the kit. */
  function removeSource(source: string): void {
    const mix = rule.value.mix.filter(each => each.source !== source)
    const of = currentId.value
    if (of === null) return setRule({ ...rule.value, mix })
    level.change(`Take ${level.view.need(source).name} out of ${level.view.need(of).name}`, [
      ...level.view
        .subtree(source)
        .toReversed()
        .map((each): Operation => ({ do: 'remove', id: each })),
      { do: 'put', id: of, fields: { own: { ...repeating.own!, rule: { ...rule.value, mix } } } },
    ])
  }

  /** Keeps the draft as an arrangement, one change. */
  function create(): void {
    const its = draft.value
    const made = v7()
    const ids = new Map(its.mix.map(({ source }) => [source, level.view.has(source) ? source : v7()]))
    const middle = middleOf(its)
    const toOwn = new Matrix4().makeTranslation(-middle[0], -middle[1], -middle[2])
    const own = referringTo(
      { rule: { ...its, areas: its.areas.map(area => movedArea(area, toOwn)) } },
      each => ids.get(each) ?? each,
    )
    const { id: _id, ...fields } = createPlacement({
      id: made,
      name: freeName(level.view, RULES.scatter.name),
      kind: 'arrangement',
      own,
      translation: middle,
      order: level.view.children(null).length + 1,
    })
    const sources = its.mix.filter(({ source }) => level.view.has(source)).map(({ source }) => source)
    const moved = sources.map(
      (source, i): Operation => ({
        do: 'put',
        id: source,
        fields: { parentId: made, order: i, translation: [0, 0, 0] },
      }),
    )
    const fresh = its.mix.flatMap(({ source }, i) =>
      level.view.has(source) ? [] : [putPart(ids.get(source)!, source, made, i)],
    )
    // Nothing of this one is left for the next, not even what is still being worked out.
    draft.value = RULES.scatter.first
    level.session.dealing.forget(DRAFT)
    if (
      !level.change(`Scatter ${counted(its.mix.length, 'part')}`, [{ do: 'put', id: made, fields }, ...moved, ...fresh])
    ) {
      draft.value = its
      return dealDraft()
    }
    level.pick([made])
    session.stage?.showDraft(null)
  }

  function middleOf({ on, areas }: ScatterRule): Vec3 {
    const box = level.index.extents.boundsOf(
      on.flatMap(each => (level.view.has(each.id) ? level.view.subtree(each.id) : [])),
    )
    const points = areas.flatMap(area => area.points)
    if (points.length > 0)
      return [0, 1, 2].map(axis => tidy(points.reduce((sum, point) => sum + point[axis]!, 0) / points.length)) as Vec3
    return box.isEmpty()
      ? [0, 0, 0]
      : [tidy((box.min.x + box.max.x) / 2), tidy(box.max.y), tidy((box.min.z + box.max.z) / 2)]
  }

  const addArea = (area: Area) =>
    setRule({
      ...rule.value,
      areas: [...rule.value.areas, area],
      plane: rule.value.plane || rule.value.on.length === 0,
    })

  async function figures(): Promise<Figures | null> {
    return dealt.value && level.session.dealing.figures(dealt.value)
  }

  function setOpen(open: boolean): void {
    isOpen.value = open
    if (!open) tinted.value = null
    if (open && currentId.value === null) {
      takeUpPicked()
      dealDraft()
    }
    showDraft()
    showAreas()
  }

  level.onTouched(() => {
    if (isOpen.value && currentId.value === null) dealDraft()
  })
  level.onScatter(of => {
    news.value++
    if (of === DRAFT) showDraft()
    if (of === id.value && tinted.value !== null && progress.value === null) void showTint()
  })
  watch(
    () => level.session,
    () => {
      draft.value = RULES.scatter.first
      tried.value = null
      news.value++
    },
    { flush: 'sync' },
  )
  watch([currentId, () => session.stage], showDraft)
  watch([rule, () => session.stage, () => session.mode, () => level.view], showAreas)
  watch([tinted, id, rule, () => session.stage], () => void showTint())

  return {
    id,
    currentId,
    rule,
    draft,
    report,
    progress,
    dealt,
    tinted,
    cancel,
    tryOut,
    setRule,
    addSurfaces,
    addParts,
    addPicked,
    removeSource,
    create,
    addArea,
    figures,
    setOpen,
    picked,
    siteFor: () => level.session.dealing.siteOf(id.value, rule.value),
  }
})
