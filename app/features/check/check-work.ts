import type { Dealt } from '~~/core/arrange/scatter/deal'
import type { Finding, FixOutcome, FixWay } from '~~/core/check/check'
import { LevelCheck } from '~~/core/check/check'
import type { FindingCounts } from '~~/core/check/report'
import { countFindings, inOrder } from '~~/core/check/report'
import { CheckSite } from '~~/core/check/site'
import { applyChange, recordIn } from '~~/core/level/change'
import type { PlacementColumns } from '~~/core/level/columns'
import { fromColumns } from '~~/core/level/columns'
import type { LevelRecords } from '~~/core/level/level'
import { isSeen } from '~~/core/level/level'
import type { Part } from '~~/core/level/part'
import type { Operation, Placement } from '~~/core/level/schema'
import type { Mesh } from '~~/core/mesh/mesh'
import { affectedBy } from '~~/core/scene/affected'
import { makeScene } from '~~/core/scene/scene'
import { ShapeLibrary } from '~~/core/scene/shapes'
import { pause } from '~/workers/pause'

/**
 * What the page is told: the first findings, the worst first, how many there are of all, and how far a check of
 * everything is.
 */
export type CheckNews = { counts: FindingCounts; findings: Finding[]; progress: number | null }

/** A change as it is sent here; `parts` and `dealt` that became known with it. */
export type CheckChange = {
  operations: Operation[]
  parts: readonly KnownPart[]
  dealt: readonly (readonly [string, Dealt | null])[]
}
export type KnownPart = Pick<Part, 'id' | 'name' | 'kind' | 'tags' | 'inKit' | 'lamps'> & {
  /** With what it is known by; null if that is here already. */
  mesh: {
    hash: string
    primitives: Mesh['primitives']
  } | null
}

/** Milliseconds of work between two looks at what else is asked, and between two times that something is told. */
const [SLICE, TELLING] = [20, 250]
/** Findings that the page is given; the counts are of all. */
const MOST_TOLD = 3000

/**
 * Milliseconds between two looks at whether a hand still works in the page, and between two signs of life meanwhile.
 */
const [WAIT, SIGN] = [30, 5000]

/** The check of a level, which is kept here as the page has it. */
export function checkWork() {
  let check: LevelCheck | null = null
  /** Whether a hand works in the page: long work waits until it rests. */
  let isGivingWay = false
  let tell: (news: CheckNews) => void = () => {}
  let running = 0
  /** Whether everything is being looked at for the first time. */
  let isWhole = false
  let lastTold = 0

  const parts = new Map<string, Omit<KnownPart, 'mesh'>>()
  const shapes = new ShapeLibrary()
  const dealt = new Map<string, Dealt | null>()
  /** Placements of a level that is not opened yet. */
  const taken: Placement[] = []

  const kit = { part: (id: string) => parts.get(id), ids: () => parts.keys(), solidOf: shapes.solid }
  const tagsOf = (partId: string) => parts.get(partId)?.tags ?? []

  function sayNews(progress: number | null): void {
    if (!check) return
    const { findings } = check
    tell({ counts: countFindings(findings), findings: inOrder(findings).slice(0, MOST_TOLD), progress })
    lastTold = performance.now()
  }

  /**
   * Goes through something long in slices; what is asked meanwhile is done in between. A newer run ends it.
   *
   * @returns whether it came to its end
   */
  async function run(work: Generator<number>): Promise<boolean> {
    const mine = ++running
    let since = performance.now()
    for (const share of work) {
      const now = performance.now()
      if (now - since < SLICE) continue
      if (now - lastTold > TELLING) sayNews(share)
      await pause()
      while (isGivingWay && mine === running) {
        await new Promise(resolve => setTimeout(resolve, WAIT))
        if (performance.now() - lastTold > SIGN) sayNews(share)
      }
      if (mine !== running) return false
      since = performance.now()
    }
    sayNews(null)
    return true
  }

  /** Looks at everything. */
  async function runWhole(site: CheckSite): Promise<void> {
    check = new LevelCheck(site)
    isWhole = true
    if (await run(check.all())) isWhole = false
  }

  function know(known: readonly KnownPart[]): void {
    for (const part of known) {
      parts.set(part.id, part)
      if (part.mesh) shapes.put(part.id, part.mesh.hash, part.mesh)
    }
  }

  /** What shows parts whose meshes are others now. */
  function showing(partIds: readonly string[]): string[] {
    if (!check || partIds.length === 0) return []
    const made = new Set(partIds)
    return [...check.site.level.placements()]
      .filter(({ partId }) => partId !== null && made.has(partId))
      .map(({ id }) => id)
  }

  return {
    /** Takes in some placements of the level that is opened next, before `open`. */
    take(columns: PlacementColumns): void {
      taken.push(...fromColumns(columns))
    },

    /**
     * Opens a level of the placements taken in, and checks all of it.
     *
     * @param onNews is told what has been found, now and after each change
     */
    async open(
      records: LevelRecords,
      given: Pick<CheckChange, 'parts' | 'dealt'>,
      onNews: (news: CheckNews) => void,
    ): Promise<void> {
      tell = onNews
      dealt.clear()
      for (const [id, each] of given.dealt) dealt.set(id, each)
      know(given.parts)
      const { level, index } = makeScene(taken.splice(0), records, {
        solidOf: shapes.solid,
        tagsOf,
        lampsOf: id => parts.get(id)?.lamps ?? [],
        dealt: id => dealt.get(id) ?? null,
      })
      await runWhole(new CheckSite(level, index, kit))
    },

    giveWay(does: boolean): void {
      isGivingWay = does
    },

    /** Does to the level here what was done to it in the page, and looks again at what that touches. */
    async change({ operations, parts: known, dealt: fresh }: CheckChange): Promise<void> {
      if (!check) return
      const { site } = check
      const { level, index } = site
      know(known)
      for (const [id, each] of fresh) {
        dealt.set(id, each)
        if (level.has(id)) level.redealt(id)
      }
      const { touched } = applyChange(level, operations)
      for (const [id] of fresh) if (level.has(id)) touched.add(id)
      for (const id of showing(known.filter(({ mesh }) => mesh).map(({ id }) => id))) touched.add(id)
      index.update(affectedBy(level, touched, id => site.isGround(id)))
      check.recheck(
        touched,
        known.map(({ id }) => id),
      )
      // Limits may be asked of all.
      if (operations.some(operation => recordIn(operation) === 'limit')) {
        if (isWhole) await runWhole(check.site)
        else await run(check.relimit())
        return
      }
      if (operations.some(operation => !isSeen(recordIn(operation) ?? 'layer')) || touched.size > 0 || known.length > 0)
        sayNews(null)
    },

    /** What would mend findings; nothing is done. */
    fix: (keys: readonly string[], by: FixWay = 'fix'): FixOutcome =>
      check?.fix(keys, by) ?? { operations: [], done: [], failed: [] },
  }
}

export type CheckWork = ReturnType<typeof checkWork>
