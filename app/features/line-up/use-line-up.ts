import { computed, onBeforeUnmount, reactive, ref, watch } from 'vue'
import type { Quaternion } from 'three'
import { z } from 'zod'
import type { AlignRule, AlignTarget } from '~~/core/edit/lineup/align'
import { align, ALIGN_TARGETS } from '~~/core/edit/lineup/align'
import type { DistributeRule } from '~~/core/edit/lineup/distribute'
import { distribute } from '~~/core/edit/lineup/distribute'
import type { AlignPlace } from '~~/core/edit/lineup/extent'
import { ALIGN_PLACES } from '~~/core/edit/lineup/extent'
import type { Matching, MatchWhat } from '~~/core/edit/lineup/match'
import { match, MATCHES } from '~~/core/edit/lineup/match'
import type { Operation } from '~~/core/level/schema'
import { alignedOffers, distributedOffers, matchedOffers } from '~~/core/relate/lined-up'
import type { Offer } from '~~/core/relate/definition'
import { useModes } from '~/editor/modes'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { useEdits } from '~/editor/edits'
import { useHandling } from '~/editor/handling'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useKeeping } from '~/editor/keeping'

type Axis = 0 | 1 | 2
const axis = z.union([z.literal(0), z.literal(1), z.literal(2)])
const placeSchema = z.enum(ALIGN_PLACES)

/** The forms as they can be kept. */
export const lineUpSchema = z.strictObject({
  task: z.enum(['align', 'distribute', 'match']),
  places: z.tuple([placeSchema.nullable(), placeSchema.nullable(), placeSchema.nullable()]),
  target: z.enum(ALIGN_TARGETS),
  value: z.number(),
  spread: z.strictObject({ axis, by: z.enum(['gaps', 'places', 'gap']), place: placeSchema, gap: z.number() }),
  matching: z.strictObject({ what: z.enum(MATCHES), axes: z.tuple([z.boolean(), z.boolean(), z.boolean()]) }),
})
export type Spread = 'gaps' | 'places' | 'gap'

/** The forms of Line up, with a preview on the stage until one is done. */
export function useLineUp() {
  const level = useLevel()
  const modes = useModes()
  const session = useStageSession()
  const tools = useTools()
  const showPreview = tools.claimPreview()
  const edits = useEdits()
  const handling = useHandling()
  const settings = useSettings()
  const keeping = useKeeping()

  const task = ref<'align' | 'distribute' | 'match'>('align')
  /** For each axis the place that is aligned; null leaves the axis alone. */
  const places = reactive<[AlignPlace | null, AlignPlace | null, AlignPlace | null]>([null, null, null])
  const target = ref<AlignTarget>('last')
  const value = ref(0)
  const spread = reactive<{ axis: Axis; by: Spread; place: AlignPlace; gap: number }>({
    axis: 0,
    by: 'gaps',
    place: 'centre',
    gap: 0,
  })
  const matching = reactive<{ what: MatchWhat; axes: [boolean, boolean, boolean] }>({
    what: 'position',
    axes: [true, true, true],
  })

  const count = computed(() => {
    return handling.movable().length
  })

  const alignRules = () =>
    places.map(
      (place, axis): AlignRule | null =>
        place && {
          place,
          target: target.value === 'ground' && axis !== 1 ? 'all' : target.value,
          value: value.value,
        },
    )

  const distributeRule = (): DistributeRule =>
    spread.by === 'gap'
      ? { by: 'gap', gap: spread.gap }
      : spread.by === 'places'
        ? { by: 'places', place: spread.place }
        : { by: 'gaps' }

  /** What is lined up, and along which axes; null if nothing is. */
  function lined(): { ids: string[]; axes: Quaternion } | null {
    const ids = level.selection.ids.size > 0 ? handling.movable() : []
    const view = session.stage?.view
    return view && ids.length > 0 ? { ids, axes: handling.axes(view.directions()) } : null
  }

  const operations = computed((): Operation[] => {
    const { ids, axes } = lined() ?? {}
    if (!ids || !axes) return []
    if (task.value === 'align') return align(level.view, level.index, ids, axes, alignRules())
    if (task.value === 'distribute')
      return distribute(level.view, level.index, ids, { axes, axis: spread.axis, rule: distributeRule() })
    return []
  })

  /** What keeps things as they have just been lined up. */
  function linedUpOffers(): Offer[] {
    const { ids, axes } = lined() ?? {}
    if (!ids || !axes) return []
    return task.value === 'align'
      ? alignedOffers(level.view, level.index, ids, axes, alignRules())
      : distributedOffers(level.view, level.index, ids, { axes, axis: spread.axis, rule: distributeRule() })
  }

  watch(operations, next => showPreview(next.length > 0 ? next : null))
  onBeforeUnmount(() => showPreview(null))

  function commit(): void {
    const done = operations.value
    showPreview(null)
    const text = edits.label(
      task.value === 'align' ? 'Align' : 'Distribute',
      done.map(({ id }) => id),
    )
    keeping.doAndKeep(text, done, settings.kept.lineUpKeeps ? linedUpOffers : null)
    places.fill(null)
  }

  /** Takes what is asked for from the thing touched next. */
  function touchToMatch(): void {
    const ids = handling.movable()
    if (ids.length === 0) return
    const { what, axes } = matching
    modes.touch(`Touch the thing to take the ${what} from`, 'thing', ({ id }) => {
      const matching: Matching = { from: id!, what, axes: [...axes] }
      keeping.doAndKeep(
        edits.label(`Match the ${what} of`, ids),
        match(level.view, level.index, ids, matching),
        settings.kept.lineUpKeeps ? () => matchedOffers(level.view, level.index, ids, matching) : null,
      )
      return true
    })
  }

  /** What of it all is kept as a preset. */
  const kept = computed(() => ({
    task: task.value,
    places: [...places],
    target: target.value,
    value: value.value,
    spread: { ...spread },
    matching: { ...matching, axes: [...matching.axes] },
  }))

  function begin(given: z.infer<typeof lineUpSchema>): void {
    task.value = given.task
    Object.assign(places, given.places)
    target.value = given.target
    value.value = given.value
    Object.assign(spread, given.spread)
    Object.assign(matching, given.matching)
  }

  return { kept, begin, task, places, target, value, spread, matching, count, operations, commit, touchToMatch }
}
