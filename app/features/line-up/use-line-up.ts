import { computed, onBeforeUnmount, reactive, ref, watch } from 'vue'
import type { AlignTarget } from '~~/core/edit/lineup/align'
import { align } from '~~/core/edit/lineup/align'
import { distribute } from '~~/core/edit/lineup/distribute'
import type { AlignPlace } from '~~/core/edit/lineup/extent'
import type { MatchWhat } from '~~/core/edit/lineup/match'
import { match } from '~~/core/edit/lineup/match'
import type { Operation } from '~~/core/level/schema'
import { useModes } from '~/editor/modes'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { useEdits } from '~/editor/edits'
import { useHandling } from '~/editor/handling'
import { useLevel } from '~/editor/level'

type Axis = 0 | 1 | 2
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

  const operations = computed((): Operation[] => {
    const ids = level.selection.ids.size > 0 ? handling.movable() : []
    const view = session.stage?.view
    if (!view || ids.length === 0) return []
    const axes = handling.axes(view.directions())
    if (task.value === 'align') {
      return align(
        level.view,
        level.index,
        ids,
        axes,
        places.map(
          (place, axis) =>
            place && {
              place,
              target: target.value === 'ground' && axis !== 1 ? ('all' as const) : target.value,
              value: value.value,
            },
        ),
      )
    }
    if (task.value === 'distribute') {
      const rule =
        spread.by === 'gap'
          ? { by: 'gap' as const, gap: spread.gap }
          : spread.by === 'places'
            ? { by: 'places' as const, place: spread.place }
            : { by: 'gaps' as const }
      return distribute(level.view, level.index, ids, { axes, axis: spread.axis, rule })
    }
    return []
  })

  watch(operations, next => showPreview(next.length > 0 ? next : null))
  onBeforeUnmount(() => showPreview(null))

  function commit(): void {
    const done = operations.value
    showPreview(null)
    level.change(
      edits.label(
        task.value === 'align' ? 'Align' : 'Distribute',
        done.map(({ id }) => id),
      ),
      done,
    )
    places.fill(null)
  }

  /** Takes what is asked for from the thing touched next. */
  function touchToMatch(): void {
    const ids = handling.movable()
    if (ids.length === 0) return
    const { what, axes } = matching
    modes.touch(`Touch the thing to take the ${what} from`, 'thing', ({ id }) => {
      level.change(
        edits.label(`Match the ${what} of`, ids),
        match(level.view, level.index, ids, { from: id!, what, axes: [...axes] }),
      )
      return true
    })
  }

  return { task, places, target, value, spread, matching, count, operations, commit, touchToMatch }
}
