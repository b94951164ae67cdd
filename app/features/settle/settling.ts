import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { Box3, Matrix4, Vector3 } from 'three'
import { v7 } from 'uuid'
import { createPlacement, FreeNames, lastOrder } from '~~/core/level/create'
import type { Operation, Placement } from '~~/core/level/schema'
import { topmost } from '~~/core/level/tree'
import { decompose } from '~~/core/math/transform'
import type { Solid } from '~~/core/mesh/solid'
import { localMatrix } from '~~/core/math/transform'
import { pourPlaces } from '~~/core/settle/pour'
import { boundsOf, fallingOf, fixedAround, settleScene } from '~~/core/settle/scene'
import type { SettleScene } from '~~/core/settle/settle'
import { MOST_FALLING } from '~~/core/settle/settle'
import { bentShapesOf } from '~~/core/edit/release'
import { copyOf } from '~~/core/scene/copy-id'
import type { SettleNews, SettleWork } from './settle-work'
import { PourTool } from './pour-tool'
import { useKit } from '~/editor/kit'
import { useLevel } from '~/editor/level'
import { useModes } from '~/editor/modes'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'
import { WorkerHost } from '~/workers/host'
import { counted } from '~~/core/units/plural'

/** What is falling: the label of the change it would be, what puts things where they are now. */
type Run = { label: string; ids: readonly string[]; fresh: readonly Placement[]; isStill: () => boolean }

/** Seconds without news, also in a pause, after which it is ended. */
const SILENCE = 60

/** Letting things fall until they rest, and pouring many. */
export const useSettling = defineStore('settling', () => {
  const level = useLevel()
  const kit = useKit()
  const session = useStageSession()
  const modes = useModes()
  const tools = useTools()
  const showPreview = tools.claimPreview()

  const run = shallowRef<Run | null>(null)
  const news = shallowRef<SettleNews | null>(null)
  const isPaused = ref(false)
  /** The mix that is poured: parts with their weights, how many, and by which seed. */
  const mix = ref<{ partId: string; weight: number }[]>([])
  const count = ref(20)
  const seed = ref(1)
  const worker = new WorkerHost<SettleWork>(
    () => new Worker(new URL('./settle-worker.ts', import.meta.url), { type: 'module' }),
    SILENCE,
  )

  const isPouring = computed(() => session.held('pour') !== null)
  const pickable = computed(() => {
    const ids = [...level.selection.ids].filter(
      id => level.view.has(id) && !level.view.isLocked(copyOf(id)?.arrangementId ?? id),
    )
    return [...topmost(level.view, new Set(ids.filter(id => !copyOf(id)))), ...ids.filter(id => copyOf(id))]
  })

  function asOf(solid: Solid): 'hull' | 'box' {
    return kit.all.find(({ id, settlesAs }) => settlesAs === 'box' && kit.solid(id) === solid) ? 'box' : 'hull'
  }

  /** Lets what is picked fall: things, groups as wholes, copies. */
  function settle(): void {
    const ids = pickable.value.filter(id => !copyOf(id) || bentShapesOf(level.view, id).length === 0)
    // An arrangement as a whole is its copies, each for itself.
    const all = ids.flatMap(id => (level.view.arrangementIds.has(id) ? copiesOf(id) : [id]))
    if (all.length > MOST_FALLING)
      return level.notify('Too many things to let fall at a time', [
        `${all.length.toLocaleString('en')} are picked; ${MOST_FALLING.toLocaleString('en')} can fall at a time. Pick fewer, or some after the others.`,
      ])
    const scene = settleScene(level.view, level.index, all, asOf)
    if (scene.falling.length === 0)
      return level.notify('Nothing that is picked can fall', ['Pick things that show something and are not locked.'])
    const falling = scene.falling.map(({ id }) => id)
    void start(
      {
        label: falling.length === 1 ? `Settle ${level.view.need(falling[0]!).name}` : `Settle ${falling.length} things`,
        ids: falling,
        fresh: [],
        isStill: level.remember(falling.map(id => copyOf(id)?.arrangementId ?? id)),
      },
      scene,
    )
  }

  function copiesOf(id: string): string[] {
    return [...new Set(level.index.shownBy(id).flatMap(({ copy }) => copy ?? []))].slice(0, MOST_FALLING + 1)
  }

  /** Asks for a circle on the stage, and pours the mix into it. */
  function pour(): void {
    if (isPouring.value) return modes.stopMode()
    if (mix.value.length === 0) return level.notify('Nothing to pour', ['Choose parts of the kit first.'])
    modes.take(
      world =>
        new PourTool(world, 1, (middle, radius) => {
          modes.stopMode()
          pourInto(middle, radius)
        }),
    )
  }

  function pourInto(middle: Vector3, radius: number): void {
    const parts = mix.value.flatMap(({ partId, weight }) => {
      const solid = kit.solid(partId)
      const part = kit.part(partId)
      return solid && part ? [{ part, solid, weight, size: solid.bounds.getSize(new Vector3()).length() }] : []
    })
    if (parts.length === 0) return
    // They begin above whatever is there, such as a container's rim.
    let top = middle.y
    level.index.near(
      new Box3(
        new Vector3(middle.x - radius, middle.y - 0.5, middle.z - radius),
        new Vector3(middle.x + radius, middle.y + 4, middle.z + radius),
      ),
      ({ solid, matrix }) => {
        top = Math.max(top, Math.min(solid.bounds.clone().applyMatrix4(matrix).max.y, middle.y + 4))
      },
    )
    const places = pourPlaces(
      {
        x: middle.x,
        z: middle.z,
        base: top + 0.1,
        radius,
        count: Math.min(count.value, MOST_FALLING),
        seed: seed.value,
      },
      parts.map(({ size }) => size),
      parts.map(({ weight }) => weight),
    )
    const names = new FreeNames(level.view)
    let order = lastOrder(level.view, null)
    const fresh = places.map(({ which, translation, rotation }) => {
      const { part } = parts[which]!
      return createPlacement({
        id: v7(),
        name: names.next(part.name),
        kind: 'part',
        partId: part.id,
        pivot: part.pivot,
        order: order++,
        translation,
        rotation,
      })
    })
    const falling = fresh.map((placement, i) => {
      const { solid } = parts[places[i]!.which]!
      const matrix = localMatrix(placement, new Matrix4())
      return fallingOf(placement.id, matrix, [{ solid, matrix }], asOf)!
    })
    seed.value++
    const scene = { falling, fixed: fixedAround(level.index, boundsOf(falling), () => true) }
    void start(
      { label: `Pour ${counted(fresh.length, 'thing')}`, ids: fresh.map(({ id }) => id), fresh, isStill: () => true },
      scene,
    )
  }

  async function start(next: Run, scene: SettleScene): Promise<void> {
    dismiss()
    run.value = next
    isPaused.value = false
    // Nothing else takes hold of things meanwhile; ending the mode dismisses.
    modes.take(() => ({
      id: { tool: 'settle' },
      title: next.label,
      hover: () => {},
      press: () => null,
      leave: () => {},
      stop: () => {
        if (run.value === next) end()
      },
    }))
    const matrices = new Float64Array(scene.falling.length * 16)
    for (const [i, { matrix }] of scene.falling.entries()) matrices.set(matrix, i * 16)
    show({ matrices, seconds: 0, resting: 0, isDone: false })
    try {
      const last = await worker.ask((remote, heard) =>
        remote.run(
          scene,
          heard((each: SettleNews) => {
            if (run.value === next) show(each)
          }),
        ),
      )
      if (last && run.value === next) show(last)
    } catch (error) {
      if (run.value === next) dismiss()
      level.notify('Things cannot be let fall here', [error instanceof Error ? error.message : String(error)])
    }
  }

  /** News come by a way of their own, and may be overtaken by how it ended. */
  function show(next: SettleNews): void {
    if (news.value && next.seconds < news.value.seconds) return
    news.value = next
    showPreview(operations())
  }

  /** What puts everything where it is now. */
  function operations(): Operation[] {
    const { ids, fresh } = run.value!
    const { matrices } = news.value!
    return ids.map((id, i): Operation => {
      const matrix = new Matrix4().fromArray(matrices, i * 16)
      const made = fresh[i]
      const { pivot, ...given } = made ?? level.view.need(id)
      const local = made ? matrix : matrix.premultiply(level.view.parentMatrix(id).clone().invert())
      const { translation, rotation } = decompose(local, pivot)
      if (!made) return { do: 'put', id, fields: { translation, rotation } }
      const { id: _id, ...fields } = { ...given, pivot, translation, rotation } as Placement
      return { do: 'put', id, fields }
    })
  }

  function pause(): void {
    isPaused.value = !isPaused.value
    worker.tell(remote => remote.pause(isPaused.value))
  }

  /** Everything stays where it is now, as one change. */
  function keep(): void {
    const done = run.value
    if (!done || !news.value) return
    const wanted = operations()
    dismiss()
    if (!done.isStill())
      return level.notify('What was falling was changed meanwhile', ['Nothing was kept. Let it fall again.'])
    if (level.change(done.label, wanted) && done.fresh.length > 0) level.pick(done.ids)
  }

  /** Everything is as it was. */
  function dismiss(): void {
    if (!run.value) return
    end()
    modes.stopMode()
  }

  function end(): void {
    run.value = null
    news.value = null
    worker.tell(remote => remote.stop())
    showPreview(null)
  }

  watch(
    () => session.stage,
    stage => {
      if (stage) return
      if (run.value) end()
      worker.end()
    },
  )

  return { run, news, isPaused, mix, count, seed, isPouring, pickable, settle, pour, pause, keep, dismiss }
})
