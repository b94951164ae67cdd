import { Matrix4, Quaternion, Vector3 } from 'three'
import { v7 } from 'uuid'
import { turnTo } from '~~/core/edit/aim'
import type { Landing } from '~~/core/edit/snap/landing'
import { findLanding } from '~~/core/edit/snap/landing'
import { cameraOwn, createPlacement, freeName, lastOrder, lightOwn, markerOwn } from '~~/core/level/create'
import type { Placement } from '~~/core/level/schema'
import { localMatrix } from '~~/core/math/transform'
import type { Quat } from '~~/core/math/vectors'
import { endAt } from '~~/core/measure/definition'
import type { Gesture, PointerAt, StageMode } from '~/editor/tools/gesture'
import type { MarkTask, ToolId } from '~/editor/tools/tool-id'
import { DraftTool } from '~/editor/tools/draft-tool'
import type { ToolWorld } from '~/editor/tools/tool-world'
import { pointToMicrometre } from '~~/core/math/micrometre'

/** What each is called, and how it is put down. */
export const MARK_NAMES: Record<MarkTask, { name: string; hint: string }> = {
  camera: { name: 'Camera', hint: 'click where it stands, or drag to what it looks at' },
  sun: { name: 'Sun', hint: 'click, or drag the way it shines' },
  point: { name: 'Point light', hint: 'click where it hangs' },
  spot: { name: 'Spot', hint: 'click, or drag to what it shines at' },
  area: { name: 'Area light', hint: 'click, or drag to what it shines at' },
  spawn: { name: 'Spawn', hint: 'click where people come in, drag the way they face' },
  volume: { name: 'Volume', hint: 'drag its base on a surface' },
  note: { name: 'Note', hint: 'click on what it is about, drag to where it stands' },
}

/** How far above the surface each stands, in metres: a camera at eye height. */
const ABOVE: Record<MarkTask, number> = {
  camera: 1.7,
  sun: 6,
  point: 2.4,
  spot: 3,
  area: 2.4,
  spawn: 0,
  volume: 0,
  note: 1.2,
}
/** Metres that a drag has to go to mean something. */
const LEAST_DRAG = 0.05
/** How high a volume is at first, and how wide without a drag. */
const [VOLUME_HEIGHT, VOLUME_SIDE] = [2.5, 2]

/**
 * Puts cameras, lights and markers onto surfaces, as often as wanted: a press puts one, dragging on turns or draws it.
 */
export class MarkTool extends DraftTool implements StageMode {
  readonly id: ToolId
  readonly title: string

  /** @param picture of a new camera, @param done is told when one was put down */
  constructor(
    world: ToolWorld,
    private readonly task: MarkTask,
    private readonly fieldOfView: () => number,
    private readonly done: () => void,
  ) {
    super(world)
    this.id = { tool: 'mark', task }
    this.title = `Putting down: ${MARK_NAMES[task].name}`
  }

  hover(pointer: PointerAt): void {
    const landing = this.find(pointer)
    this.show(landing && this.make(landing, null, pointer), landing, pointer, null)
  }

  press(pointer: PointerAt): Gesture | null {
    const from = this.find(pointer)
    if (!from) return null
    let to: Landing | null = null
    let latest = pointer
    return {
      move: at => {
        latest = at
        to = this.find(at)
        this.show(this.make(from, to, at), from, at, to)
      },
      end: () => {
        this.leave()
        this.put(this.make(from, to, latest))
      },
      cancel: () => this.leave(),
    }
  }

  private find(pointer: PointerAt): Landing | null {
    const { world } = this
    return findLanding(
      world.finder(),
      world.stage.viewAt(pointer).rayAt(pointer),
      world.step('grid', pointer.ctrl).size,
    )
  }

  private make(from: Landing, dragged: Landing | null, { shift }: PointerAt): Placement {
    const { world, task } = this
    const level = world.level()
    const foot = new Vector3(...from.point)
    const to =
      dragged && new Vector3(...dragged.point).distanceTo(foot) > LEAST_DRAG ? new Vector3(...dragged.point) : null
    const { name } = MARK_NAMES[task]
    const fields =
      task === 'volume' ? this.volume(foot, to) : task === 'note' ? this.note(from, to) : this.standing(foot, to, shift)
    return createPlacement({ id: v7(), name: freeName(level, name), order: lastOrder(level, null), ...fields })
  }

  private standing(
    foot: Vector3,
    to: Vector3 | null,
    shift: boolean,
  ): Pick<Placement, 'kind' | 'own' | 'translation' | 'rotation'> {
    const { task, world } = this
    // On a wall or under a ceiling a light is where it was put; Shift puts it right there as well.
    const eye = foot.clone().setY(foot.y + (shift ? 0 : ABOVE[task]))
    const own =
      task === 'camera'
        ? cameraOwn({ fieldOfView: this.fieldOfView() })
        : task === 'spawn'
          ? markerOwn('spawn')
          : lightOwn({ light: task as 'sun' | 'point' | 'spot' | 'area' })
    const { forward } = world.stage.view.directions()
    const level = Math.hypot(forward.x, forward.z) < 0.01 ? new Vector3(0, 0, -1) : forward.clone().setY(0).normalize()
    const target =
      to
      ?? (task === 'camera'
        ? eye.clone().add(level)
        : task === 'sun'
          ? eye.clone().add(new Vector3(-0.4, -1, -0.5))
          : eye.clone().setY(eye.y - 1))
    let rotation = task === 'point' ? null : turnTo(eye, target, new Matrix4())
    if (task === 'spawn') {
      const way = to ? to.clone().sub(foot) : level.clone().negate()
      rotation = new Quaternion().setFromAxisAngle(new Vector3(0, 1, 0), Math.atan2(way.x, way.z)).toArray() as Quat
    }
    return {
      kind: task === 'camera' ? 'camera' : task === 'spawn' ? 'marker' : 'light',
      own,
      translation: pointToMicrometre(eye),
      rotation: rotation ?? [0, 0, 0, 1],
    }
  }

  private volume(foot: Vector3, to: Vector3 | null): Pick<Placement, 'kind' | 'own' | 'translation' | 'scale'> {
    const across = to ? to.clone().sub(foot) : null
    const [width, depth] = across
      ? [Math.max(Math.abs(across.x), 0.1), Math.max(Math.abs(across.z), 0.1)]
      : [VOLUME_SIDE, VOLUME_SIDE]
    const middle = across ? foot.clone().addScaledVector(across, 0.5).setY(Math.min(foot.y, to!.y)) : foot
    return {
      kind: 'marker',
      own: markerOwn('volume'),
      translation: pointToMicrometre(middle),
      scale: [width, VOLUME_HEIGHT, depth],
    }
  }

  /** It is about where it was pressed, and stands where it was dragged to. */
  private note({ point, surfaceId }: Landing, to: Vector3 | null): Pick<Placement, 'kind' | 'own' | 'translation'> {
    const at = new Vector3(...point)
    const stands = (to ?? at).clone()
    stands.y += ABOVE.note
    return {
      kind: 'marker',
      own: markerOwn('note', { arrow: endAt(this.world.level(), surfaceId, at), text: 'Note' }),
      translation: pointToMicrometre(stands),
    }
  }

  private show(made: Placement | null, from: Landing | null, at: PointerAt, to: Landing | null): void {
    const { world, task } = this
    if (!made || !from) return this.leave()
    world.stage.hint({ target: new Vector3(...(to ?? from).point) })
    this.showDraft([{ own: made.own, matrix: localMatrix(made, new Matrix4()) }])
    world.stage.moves()
    const surface = from.surfaceId === null ? 'the ground plane' : world.nameOf(from.surfaceId)
    world.say({
      at,
      title: this.title,
      value: made.translation.map(value => world.printLength(value)).join('  '),
      notes: [`on ${surface}`, MARK_NAMES[task].hint],
    })
  }

  private put(made: Placement): void {
    const { id, ...fields } = made
    if (!this.world.change(`Put down ${made.name}`, [{ do: 'put', id, fields }])) return
    this.world.pick([id])
    this.done()
  }
}
