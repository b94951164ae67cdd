import type { Remote } from 'comlink'
import { Matrix4 } from 'three'
import { carried, waysBetween } from '~~/core/arrange/scatter/carry'
import type { AddedCopies, Dealt, Report } from '~~/core/arrange/scatter/deal'
import type { Figures } from '~~/core/arrange/scatter/figures'
import type { ScatterRule } from '~~/core/arrange/scatter/rule'
import type { ScatterSite } from '~~/core/arrange/scatter/site'
import { PLANE } from '~~/core/arrange/scatter/site'
import type { Part } from '~~/core/level/part'
import type { LevelView } from '~~/core/scene/level-view'
import type { PartsKnown } from '~~/core/scene/scatter-site'
import { addedTo, scatterOf, siteOf } from '~~/core/scene/scatter-site'
import type { ShapeLibrary } from '~~/core/scene/shapes'
import { WorkerHost } from '~/workers/host'
import type { ScatterWork } from './scatter-work'

/** Meshes that the worker has, at which it is looked whether all of them are still in use. */
const MANY_TOLD = 500
/** Seconds without a word from the worker, after which it is ended. */
const SILENCE = 60

/** Names the scatter that is not kept yet. */
export const DRAFT = '00000000-0000-7000-8000-000000000001'

/** What is known of a scatter: the last good result, and how far the next one is, from 0 to 1. */
export type Known = { dealt: Dealt | null; report: Report | null; key: string; progress: number | null }

/** Where a scatter is: another number for whatever else it is, and what it was worked out by. */
type KnownSite = { by: string; parts: readonly Part[]; site: ScatterSite; text: string; number: number }

/** What dealing needs to know of the kit. */
export type DealingParts = PartsKnown & {
  shapes: ShapeLibrary
  /** Another list after whatever changed in the kit. */
  all: () => readonly Part[]
}

export type DealingEvents = {
  /** Something else is known of a scatter. */
  onKnown: (id: string) => void
  /** A scatter has other copies now. */
  onDealt: (id: string, dealt: Dealt) => void
  onFailed: (error: unknown) => void
}

/** The scatters of one open level: dealt in a worker, of each the newest request winning. */
export class Dealing {
  private readonly results = new Map<string, Known>()
  /** Rules that are tried out, such as during a stroke, instead of a scatter's own; the draft has no other. */
  private readonly tried = new Map<string, ScatterRule>()
  /** The meshes that the worker has, by what they are known by. */
  private readonly told = new Set<string>()
  /** Where each scatter is, as the worker has it. */
  private readonly toldSites = new Map<string, ScatterSite>()
  private readonly sites = new Map<string, KnownSite>()
  /** Counts what was written. */
  private writes = 0
  /** Counts the places that scatters were found in. */
  private places = 0
  private requests = 0
  private readonly worker = new WorkerHost<ScatterWork>(
    () => new Worker(new URL('./scatter-worker.ts', import.meta.url), { type: 'module' }),
    SILENCE,
    () => {
      this.told.clear()
      this.toldSites.clear()
    },
  )

  constructor(
    private readonly level: LevelView,
    private readonly parts: DealingParts,
    private readonly events: DealingEvents,
  ) {}

  known(id: string): Known | undefined {
    return this.results.get(id)
  }

  /** Deals all scatters of the level. */
  begin(): void {
    for (const id of this.level.arrangementIds) void this.request(id)
  }

  /** Ends the worker, and all that it has begun. */
  end(): void {
    this.worker.end()
  }

  /** After something was written: deals those anew that depend on it. */
  afterTouching(touched: ReadonlySet<string>): void {
    this.writes++
    for (const each of touched) if (!this.level.has(each)) this.results.delete(each)
    for (const id of this.level.arrangementIds) {
      const rule = scatterOf(this.level, id)
      if (rule && this.dependsOn(id, rule, touched)) void this.request(id)
    }
  }

  /** Deals by a rule that is tried out, or by the scatter's own again if it is null. */
  tryOut(id: string, rule: ScatterRule | null): void {
    if (rule) this.tried.set(id, rule)
    else this.tried.delete(id)
    void this.request(id)
  }

  /** Forgets a scatter, and what is still being worked out of it. */
  forget(id: string): void {
    this.tried.delete(id)
    this.results.delete(id)
    this.events.onKnown(id)
  }

  /** Stops working on a scatter; what is there stays. */
  cancel(id: string): void {
    this.worker.tell(remote => remote.cancel(id))
    const before = this.results.get(id)
    // What is asked for next is worked out also if nothing changed.
    if (before) this.put(id, { ...before, key: '', progress: null })
  }

  /** Deals a scatter, unless it was dealt so already. */
  async request(id: string): Promise<void> {
    const rule = this.ruleOf(id)
    if (!rule) return
    const before = this.sites.get(id)?.site
    const found = this.siteFor(id, rule)
    const added = this.addedTo(id)
    const key = JSON.stringify([found.number, rule, added])
    if (this.results.get(id)?.key === key) return
    this.put(id, { ...(this.results.get(id) ?? { dealt: null, report: null }), key, progress: 0 })
    const isCarried = before !== undefined && this.carry(id, before, found.site, added)
    // What is said on the way may arrive after the answer: it comes by a channel of its own.
    let isAnswered = false
    const isLatest = () => !isAnswered && this.results.get(id)?.key === key
    const answer = await this.dealThere(
      id,
      rule,
      found.site,
      added,
      progress => {
        if (isLatest()) this.put(id, { ...this.results.get(id)!, progress })
      },
      rough => {
        // What has gone along is whole already.
        if (isLatest() && !isCarried) this.take(id, rough, key, 0)
      },
    ).catch((error: unknown) => {
      this.events.onFailed(error)
      if (isLatest()) this.put(id, { ...this.results.get(id)!, progress: null })
      return null
    })
    if (answer && isLatest()) this.take(id, answer, key, null)
    isAnswered = true
  }

  /**
   * Deals all scatters of a level that is not the open one, for showing it around what is worked on. Those that cannot
   * be dealt show nothing.
   *
   * @param put is given what each was dealt
   */
  async dealFor(
    level: LevelView,
    put: (id: string, dealt: Dealt) => void,
    failed: (error: unknown) => void,
  ): Promise<void> {
    for (const id of level.arrangementIds) {
      const rule = scatterOf(level, id)
      if (!rule) continue
      const name = `around ${id}`
      const dealt = await this.dealThere(name, rule, siteOf(level, this.parts, id, rule), addedTo(level, id)).catch(
        (error: unknown) => {
          failed(error)
          return null
        },
      )
      this.worker.tell(remote => remote.forget(name))
      this.toldSites.delete(name)
      if (dealt) put(id, dealt)
      level.redealt(id)
    }
  }

  /** Where a scatter is, by the rule it has now. */
  siteOf(id: string, rule: ScatterRule): ScatterSite {
    return this.siteFor(id, rule).site
  }

  /** Colours for a limit of a rule; null if the worker was ended. @param limit -1 for all of them together */
  tint(
    id: string,
    rule: ScatterRule,
    limit: number,
  ): Promise<{ positions: Float32Array; through: Float32Array } | null> {
    const { site } = this.siteFor(id, rule)
    return this.worker.ask(remote => remote.tint(id, rule, this.tellSite(remote, id, site), limit))
  }

  figures({ count, matrices, slopes, report }: Dealt): Promise<Figures | null> {
    return this.worker.ask(remote => remote.figures({ count, matrices, slopes, report }))
  }

  private ruleOf(id: string): ScatterRule | null {
    return this.tried.get(id) ?? (id === DRAFT ? null : scatterOf(this.level, id))
  }

  private addedTo(id: string): AddedCopies {
    return id === DRAFT ? {} : addedTo(this.level, id)
  }

  /** Whether a scatter may come out otherwise because of what was touched. */
  private dependsOn(id: string, { limits, on }: ScatterRule, touched: ReadonlySet<string>): boolean {
    const { level } = this
    // Other things may come and go anywhere.
    if (limits.some(({ type, off }) => type === 'things' && !off)) return true
    const meets = (a: string, b: string) => level.isWithin(a, b) || level.isWithin(b, a)
    return [...touched].some(
      each =>
        each === id
        || !level.has(each)
        || level.isWithin(each, id)
        || on.some(surface => level.has(surface.id) && meets(each, surface.id)),
    )
  }

  /**
   * What a scatter finds where it is; worked out anew only after something was written, or is looked for elsewhere: a
   * brush asks at each move.
   */
  private siteFor(id: string, rule: ScatterRule): KnownSite {
    const by = JSON.stringify([this.writes, rule.on, rule.limits, id === DRAFT ? rule.mix : null])
    const before = this.sites.get(id)
    const parts = this.parts.all()
    if (before?.by === by && before.parts === parts) return before
    const site = siteOf(this.level, this.parts, id, rule, id === DRAFT ? new Matrix4() : this.level.worldMatrix(id))
    const text = JSON.stringify(site)
    // What comes to the same is the same: neither the worker nor the scatter has to be asked anew.
    const found = { ...(before?.text === text ? before : { site, text, number: ++this.places }), by, parts }
    this.sites.set(id, found)
    return found
  }

  /**
   * Lets the worker know the meshes that it does not have, and which it may let go: a path that is dragged makes new
   * ones with each move.
   */
  private tellShapes(remote: Remote<ScatterWork>, site: ScatterSite): void {
    if (this.told.size > MANY_TOLD) {
      const used = new Set(shapesIn(site))
      for (const id of this.results.keys()) {
        const rule = this.ruleOf(id)
        if (rule) for (const shape of shapesIn(this.siteFor(id, rule).site)) used.add(shape)
      }
      for (const key of this.told) if (!used.has(key)) this.told.delete(key)
      void remote.keepOnly(used)
    }
    for (const key of shapesIn(site)) {
      const solid = this.told.has(key) ? undefined : this.parts.shapes.solidBy(key)
      if (!solid) continue
      this.told.add(key)
      void remote.know(
        key,
        solid.mesh.primitives.map(({ positions, indices }) => ({ positions, indices })),
      )
    }
  }

  /** Lets the worker know the meshes of a site. @returns the site, or null if the worker has it */
  private tellSite(remote: Remote<ScatterWork>, id: string, site: ScatterSite): ScatterSite | null {
    this.tellShapes(remote, site)
    if (this.toldSites.get(id) === site) return null
    this.toldSites.set(id, site)
    return site
  }

  /**
   * Deals in the worker, which is given the meshes that it takes.
   *
   * @returns null if it was overtaken, called off or ended
   */
  private dealThere(
    id: string,
    rule: ScatterRule,
    site: ScatterSite,
    added: AddedCopies,
    onProgress: (share: number) => void = () => {},
    onRough: (dealt: Dealt) => void = () => {},
  ): Promise<Dealt | null> {
    const number = ++this.requests
    return this.worker.ask((remote, heard) =>
      remote.deal(id, number, rule, this.tellSite(remote, id, site), added, heard(onProgress), heard(onRough)),
    )
  }

  /**
   * Lets what was dealt go along with its surfaces until it is dealt anew.
   *
   * @returns whether it stands otherwise now
   */
  private carry(id: string, before: ScatterSite, after: ScatterSite, added: AddedCopies): boolean {
    const known = this.results.get(id)
    const [from, to] = [before, after].map(({ toWorld }) => new Matrix4().fromArray(toWorld as number[])) as [
      Matrix4,
      Matrix4,
    ]
    if (!known?.dealt) return false
    const ways = waysBetween(before, after)
    if (ways.size === 0 && from.equals(to)) return false
    const dealt = carried(known.dealt, added, ways, from, to)
    this.put(id, { ...known, dealt })
    if (this.level.arrangementIds.has(id)) this.events.onDealt(id, dealt)
    return true
  }

  private put(id: string, next: Known): void {
    this.results.set(id, next)
    this.events.onKnown(id)
  }

  /** Takes what was dealt. What is wrong is said, and the last good result stays. */
  private take(id: string, answer: Dealt, key: string, progress: number | null): void {
    const isGood = answer.report.problem === null
    this.put(id, {
      dealt: isGood ? answer : (this.results.get(id)?.dealt ?? null),
      report: answer.report,
      key,
      progress,
    })
    if (isGood && this.level.arrangementIds.has(id)) this.events.onDealt(id, answer)
  }
}

const shapesIn = (site: ScatterSite) =>
  [...new Set([...site.surfaces, ...site.things.flat()].map(({ shape }) => shape))].filter(shape => shape !== PLANE)
