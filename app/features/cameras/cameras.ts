import { useDebounceFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { Quaternion, Vector3 } from 'three'
import { aimOf, placeOf, turnTo } from '~~/core/edit/aim'
import { isCamera } from '~~/core/level/kinds'
import type { CameraOwn } from '~~/core/level/kinds/camera'
import type { Operation } from '~~/core/level/schema'
import type { Pose } from '~~/core/math/pose'
import { blockedBy } from '~~/core/scene/blocked-view'
import { throughCamera } from '~/stage/camera-pose'
import type { View } from '~/stage/view'
import { Latest } from '~/editor/latest'
import { useHand } from '~/editor/hand'
import { useAuth } from '~/editor/auth'
import { useLevel } from '~/editor/level'
import { useSettings } from '~/editor/settings'
import { useStageSession } from '~/editor/stage-session'
import { useTools } from '~/editor/tools'

export type LevelCamera = { id: string; name: string; own: CameraOwn }

/** Milliseconds after the last move of a hand until a camera that is steered is changed. */
const STEERED = 300
/** Pixels of the pictures in the strip. */
const PICTURE = { width: 168, height: 94 }
/** Milliseconds after a change until the strip's pictures are taken anew. */
const PICTURES_AFTER = 700

/** Looking through the level's cameras: in panes, as a strip of pictures, and as a cut list. */
export const useCameras = defineStore('cameras', () => {
  const auth = useAuth()
  const level = useLevel()
  const settings = useSettings()
  const session = useStageSession()
  const tools = useTools()
  const showPreview = tools.claimPreview()
  const hand = useHand()

  /** All cameras that are shown, in the roster's order. */
  const cameras = computed(() => inOrder(level.view.children(null).flatMap(id => level.view.subtree(id))))
  const inOrder = (ids: readonly string[]): LevelCamera[] =>
    ids.flatMap(id => {
      const { name, own } = level.view.need(id)
      return isCamera(own) && !level.view.isHidden(id) && !level.view.isSource(id) ? [{ id, name, own }] : []
    })
  /** Those of the cut list, in its order. */
  const cut = computed(() =>
    cameras.value.filter(({ own }) => own.cut).sort((a, b) => a.own.cut!.order - b.own.cut!.order),
  )

  /** By pane, the camera that it looks through, and how it looked before. */
  const through = shallowRef<ReadonlyMap<number, { id: string; before: Pose }>>(new Map())
  const throughActive = computed(
    () => through.value.get(session.panes.find(({ active }) => active)?.pane ?? -1)?.id ?? null,
  )
  const viewOf = (pane: number) => session.stage?.panes.views[pane]

  function lookThrough(id: string, pane = session.stage?.panes.activePane ?? 0): void {
    const view = viewOf(pane)
    if (!view || !level.view.has(id)) return
    commitSteered()
    if (view.kind !== 'walkaround') session.changePane({ kind: 'walkaround' }, pane)
    through.value = new Map(through.value).set(pane, { id, before: through.value.get(pane)?.before ?? view.savePose() })
    view.onSteered = () => steered(pane)
    follow(pane)
    session.refreshPanes()
  }

  /** The pane looks again as before it looked through a camera. */
  function lookFree(pane = session.stage?.panes.activePane ?? 0, back = true): void {
    const entry = through.value.get(pane)
    const view = viewOf(pane)
    if (!entry || !view) return
    commitSteered()
    const rest = new Map(through.value)
    rest.delete(pane)
    through.value = rest
    view.lens = view.around = null
    view.onSteered = null
    view.setPose(back ? entry.before : view.savePose())
    session.refreshPanes()
  }

  function follow(pane: number): void {
    const entry = through.value.get(pane)
    const view = viewOf(pane)
    if (!entry || !view) return
    const own = level.view.get(entry.id)?.own
    if (!own || !isCamera(own)) return lookFree(pane)
    const { pose, lens } = poseOf(entry.id, own)
    view.lens = lens
    view.around = own.aim && placeOf(level.view, own.aim)
    view.follow(pose)
    session.stage?.requestDraw()
    session.refreshPanes()
  }

  function poseOf(id: string, own: CameraOwn) {
    const aim = aimOf(own)
    return throughCamera(own, level.view.worldMatrix(id), aim && placeOf(level.view, aim))
  }

  /** A camera that is steered from within: where it is to stand, until it is changed. */
  let pending: { id: string; view: View } | null = null

  function steered(pane: number): void {
    const entry = through.value.get(pane)
    const view = viewOf(pane)
    if (!entry || !view) return
    if (level.view.isLocked(entry.id) || auth.mayOnlyRead) {
      level.notify(`${level.view.need(entry.id).name} is locked`, [
        'Unlock it to steer it, or leave it to look around freely.',
      ])
      return follow(pane)
    }
    pending = { id: entry.id, view }
    showPreview(operationsFor(pending))
    void commitSoon()
  }

  function operationsFor({ id, view }: NonNullable<typeof pending>): Operation[] {
    const { eye, target } = view.savePose()
    const { pivot, scale, rotation: before } = level.view.need(id)
    const above = level.view.parentMatrix(id)
    // Its size stays as it is: only where it stands and what it looks at are steered.
    const rotation = turnTo(eye, target, above, scale, view.lens?.roll ?? 0) ?? before
    const toPivot = new Vector3(...pivot).multiply(new Vector3(...scale)).applyQuaternion(new Quaternion(...rotation))
    const translation = eye.clone().applyMatrix4(above.clone().invert()).add(toPivot).toArray()
    return [{ do: 'put', id, fields: { translation, rotation } }]
  }

  const commitSoon = useDebounceFn(() => commitSteered(), STEERED)

  /** Takes down what a hand did to a camera, as one change. */
  function commitSteered(): void {
    const done = pending
    pending = null
    if (!done || !level.view.has(done.id)) return
    showPreview(null)
    level.change(`Steer ${level.view.need(done.id).name}`, operationsFor(done))
  }

  level.onTouched(() => {
    for (const [pane, { id }] of through.value) if (pending?.id !== id) follow(pane)
    takePicturesAnew()
  })
  // A pane that looks along an axis looks through no camera.
  watch(
    () => session.panes,
    panes => {
      for (const { pane, kind } of panes) if (kind !== 'walkaround' && through.value.has(pane)) lookFree(pane, false)
    },
  )
  // A stage that is gone takes its panes with it.
  watch(
    () => session.stage,
    () => {
      through.value = new Map()
      pending = null
      isPlaying.value = false
      takePicturesAnew()
    },
  )

  // The strip of pictures.
  const pictures = shallowRef<ReadonlyMap<string, string>>(new Map())
  const blocked = shallowRef<ReadonlyMap<string, string>>(new Map())
  /** What each picture shows: the level as it was, and the camera. */
  const shownBy = new Map<string, string>()
  /** Counts what changes how the level looks. */
  let looks = 0
  const taking = new Latest()

  /** Whether this person looks at the level with the strip. */
  const showStrip = computed({
    get: () => settings.lookAt(level.summary?.id).strip,
    set: strip => settings.setLook(level.summary?.id, { strip }),
  })

  /** Takes the pictures that are not there or old, one after the other, each while all else rests. */
  async function takePictures(): Promise<void> {
    const isLatest = taking.next()
    for (const { id, own } of cameras.value) {
      const { stage } = session
      if (!showStrip.value || !stage) return
      const { pose, lens } = poseOf(id, own)
      const key = JSON.stringify([looks, pose, lens])
      if (shownBy.get(id) === key) continue
      await stage.rested()
      await hand.rest()
      if (!isLatest() || session.stage !== stage || !level.view.has(id)) return
      const thing = blockedBy(level.index, pose.eye, pose.target, lens.fieldOfView, lens.aspect)
      blocked.value = new Map([
        ...blocked.value,
        [id, thing !== null && level.view.has(thing) ? level.view.need(thing).name : ''],
      ])
      // As large as fits into the strip.
      const width = Math.round(Math.min(PICTURE.width, PICTURE.height * own.aspect))
      const bitmap = await stage.still(
        { pose, lens },
        { width, height: Math.max(Math.round(width / own.aspect), 1) },
        { marks: false, grid: false, look: 'lit' },
      )
      if (!bitmap || !isLatest()) return
      pictures.value = new Map([...pictures.value, [id, dataAddress(bitmap)]])
      shownBy.set(id, key)
    }
    const ids = new Set(cameras.value.map(({ id }) => id))
    const left = <T>(all: ReadonlyMap<string, T>) => new Map([...all].filter(([id]) => ids.has(id)))
    pictures.value = left(pictures.value)
    blocked.value = left(blocked.value)
  }

  function takePicturesAnew(): void {
    looks++
    void takePicturesSoon()
  }

  const takePicturesSoon = useDebounceFn(() => takePictures(), PICTURES_AFTER)
  watch(showStrip, () => void takePictures())
  watch(() => [settings.lookAt(level.summary?.id).sky, settings.boardName], takePicturesAnew)

  /** Looks through the next of the cameras, or the one before. */
  function step(by: 1 | -1): void {
    const all = cameras.value
    const at = all.findIndex(({ id }) => id === throughActive.value)
    const next = all[at < 0 ? (by > 0 ? 0 : all.length - 1) : (at + by + all.length) % all.length]
    if (next) lookThrough(next.id)
  }

  // The cut list.
  const isPlaying = ref(false)
  const playing = ref<string | null>(null)
  let timer: ReturnType<typeof setTimeout> | undefined

  /** Shows the cameras of the cut list one after the other, each for its seconds. */
  function play(): void {
    if (cut.value.length === 0)
      return level.notify('The cut list is empty', ['Put cameras into it, in the form of each.'])
    stop()
    isPlaying.value = true
    show(0)
  }

  function show(at: number): void {
    const next = cut.value[at]
    if (!isPlaying.value || !next) return stop()
    playing.value = next.id
    lookThrough(next.id)
    timer = setTimeout(() => show(at + 1), next.own.cut!.seconds * 1000)
  }

  function stop(): void {
    clearTimeout(timer)
    if (!isPlaying.value) return
    isPlaying.value = false
    playing.value = null
    lookFree()
  }

  /** Puts a camera into the cut list at its end, or takes it out. */
  function toggleCut(id: string): void {
    const camera = cameras.value.find(each => each.id === id)
    if (!camera) return
    const last = cut.value.at(-1)?.own.cut?.order ?? -1
    const own = { ...camera.own, cut: camera.own.cut ? null : { order: last + 1, seconds: 3 } }
    level.change(
      `${camera.own.cut ? 'Take' : 'Put'} ${camera.name} ${camera.own.cut ? 'out of' : 'into'} the cut list`,
      [{ do: 'put', id, fields: { own } }],
    )
  }

  function setSeconds(id: string, seconds: number): void {
    const camera = cut.value.find(each => each.id === id)
    if (camera)
      level.change(`Show ${camera.name} for ${seconds} s`, [
        { do: 'put', id, fields: { own: { ...camera.own, cut: { ...camera.own.cut!, seconds } } } },
      ])
  }

  /** One earlier or one later in the cut list. */
  function moveInCut(id: string, by: 1 | -1): void {
    const at = cut.value.findIndex(each => each.id === id)
    const [one, other] = [cut.value[at], cut.value[at + by]]
    if (!one || !other) return
    const put = (camera: LevelCamera, order: number): Operation => ({
      do: 'put',
      id: camera.id,
      fields: { own: { ...camera.own, cut: { ...camera.own.cut!, order } } },
    })
    level.change(`Move ${one.name} in the cut list`, [put(one, other.own.cut!.order), put(other, one.own.cut!.order)])
  }

  return {
    cameras,
    cut,
    through,
    throughActive,
    lookThrough,
    lookFree,
    follow,
    poseOf,
    commitSteered,
    pictures,
    blocked,
    showStrip,
    takePictures,
    isPlaying,
    playing,
    play,
    stop,
    step,
    toggleCut,
    setSeconds,
    moveInCut,
  }
})

function dataAddress(bitmap: ImageBitmap): string {
  const canvas = document.createElement('canvas')
  canvas.width = bitmap.width
  canvas.height = bitmap.height
  canvas.getContext('bitmaprenderer')!.transferFromImageBitmap(bitmap)
  return canvas.toDataURL('image/jpeg', 0.82)
}
