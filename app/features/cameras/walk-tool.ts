import { MathUtils, Vector3 } from 'three'
import type { Pose } from '~~/core/math/pose'
import type { Stop, WalkSettings } from '~~/core/walk/walker'
import { Walker } from '~~/core/walk/walker'
import type { Vec3 } from '~~/core/math/vectors'
import type { View } from '~/stage/view'
import type { StageUse } from '~/editor/keys/stage-uses'
import type { Gesture, KeyPress, StageMode } from '~/editor/tools/gesture'
import type { ToolWorld } from '~/editor/tools/tool-world'

/** What came of a walk: the way that was gone, and what was in it. */
export type Walked = { way: Vec3[]; stops: Stop[]; /** Metres. */ length: number }

/** Radians that a pixel of the mouse turns. */
const TURN = 0.0022
const STEEPEST = MathUtils.degToRad(85)
/** By their places on the keyboard, so that they lie alike everywhere. */
const WAYS: Partial<Record<StageUse, [forward: number, right: number]>> = {
  walkForward: [1, 0],
  walkBack: [-1, 0],
  walkLeft: [0, -1],
  walkRight: [0, 1],
}
const USES = ['walkForward', 'walkBack', 'walkLeft', 'walkRight', 'run', 'crouch', 'jump'] as const
/** What its keys do, each by its use. */
export const WALK_KEYS =
  '{Walk forward} {Walk to the left} {Walk back} {Walk to the right} walk, {Run, while held} runs, {Jump} jumps, '
  + '{Crouch, while held} crouches, {Back to plain picking} leaves'
/** Milliseconds between two times that something is said. */
const SAYING = 150

/** Walking through the level at eye height: the mouse looks, W A S D walk, Shift runs, Space jumps, C crouches. */
export class WalkTool implements StageMode {
  readonly id = { tool: 'walk' } as const
  readonly title = 'Walk check'
  readonly walker: Walker
  private readonly held = new Set<StageUse>()
  private readonly before: Pose
  private readonly view: View
  private yaw: number
  private pitch: number
  private jump = false
  private said = 0
  private isOver = false
  private readonly listeners = new AbortController()

  /**
   * @param foot where to begin, @param sight which way to look
   * @param ended is told what came of it
   */
  constructor(
    private readonly world: ToolWorld,
    private readonly canvas: HTMLCanvasElement,
    settings: WalkSettings,
    foot: Vector3,
    sight: Vector3,
    private readonly onLockLost: () => void,
    private readonly ended: (walked: Walked) => void,
  ) {
    this.walker = new Walker(world.index(), settings, foot)
    this.view = world.stage.view
    this.before = this.view.savePose()
    this.yaw = Math.atan2(-sight.x, -sight.z)
    this.pitch = MathUtils.clamp(Math.asin(MathUtils.clamp(sight.y, -1, 1)), -0.4, 0.4)
    world.stage.handles.place(null)
    world.stage.handles.setGrips([])
    const options = { signal: this.listeners.signal }
    canvas.addEventListener('pointermove', ({ movementX, movementY }) => this.look(movementX, movementY), options)
    document.addEventListener(
      'pointerlockchange',
      () => document.pointerLockElement === null && !this.isOver && this.onLockLost(),
      options,
    )
    // A key that is let go elsewhere is let go.
    window.addEventListener('blur', () => this.held.clear(), options)
    // Without a lock, which a browser may refuse, the mouse looks as long as it is over the stage.
    void Promise.resolve(canvas.requestPointerLock()).catch(() => {})
  }

  levelChanged(): void {
    this.walker.levelChanged()
  }

  begin(): void {
    this.view.driver = seconds => {
      this.step(seconds)
      return this.pose()
    }
    this.world.stage.requestDraw()
  }

  readonly hearsAll = true as const

  hover(): void {}

  press(): Gesture | null {
    if (document.pointerLockElement === null) void Promise.resolve(this.canvas.requestPointerLock()).catch(() => {})
    return null
  }

  key({ is, down }: KeyPress): boolean {
    const meant = USES.filter(is)
    for (const use of meant)
      if (down) this.held.add(use)
      else this.held.delete(use)
    if (down && is('jump')) this.jump = true
    return meant.length > 0
  }

  leave(): void {}

  stop(): void {
    if (this.isOver) return
    this.isOver = true
    this.listeners.abort()
    this.view.driver = null
    if (document.pointerLockElement === this.canvas) document.exitPointerLock()
    this.view.setPose(this.before)
    this.world.say(null)
    this.ended({ way: this.walker.way, stops: [...this.walker.stops.values()], length: this.walker.walked })
  }

  private look(dx: number, dy: number): void {
    this.yaw -= dx * TURN
    this.pitch = MathUtils.clamp(this.pitch - dy * TURN, -STEEPEST, STEEPEST)
    this.world.stage.requestDraw()
  }

  private step(seconds: number): void {
    const along = (axis: 0 | 1) => Math.sign([...this.held].reduce((sum, use) => sum + (WAYS[use]?.[axis] ?? 0), 0))
    this.walker.move(seconds, {
      forward: along(0),
      right: along(1),
      yaw: this.yaw,
      run: this.held.has('run'),
      jump: this.jump,
      crouch: this.held.has('crouch'),
    })
    this.jump = false
    this.said += seconds * 1000
    if (this.said > SAYING) {
      this.said = 0
      this.say()
    }
  }

  private pose(): Pose {
    const eye = this.walker.eyePoint
    const way = new Vector3(
      -Math.sin(this.yaw) * Math.cos(this.pitch),
      Math.sin(this.pitch),
      -Math.cos(this.yaw) * Math.cos(this.pitch),
    )
    return { eye, target: eye.clone().addScaledVector(way, 3), height: this.before.height }
  }

  private say(): void {
    const { walker, world } = this
    const { rect } = this.view
    const last = [...walker.stops.values()].at(-1)
    const level = world.level()
    world.say({
      at: { x: rect.x + 16, y: rect.y + rect.height - 150 },
      title: 'Walk check',
      value: walker.feet
        .toArray()
        .map(value => world.printLength(Math.round(value * 100) / 100))
        .join('  '),
      notes: [
        ...(walker.isOnFloor ? ['no ground here: on a floor below everything'] : walker.grounded ? [] : ['in the air']),
        ...(last && level.has(last.thing) ? [`stopped last by ${level.need(last.thing).name}`] : []),
        WALK_KEYS,
      ],
    })
  }
}
