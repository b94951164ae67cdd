import type { Remote } from 'comlink'
import { Matrix4, Vector3 } from 'three'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, triggerRef, watch } from 'vue'
import { v7 } from 'uuid'
import { referringTo } from '~~/core/arrange/refer'
import { RULES } from '~~/core/arrange/rules'
import type { AddedCopies, Dealt, Report } from '~~/core/arrange/scatter/deal'
import type { Figures } from '~~/core/arrange/scatter/figures'
import type { Area, Ingredient, ScatterRule } from '~~/core/arrange/scatter/rule'
import { FIRST_INGREDIENT, nextStream } from '~~/core/arrange/scatter/rule'
import type { ScatterSite } from '~~/core/arrange/scatter/site'
import { PLANE } from '~~/core/arrange/scatter/site'
import { createPlacement, freeName } from '~~/core/level/create'
import type { Operation } from '~~/core/level/schema'
import type { Part } from '~~/core/level/part'
import { reparent } from '~~/core/level/tree'
import { localMatrix } from '~~/core/math/transform'
import type { Vec3 } from '~~/core/math/vectors'
import { copyOf } from '~~/core/scene/copy-id'
import type { ShapeCopies } from '~~/core/scene/expand'
import { matrixOfArea, movedArea } from '~~/core/arrange/scatter/anchor'
import { addedTo, scatterOf, siteOf, surfacesOf } from '~~/core/scene/scatter-site'
import { tidy } from '~~/core/units/quantity'
import { WorkerHost } from '~/workers/host'
import type { ScatterWork } from './scatter-work'
import { useEdits } from '~/editor/edits'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import type { PageScene } from '~/editor/page-scene'
import { useRepeating } from '~/features/repeat/repeating'
import { useStageSession } from '~/editor/stage-session'
import { orNothing } from '~/errors/or-nothing'
import { reportError } from '~/errors/page-errors'
import { counted } from '~~/core/units/plural'
import { ScatterOverlay } from './scatter-overlay'

/** Meshes that the worker has, at which it is looked whether all of them are still in use. */
const MANY_TOLD = 500

/** Seconds without a word from the worker, after which it is ended. */
const SILENCE = 60

/** Names the scatter that is not kept yet. */
export const DRAFT = '00000000-0000-7000-8000-000000000001'

/** What is known of a scatter: the last good result, and how far the next one is, from 0 to 1. */
type Known = { dealt: Dealt | null, report: Report | null, key: string, progress: number | null }

/** Where a scatter is: another number for whatever else it is, and what it was worked out by. */
type KnownSite = { by: string, parts: readonly Part[], site: ScatterSite, text: string, number: number }

/** Scatters: dealt in a worker, the newest request winning; begun as a draft, kept, and changed while they live. */
export const useScattering = defineStore('scattering', () => {
  const level = useLevel()
  const kit = useKit()
  const edits = useEdits()
  const session = useStageSession()
  const repeating = useRepeating()

  const known = shallowRef(new Map<string, Known>())
  /** What a new scatter begins with; its mix names parts of the kit, or placements that become sources. */
  const draft = shallowRef<ScatterRule>(RULES.scatter.first)
  const isOpen = ref(false)
  /** A rule that is tried out on a scatter, such as during a stroke, instead of its own. */
  const tried = shallowRef<{ id: string, rule: ScatterRule } | null>(null)
  /** The limit whose tint is shown; -1 for all together, null for none. */
  const tinted = ref<number | null>(null)
  /** The meshes that the worker has, by what they are known by. */
  const told = new Set<string>()
  /** Where each scatter is, as the worker has it. */
  const toldSites = new Map<string, ScatterSite>()
  const sites = new Map<string, KnownSite>()
  /** Count what was written, and the places that scatters were found in. */
  let [writes, places] = [0, 0]
  const worker = new WorkerHost<ScatterWork>(() => new Worker(new URL('./scatter-worker.ts', import.meta.url), { type: 'module' }), SILENCE, () => {
    told.clear()
    toldSites.clear()
  })
  let requests = 0

  const currentId = computed(() => {
    const id = repeating.current
    return id !== null && scatterOf(level.view, id) ? id : null
  })
  const rule = computed((): ScatterRule => {
    const own = currentId.value === null ? null : repeating.own
    return own?.rule.type === 'scatter' ? own.rule : draft.value
  })
  const id = computed(() => currentId.value ?? DRAFT)
  const report = computed(() => known.value.get(id.value)?.report ?? null)
  const progress = computed(() => known.value.get(id.value)?.progress ?? null)
  const dealt = computed(() => known.value.get(id.value)?.dealt ?? null)

  const parts = { shapes: kit.shapes, tagsOf: (partId: string) => kit.tagsOf(partId) }

  /** Whether a scatter may come out otherwise because of what was touched. */
  function dependsOn(of: string, its: ScatterRule, touched: ReadonlySet<string>): boolean {
    const { view } = level
    // Other things may come and go anywhere.
    if (its.limits.some(({ type, off }) => type === 'things' && !off)) return true
    return [...touched].some(each => each === of || !view.has(each) || view.isWithin(each, of) || its.on.some(({ id: on }) => view.has(on) && (view.isWithin(each, on) || view.isWithin(on, each))))
  }

  /** After something was written: asks anew for those that depend on it. */
  function afterTouching(touched: ReadonlySet<string>): void {
    writes++
    for (const each of touched) if (!level.view.has(each)) known.value.delete(each)
    for (const of of level.view.arrangementIds) {
      const its = scatterOf(level.view, of)
      if (!its) continue
      if (dependsOn(of, its, touched)) void request(of)
    }
    if (isOpen.value && currentId.value === null) void request(DRAFT)
  }

  const shapesIn = (site: ScatterSite) => [...new Set([...site.surfaces, ...site.things.flat()].map(({ shape }) => shape))].filter(shape => shape !== PLANE)
  const keyOf = (of: string, its: ScatterRule, { number }: KnownSite) => JSON.stringify([number, its, of === DRAFT ? {} : addedTo(level.view, of)])

  /** What a scatter finds where it is; worked out anew only after something was written, or is looked for elsewhere: a brush asks at each move. */
  function siteFor(of: string, its: ScatterRule): KnownSite {
    const by = JSON.stringify([writes, its.on, its.limits, of === DRAFT ? its.mix : null])
    const before = sites.get(of)
    if (before?.by === by && before.parts === kit.all) return before
    const site = siteOf(level.view, parts, of, its, of === DRAFT ? new Matrix4() : level.view.worldMatrix(of))
    const text = JSON.stringify(site)
    // What comes to the same is the same: neither the worker nor the scatter has to be asked anew.
    const found = { ...before?.text === text ? before : { site, text, number: ++places }, by, parts: kit.all }
    sites.set(of, found)
    return found
  }

  /** Lets the worker know the meshes that it does not have, and which it may let go: a path that is dragged makes new ones with each move. */
  function tellShapes(remote: Remote<ScatterWork>, site: ScatterSite): void {
    if (told.size > MANY_TOLD) {
      const used = new Set([...known.value.keys()].flatMap((of) => {
        const its = ruleOf(of)
        return its ? shapesIn(siteFor(of, its).site) : []
      }).concat(shapesIn(site)))
      for (const key of told) if (!used.has(key)) told.delete(key)
      void remote.keepOnly(used)
    }
    for (const key of shapesIn(site)) {
      const solid = told.has(key) ? undefined : kit.shapes.solidBy(key)
      if (!solid) continue
      told.add(key)
      void remote.know(key, solid.mesh.primitives.map(({ positions, indices }) => ({ positions, indices })))
    }
  }

  /** Lets the worker know the meshes of a site. @returns the site, or null if the worker has it */
  function tellSite(remote: Remote<ScatterWork>, of: string, site: ScatterSite): ScatterSite | null {
    tellShapes(remote, site)
    if (toldSites.get(of) === site) return null
    toldSites.set(of, site)
    return site
  }

  /** Deals in the worker, which is given the meshes that it takes. @returns null if it was overtaken, called off or ended */
  function dealThere(of: string, number: number, its: ScatterRule, site: ScatterSite, added: AddedCopies, onProgress: (share: number) => void = () => {}, onRough: (dealt: Dealt) => void = () => {}): Promise<Dealt | null> {
    return worker.ask((remote, heard) => remote.deal(of, number, its, tellSite(remote, of, site), added, heard(onProgress), heard(onRough)))
  }

  const ruleOf = (of: string) => tried.value?.id === of ? tried.value.rule : of === DRAFT ? draft.value : scatterOf(level.view, of)

  /** Deals a scatter, unless it was dealt so already. */
  async function request(of: string): Promise<void> {
    const its = ruleOf(of)
    if (!its) return
    const found = siteFor(of, its)
    const { site } = found
    const key = keyOf(of, its, found)
    if (known.value.get(of)?.key === key) return
    const number = ++requests
    put(of, { ...known.value.get(of) ?? { dealt: null, report: null }, key, progress: 0 })
    // What is said on the way may arrive after the answer: it comes by a channel of its own.
    let isAnswered = false
    const isNewest = () => !isAnswered && known.value.get(of)?.key === key
    const answer = await dealThere(of, number, its, site, of === DRAFT ? {} : addedTo(level.view, of), (share) => {
      if (isNewest()) put(of, { ...known.value.get(of)!, progress: share })
    }, (rough) => {
      if (isNewest()) take(of, rough, key, 0)
    }).catch((error: unknown) => {
      level.tell('The scatter could not be worked out', [error instanceof Error ? error.message : String(error), 'What was there before stays.'])
      if (isNewest()) put(of, { ...known.value.get(of)!, progress: null })
      return null
    })
    if (answer && isNewest()) take(of, answer, key, null)
    isAnswered = true
  }

  function put(of: string, next: Known): void {
    known.value.set(of, next)
    triggerRef(known)
  }

  /** Shows what was dealt. What is wrong is said, and the last good result stays. */
  function take(of: string, answer: Dealt, key: string, left: number | null): void {
    const before = known.value.get(of)
    const isGood = answer.report.problem === null
    put(of, { dealt: isGood ? answer : before?.dealt ?? null, report: answer.report, key, progress: left })
    if (of === DRAFT) showDraft()
    else if (level.view.arrangementIds.has(of) && isGood) level.redealt(of, answer)
    if (tinted.value !== null && of === id.value) void showTint()
  }

  /** Deals all scatters of a level that is not the open one, for showing it around what is worked on. Those that cannot be dealt show nothing. */
  async function dealFor({ level: view, dealt: found }: PageScene): Promise<void> {
    for (const of of view.arrangementIds) {
      const its = scatterOf(view, of)
      if (!its) continue
      const site = siteOf(view, parts, of, its)
      const dealt = await dealThere(`around ${of}`, ++requests, its, site, addedTo(view, of)).catch((error: unknown) => {
        reportError(error, 'worker')
        return null
      })
      worker.tell(remote => remote.forget(`around ${of}`))
      toldSites.delete(`around ${of}`)
      if (dealt) found.set(of, dealt)
      view.redealt(of)
    }
  }

  /** Stops working on it; what is there stays. */
  function cancel(): void {
    const of = id.value
    worker.tell(remote => remote.cancel(of))
    const before = known.value.get(of)
    // What is asked for next is worked out also if nothing changed.
    if (before) put(of, { ...before, key: '', progress: null })
  }

  /** Tries a rule out on what is shown; null ends that. */
  function tryOut(next: ScatterRule | null): void {
    const of = id.value
    tried.value = next && { id: of, rule: next }
    void request(of)
  }

  async function showTint(): Promise<void> {
    const { stage } = session
    if (!stage) return
    const [limit, its] = [tinted.value, tried.value?.rule ?? rule.value]
    if (limit === null || limit >= its.limits.length) return stage.layer(ScatterOverlay).tint(null)
    const of = id.value
    const { site } = siteFor(of, its)
    const tint = await worker.ask(remote => remote.tint(of, its, tellSite(remote, of, site), limit)).catch(orNothing)
    if (tinted.value === limit) stage.layer(ScatterOverlay).tint(tint)
    stage.requestDraw()
  }

  /** The areas are drawn while the form is open and no tool draws something of its own. */
  function showAreas(): void {
    if (session.mode) return
    const toWorld = (currentId.value === null ? new Matrix4() : level.view.worldMatrix(currentId.value)).toArray()
    const surfaces = rule.value.areas.some(({ lies }) => lies) ? surfacesOf(level.view, id.value, rule.value) : []
    session.stage?.layer(ScatterOverlay).outline(isOpen.value ? rule.value.areas.map((area) => {
      const matrix = matrixOfArea(area, { surfaces, toWorld })
      return { points: area.points.map(point => new Vector3(...point).applyMatrix4(matrix)), closed: area.type === 'loop', hole: area.hole }
    }) : [])
    session.stage?.requestDraw()
  }

  /** The copies of the draft, as the stage draws them. */
  function showDraft(): void {
    const of = known.value.get(DRAFT)?.dealt
    const isShown = isOpen.value && currentId.value === null && of
    session.stage?.showDraft(isShown ? draft.value.mix.flatMap((_, i) => shapesOf(draft.value.mix[i]!.source, of, i)) : null)
  }

  function shapesOf(source: string, { count, sources, matrices }: Dealt, number: number): ShapeCopies[] {
    const indices = Int32Array.from({ length: count }, (_, i) => i).filter(i => sources[i] === number)
    const placed = (matrix: Matrix4) => {
      const out = new Float64Array(indices.length * 16)
      const one = new Matrix4()
      indices.forEach((from, i) => one.fromArray(matrices, from * 16).multiply(matrix).toArray(out, i * 16))
      return out
    }
    if (!level.view.has(source)) return [{ shape: source, matrices: placed(new Matrix4()), indices }]
    const its = level.view.need(source)
    const back = localMatrix({ ...its, translation: [0, 0, 0] }, new Matrix4()).multiply(level.view.worldMatrix(source).clone().invert())
    return level.view.subtree(source).flatMap((below) => {
      const shape = level.view.shapeOf(below)
      return shape === null ? [] : [{ shape, matrices: placed(back.clone().multiply(level.view.worldMatrix(below))), indices }]
    })
  }

  /** Changes the rule: of the draft, or of the scatter that is picked, as one change. */
  function setRule(next: ScatterRule, joins?: string): void {
    if (currentId.value !== null) repeating.setRule(next, joins)
    else {
      draft.value = next
      void request(DRAFT)
    }
  }

  /** What is picked, without copies and what the scatter itself is made of. */
  const picked = () => [...level.selection.ids].map(each => copyOf(each)?.arrangementId ?? each).filter(each => each !== currentId.value && level.view.has(each) && (currentId.value === null || !level.view.isWithin(each, currentId.value)))

  /** Things whose surfaces are meant as well. */
  function addSurfaces(ids: readonly string[] = picked()): void {
    let { on } = rule.value
    for (const each of new Set(ids)) if (!on.some(other => other.id === each) && !scatterOf(level.view, each)) on = [...on, { id: each, stream: nextStream(on) }]
    setRule({ ...rule.value, on })
  }

  const ingredientFor = (source: string, mix: readonly Ingredient[]): Ingredient => ({ ...FIRST_INGREDIENT, source, stream: nextStream(mix) })

  /** What is picked when a new scatter is begun: props are what is scattered, and all else is what it is scattered on. */
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
    level.change(`Add to ${level.view.need(of).name}`, [...made.map((each, i) => putPart(each.id, each.partId, of, 1000 + mix.length + i)), { do: 'put', id: of, fields: { own: { ...repeating.own!, rule: { ...before, mix } } } }])
  }

  /** What is picked as further sources: it goes into the scatter when that is kept, or at once if it is. */
  function addPicked(): void {
    const ids = repeating.movable().filter(each => each !== currentId.value && !rule.value.on.some(on => on.id === each))
    let { mix } = rule.value
    for (const each of ids) if (!mix.some(({ source }) => source === each)) mix = [...mix, ingredientFor(each, mix)]
    const of = currentId.value
    if (of === null) return setRule({ ...rule.value, mix })
    edits.restructure(`Add to ${level.view.need(of).name}`, withOperations(reparent(level.view, ids, of), [{ do: 'put', id: of, fields: { own: { ...repeating.own!, rule: { ...rule.value, mix } } } }]))
  }

  const withOperations = (made: ReturnType<typeof reparent>, more: Operation[]) => ({ ...made, operations: [...made.operations, ...more] })

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
      ...level.view.subtree(source).toReversed().map((each): Operation => ({ do: 'remove', id: each })), { do: 'put', id: of, fields: { own: { ...repeating.own!, rule: { ...rule.value, mix } } } },
    ])
  }

  /** Keeps the draft as an arrangement, one change. */
  function create(): void {
    const its = draft.value
    const made = v7()
    const ids = new Map(its.mix.map(({ source }) => [source, level.view.has(source) ? source : v7()]))
    const middle = middleOf(its)
    const toOwn = new Matrix4().makeTranslation(-middle[0], -middle[1], -middle[2])
    const own = referringTo({ rule: { ...its, areas: its.areas.map(area => movedArea(area, toOwn)) } }, each => ids.get(each) ?? each)
    const { id: _id, ...fields } = createPlacement({ id: made, name: freeName(level.view, RULES.scatter.name), kind: 'arrangement', own, translation: middle, order: level.view.children(null).length + 1 })
    const sources = its.mix.filter(({ source }) => level.view.has(source)).map(({ source }) => source)
    const moved = sources.map((source, i): Operation => ({ do: 'put', id: source, fields: { parentId: made, order: i, translation: [0, 0, 0] } }))
    const fresh = its.mix.flatMap(({ source }, i) => level.view.has(source) ? [] : [putPart(ids.get(source)!, source, made, i)])
    // Nothing of this one is left for the next, not even what is still being worked out.
    draft.value = RULES.scatter.first
    known.value.delete(DRAFT)
    if (!level.change(`Scatter ${counted(its.mix.length, 'part')}`, [{ do: 'put', id: made, fields }, ...moved, ...fresh])) {
      draft.value = its
      return void request(DRAFT)
    }
    level.pick([made])
    session.stage?.showDraft(null)
  }

  function middleOf({ on, areas }: ScatterRule): Vec3 {
    const box = level.index.extents.boundsOf(on.flatMap(each => level.view.has(each.id) ? level.view.subtree(each.id) : []))
    const points = areas.flatMap(area => area.points)
    if (points.length > 0) return [0, 1, 2].map(axis => tidy(points.reduce((sum, point) => sum + point[axis]!, 0) / points.length)) as Vec3
    return box.isEmpty() ? [0, 0, 0] : [tidy((box.min.x + box.max.x) / 2), tidy(box.max.y), tidy((box.min.z + box.max.z) / 2)]
  }

  const addArea = (area: Area) => setRule({ ...rule.value, areas: [...rule.value.areas, area], plane: rule.value.plane || rule.value.on.length === 0 })

  async function figures(): Promise<Figures | null> {
    const of = dealt.value
    return of && worker.ask(remote => remote.figures({ count: of.count, matrices: of.matrices, slopes: of.slopes, report: of.report }))
  }

  function setOpen(open: boolean): void {
    isOpen.value = open
    if (!open) tinted.value = null
    if (open && currentId.value === null) {
      takeUpPicked()
      void request(DRAFT)
    }
    showDraft()
    showAreas()
  }

  level.onTouched(afterTouching)
  watch(() => level.summary?.id, (open) => {
    // With it goes all that it kept of the level before.
    worker.end()
    writes++
    sites.clear()
    known.value = new Map()
    draft.value = RULES.scatter.first
    tried.value = null
    if (open !== undefined) for (const of of level.view.arrangementIds) void request(of)
  }, { immediate: true, flush: 'sync' })
  watch([currentId, () => session.stage], showDraft)
  watch([rule, () => session.stage, () => session.mode, () => level.view], showAreas)
  watch([tinted, id, rule, () => session.stage], () => void showTint())

  return {
    id, currentId, rule, draft, report, progress, dealt, tinted, cancel, tryOut, setRule, addSurfaces, addParts, addPicked, removeSource, dealFor, create, addArea, figures, setOpen, picked,
    siteFor: () => siteFor(id.value, rule.value).site,
  }
})
