import { transfer } from 'comlink'
import { Box3, Vector3 } from 'three'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { v7 } from 'uuid'
import { z } from 'zod'
import type { Finding, FixOutcome, FixWay } from '~~/core/check/check'
import type { CheckName } from '~~/core/check/kinds'
import { CHECK_NAMES, checkOf } from '~~/core/check/kinds'
import type { FindingCounts } from '~~/core/check/report'
import { nameOfThing, sayFinding } from '~~/core/check/report'
import { buffersOf, toColumns } from '~~/core/level/columns'
import { recordsOf } from '~~/core/level/level'
import { limitFieldsSchema } from '~~/core/level/limits'
import type { Operation } from '~~/core/level/schema'
import type { Primitive } from '~~/core/mesh/mesh'
import { copyOf } from '~~/core/scene/copy-id'
import { scatterOf } from '~~/core/scene/scatter-site'
import type { CheckChange, CheckNews, CheckWork, KnownPart } from './check-work'
import { WorkerHost } from '~/workers/host'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { useHand } from '~/editor/hand'
import { counted } from '~~/core/units/plural'
import { FindingFrames } from './finding-frames'

/** What of the list is shown. */
export type CheckFilter = { by: 'all' } | { by: 'picked' } | { by: 'layer'; id: string } | { by: 'group'; id: string }

/** Findings that are mended at a time; each is tried, and looked at again. */
const MOST_FIXED = 500

/** Placements that the worker is handed at a time: more would keep the page from all else for too long. */
const SLICE = 2000

/** Seconds without a word from the worker, after which it is ended. */
const SILENCE = 120

/** Before anything was looked at: that nothing was found means nothing yet. */
const NOT_LOOKED: CheckNews = { counts: { error: 0, warning: 0, note: 0, left: 0 }, findings: [], progress: 0 }

/** A fix that is shown and waits to be done. */
export type FixPreview = FixOutcome & { keys: readonly string[]; by: FixWay }

/** The level check: in a worker with a level of its own that is kept as the page's is. */
export const useChecking = defineStore('checking', () => {
  const level = useLevel()
  const kit = useKit()
  const settings = useSettings()
  const session = useStageSession()
  const tools = useTools()
  const showPreview = tools.claimPreview()
  const hand = useHand()

  const news = shallowRef<CheckNews>(NOT_LOOKED)
  const filter = shallowRef<CheckFilter>({ by: 'all' })
  const current = ref<string | null>(null)
  const preview = shallowRef<FixPreview | null>(null)
  const worker = new WorkerHost<CheckWork>(
    () => new Worker(new URL('./check-worker.ts', import.meta.url), { type: 'module' }),
    SILENCE,
  )
  /** Whether the worker has all of the level. */
  let isGiven = false
  /** What was done to the level and the worker does not know yet. */
  let done: Operation[] = []
  const toldParts = new Map<string, { part: object; hash: string | undefined }>()
  let toldDealt = new Map<string, object | null>()

  const counts = computed((): FindingCounts => news.value.counts)
  const progress = computed(() => news.value.progress)

  const accepts = (finding: Finding): boolean => {
    const chosen = filter.value
    if (chosen.by === 'all') return true
    return finding.things.some(thing => {
      const id = copyOf(thing)?.arrangementId ?? thing
      if (!level.view.has(id)) return false
      if (chosen.by === 'layer') return level.view.need(id).layerId === chosen.id
      if (chosen.by === 'group') return level.view.has(chosen.id) && level.view.isWithin(id, chosen.id)
      return [...level.selection.ids].some(
        picked => level.view.has(picked) && (level.view.isWithin(id, picked) || picked === thing),
      )
    })
  }
  const listed = computed(() => news.value.findings.filter(accepts))
  /** By kind, the worst first; what is left as it is stands under its kind as well. */
  const groups = computed(() => {
    const found = new Map<CheckName, Finding[]>()
    for (const finding of listed.value) found.set(finding.of, [...(found.get(finding.of) ?? []), finding])
    return [...found].map(([kind, findings]) => ({
      kind,
      findings,
      open: findings.filter(({ left }) => left === undefined),
    }))
  })

  const name = (id: string) =>
    nameOfThing({ level: level.view, kit: { part: kit.part, ids: () => [], solidOf: kit.solid } }, id)
  const say = (finding: Finding) => sayFinding(finding, { name, length: metres => settings.lengths([metres]) })

  function partsToTell(): KnownPart[] {
    return kit.all.flatMap((part): KnownPart[] => {
      const [hash, solid] = [kit.shapes.keyOf(part.id), kit.shapes.solid(part.id)]
      const before = toldParts.get(part.id)
      if (before?.part === part && before.hash === hash) return []
      toldParts.set(part.id, { part, hash })
      const { id, name: called, kind, tags, inKit, lamps } = part
      return [
        {
          id,
          name: called,
          kind,
          tags: [...tags],
          inKit,
          lamps,
          mesh:
            hash !== undefined && solid && before?.hash !== hash
              ? { hash, primitives: solid.mesh.primitives.map(bare) }
              : null,
        },
      ]
    })
  }

  /** Scatters that were dealt since they were told. */
  function dealtToTell(): CheckChange['dealt'][number][] {
    return [...level.view.arrangementIds].flatMap((id): CheckChange['dealt'][number][] => {
      if (!scatterOf(level.view, id)) return []
      const dealt = level.view.dealt(id)
      if (dealt === (toldDealt.get(id) ?? null)) return []
      toldDealt.set(id, dealt)
      return [[id, dealt]]
    })
  }

  /** Hands the worker the level, a slice at a time; what is done to it meanwhile follows. */
  function open(): void {
    close()
    const { view } = level
    const placements = [...view.placements()]
    const records = recordsOf(view)
    const given = { parts: partsToTell(), dealt: dealtToTell() }
    void worker
      .ask(async (remote, heard) => {
        for (let from = 0; from < placements.length; from += SLICE) {
          const columns = toColumns(placements.slice(from, from + SLICE))
          await remote.take(transfer(columns, buffersOf(columns)))
        }
        const whole = remote.open(
          records,
          given,
          heard((told: CheckNews) => {
            if (level.view === view) take(told)
          }),
        )
        isGiven = true
        send()
        await whole
      })
      .catch(failed)
  }

  function close(): void {
    // With it goes the level that it kept.
    worker.end()
    isGiven = false
    done = []
    toldParts.clear()
    toldDealt = new Map()
    news.value = NOT_LOOKED
    current.value = null
    endPreview()
    filter.value = { by: 'all' }
  }

  function failed(error: unknown): void {
    level.notify('The check cannot go on', [error instanceof Error ? error.message : String(error)])
  }

  function take(told: CheckNews): void {
    news.value = told
    if (current.value !== null && !told.findings.some(({ key }) => key === current.value)) current.value = null
  }

  /** Lets the worker know what has been done since it was told last. */
  function send(): void {
    if (!isGiven || !level.summary) return
    const change = { operations: done, parts: partsToTell(), dealt: dealtToTell() }
    done = []
    if (change.operations.length + change.parts.length + change.dealt.length === 0) return
    endPreview()
    void worker.ask(remote => remote.change(change)).catch(failed)
  }

  /** The things of a finding that can be picked. */
  const thingsOf = ({ things }: Finding) => things.filter(id => level.view.has(id))

  /** Looks at a finding, with its things picked. */
  function lookAt(finding: Finding): void {
    current.value = finding.key
    const things = thingsOf(finding)
    if (things.length > 0) level.pick(things.toReversed())
    // Of a thing and an arrangement the thing is where to look.
    const single = things.filter(id => !level.view.arrangementIds.has(id))
    const box = level.index.extents.boundsOf(
      (single.length > 0 ? single : things).flatMap(id => level.view.subtree(id)),
      new Box3(),
    )
    if (box.isEmpty()) box.expandByPoint(new Vector3(...finding.at))
    if (finding.things.length > 0 && checkOf(finding.of).looksAt !== 'part')
      session.stage?.frameBox(box.expandByScalar(Math.max(0.4, box.getSize(new Vector3()).length() * 0.4)))
  }

  /** Goes on in the list. */
  function step(by: 1 | -1): void {
    const all = groups.value.flatMap(({ findings }) => findings)
    if (all.length === 0) return
    const at = all.findIndex(({ key }) => key === current.value)
    lookAt(all[at < 0 ? (by > 0 ? 0 : all.length - 1) : (at + by + all.length) % all.length]!)
  }

  /** Leaves a finding as it is, with the reason, or no longer; kept in the level. */
  function leave(finding: Finding, reason: string | null): void {
    const known = [...level.view.exemptions.values()].filter(
      ({ of, things }) => of === finding.of && [...things].sort().join() === [...finding.things].sort().join(),
    )
    const gone = known.map(({ id }): Operation => ({ do: 'remove-exemption', id }))
    if (reason === null) level.change(`Look at "${say(finding)}" again`.slice(0, 110), gone)
    else
      level.change(`Leave "${say(finding)}"`.slice(0, 110), [
        ...gone,
        {
          do: 'put-exemption',
          id: v7(),
          fields: { of: finding.of, things: [...finding.things], amount: finding.amount, reason },
        },
      ])
  }

  /** What is asked of a kind of finding in this level. */
  function limitsOf(of: CheckName): { off: boolean; values: Record<string, number> } {
    const { limits, offAtFirst } = checkOf(of)
    const set = [...level.view.limits.values()].findLast(limit => limit.of === of)
    return {
      off: set?.off ?? offAtFirst === true,
      values: Object.fromEntries(Object.entries(limits).map(([key, { first }]) => [key, set?.values[key] ?? first])),
    }
  }

  function setLimits(of: CheckName, change: { off?: boolean; values?: Record<string, number> }): void {
    const id = [...level.view.limits.values()].findLast(limit => limit.of === of)?.id ?? v7()
    const { off, values } = limitsOf(of)
    level.change(`Set the limits of "${checkOf(of).name}"`, [
      { do: 'put-limit', id, fields: { of, off: change.off ?? off, values: { ...values, ...change.values } } },
    ])
  }

  /** What is asked of the level, by kind of finding. */
  const allLimits = computed(() => {
    return Object.fromEntries(CHECK_NAMES.map(of => [of, limitsOf(of)]))
  })

  const readLimits = (given: object) =>
    z.record(z.enum(CHECK_NAMES as [CheckName, ...CheckName[]]), limitFieldsSchema.omit({ of: true })).safeParse(given)

  /** What is wrong with limits that were kept; null if they can be set. */
  const checkLimits = (given: object) =>
    readLimits(given).success ? null : 'something in it is no limit of this check.'

  /** Sets all limits as they were kept, as one change. */
  function setAllLimits(given: object): void {
    const read = readLimits(given)
    if (!read.success) return
    const operations = Object.entries(read.data).map(([of, { off, values }]): Operation => {
      const id = [...level.view.limits.values()].findLast(limit => limit.of === of)?.id ?? v7()
      return { do: 'put-limit', id, fields: { of, off, values } }
    })
    level.change('Set the limits of the check', operations)
  }

  /** What mends a kind of finding, or what may be done in its place, in a word; null if nothing does. */
  function doesBy(of: CheckName, by: FixWay): string | null {
    const { fix } = checkOf(of)
    if (by === 'fix' || !fix) return fix?.does ?? null
    return (fix.by === 'operations' && fix.instead?.does) || null
  }

  /** Shows on the stage what would mend some findings. */
  async function previewFix(keys: readonly string[], by: FixWay): Promise<void> {
    if (!worker.isRunning) return
    const outcome = await worker
      .ask(remote => remote.fix(keys.slice(0, MOST_FIXED), by))
      .catch(
        (error: unknown): FixOutcome => ({
          operations: [],
          done: [],
          failed: keys.map(key => ({ key, why: error instanceof Error ? error.message : String(error) })),
        }),
      )
    if (!outcome) return
    preview.value = { ...outcome, keys, by }
    showPreview(outcome.operations.filter(operation => operation.do === 'put'))
    session.stage?.requestDraw()
  }

  function endPreview(): void {
    showPreview(null)
    preview.value = null
  }

  /** Does what is shown, as one change. */
  function doFix(): void {
    const wanted = preview.value
    if (!wanted) return
    endPreview()
    const [first] = wanted.done
    const finding = news.value.findings.find(({ key }) => key === first)
    const does = (finding && doesBy(finding.of, wanted.by)) ?? 'Mend'
    level.change(
      wanted.done.length === 1 && finding
        ? `${does}: ${name(finding.things[0]!)}`
        : `${does}: ${counted(wanted.done.length, 'finding')}`,
      wanted.operations,
    )
  }

  /** Frames on the stage what is in the list, while that is open; of the notes, which are many, the one looked at. */
  function frame(): void {
    const { stage } = session
    if (!stage) return
    const isOpen = settings.panels.showBench && settings.kept.bench === 'check'
    const framed = !isOpen
      ? []
      : listed.value
          .filter(
            ({ left, key, of }) => left === undefined && (checkOf(of).severity !== 'note' || key === current.value),
          )
          .slice(0, 300)
          .flatMap(({ of, things }) =>
            things
              .filter(id => level.view.has(id) && !level.view.arrangementIds.has(id))
              .map(id => ({
                box: level.index.extents.boundsOf(level.view.subtree(id), new Box3()),
                severity: checkOf(of).severity,
              })),
          )
    stage.layer(FindingFrames).set(framed)
    stage.requestOverlay()
  }

  level.onApplied(operations => {
    if (worker.isRunning) for (const operation of operations) done.push(operation)
  })
  level.onTouched(send)
  watch(
    () => hand.atWork,
    atWork => worker.tell(remote => remote.giveWay(atWork)),
  )
  watch(() => kit.all, send)
  watch(
    () => level.summary?.id,
    id => {
      if (id === undefined) close()
      else open()
    },
    { immediate: true },
  )
  watch(
    [
      listed,
      current,
      () => session.stage,
      () => settings.kept.bench,
      () => settings.panels.showBench,
      () => settings.boardName,
    ],
    frame,
  )

  return {
    news,
    counts,
    progress,
    filter,
    current,
    preview,
    listed,
    groups,
    say,
    name,
    lookAt,
    step,
    leave,
    limitsOf,
    setLimits,
    allLimits,
    checkLimits,
    setAllLimits,
    doesBy,
    previewFix,
    endPreview,
    doFix,
  }
})

/** What a check needs of a mesh. */
const bare = ({ positions, normals, indices, material }: Primitive): Primitive => ({
  positions,
  normals,
  indices,
  material: { name: material.name, baseColor: [1, 1, 1], roughness: 1, metallic: 0, emissive: [0, 0, 0] },
})
