import { transfer } from 'comlink'
import type { AddedCopies, Dealt } from '~~/core/arrange/scatter/deal'
import { Dealer } from '~~/core/arrange/scatter/deal'
import type { Figures } from '~~/core/arrange/scatter/figures'
import { figuresOf } from '~~/core/arrange/scatter/figures'
import type { ScatterRule } from '~~/core/arrange/scatter/rule'
import type { ScatterSite, Skin } from '~~/core/arrange/scatter/site'
import { pause } from '~/workers/pause'

/** Milliseconds of work between two looks at whether something newer is asked for. */
const SLICE = 25
/** Copies of a first, rough answer. */
const ROUGH = 3000

/** Dealing scatters, of each the one that was asked for last. */
export function scatterWork() {
  const skins = new Map<string, Skin>()
  const dealer = new Dealer(key => skins.get(key))
  /** Where each scatter is, as it was told last. */
  const sites = new Map<string, ScatterSite>()
  /** The newest request for each scatter. */
  const newest = new Map<string, number>()

  /** Runs to the end, unless something newer is asked for or it is called off meanwhile; then null. */
  async function run(
    id: string,
    request: number,
    dealing: Generator<number, Dealt>,
    onProgress: (share: number) => void,
  ): Promise<Dealt | null> {
    let since = performance.now()
    for (;;) {
      const { done, value } = dealing.next()
      if (done) return value
      if (performance.now() - since < SLICE) continue
      onProgress(value)
      await pause()
      if (newest.get(id) !== request) return null
      since = performance.now()
    }
  }

  function siteOf(id: string, given: ScatterSite | null): ScatterSite {
    const site = given ?? sites.get(id)
    if (!site) throw new RangeError('nothing is known of where this scatter is')
    sites.set(id, site)
    return site
  }

  const sent = (dealt: Dealt) =>
    transfer(dealt, [
      dealt.keys.buffer,
      dealt.sources.buffer,
      dealt.matrices.buffer,
      dealt.slopes.buffer,
      ...(dealt.sizes ? [dealt.sizes.buffer] : []),
    ])

  return {
    /** Takes the triangles of a mesh. @param key what the mesh is known by */
    know(key: string, skin: Skin): void {
      skins.set(key, skin)
    },

    /** Lets all other meshes go. */
    keepOnly(keys: ReadonlySet<string>): void {
      for (const key of skins.keys()) if (!keys.has(key)) skins.delete(key)
      dealer.keepOnly(keys)
    },

    /**
     * Deals a scatter: null if it was overtaken or called off.
     *
     * @param site null if it is as it was for this one
     * @param onRough is given the first of them while the rest are worked out
     */
    async deal(
      id: string,
      request: number,
      rule: ScatterRule,
      given: ScatterSite | null,
      added: AddedCopies,
      onProgress: (share: number) => void,
      onRough: (dealt: Dealt) => void,
    ): Promise<Dealt | null> {
      newest.set(id, request)
      const site = siteOf(id, given)
      let isOver = false
      // What takes no longer than a slice needs no rough answer before it.
      const rough = async () => {
        const dealt = await run(id, request, dealer.deal(id, rule, site, added, ROUGH), () => {})
        if (dealt?.report.rough && !isOver) onRough(sent(dealt))
      }
      const whole = dealer.deal(id, rule, site, added)
      const since = performance.now()
      for (;;) {
        const { done, value } = whole.next()
        if (done) return sent(value)
        if (performance.now() - since > SLICE) break
      }
      await rough()
      if (newest.get(id) !== request) return null
      const dealt = await run(id, request, whole, onProgress)
      isOver = true
      return dealt && sent(dealt)
    },

    cancel(id: string): void {
      newest.delete(id)
    },

    forget(id: string): void {
      newest.delete(id)
      sites.delete(id)
      dealer.forget(id)
    },

    /** Colours for a limit of a scatter; see `Dealer.tint`. @param site null if it is as it was for this one */
    tint(
      id: string,
      rule: ScatterRule,
      site: ScatterSite | null,
      limit: number,
    ): { positions: Float32Array; through: Float32Array } {
      const tint = dealer.tint(rule, siteOf(id, site), limit)
      return transfer(tint, [tint.positions.buffer, tint.through.buffer])
    },

    figures: (dealt: Pick<Dealt, 'count' | 'matrices' | 'slopes' | 'report'>): Figures => figuresOf(dealt),
  }
}

export type ScatterWork = ReturnType<typeof scatterWork>
