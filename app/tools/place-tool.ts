import { Matrix4 } from 'three'
import { v7 } from 'uuid'
import type { Solid } from '~~/core/geometry/solid'
import type { Part } from '~~/core/kit/part'
import { createPlacement, freeName, lastOrder } from '~~/core/level/create'
import type { Placement } from '~~/core/level/schema'
import { localMatrix } from '~~/core/level/transform'
import type { Landing } from '~~/core/snap/landing'
import { findLanding, standingRotation } from '~~/core/snap/landing'
import type { PointerAt, ToolWorld } from './gesture'

/** Puts a part of the kit onto the surface under the pointer, as often as wanted. */
export class PlaceTool {
  private heading = 0
  private landing: Landing | null = null
  private pointer: PointerAt | null = null

  constructor(private readonly world: ToolWorld, readonly part: Part, private readonly solid: Solid) {
    world.stage.handles.place(null)
  }

  /** The ghost goes to the surface under the pointer. */
  hover(pointer: PointerAt): void {
    this.pointer = pointer
    const { stage } = this.world
    this.landing = findLanding(this.world.index(), stage.viewAt(pointer).rayAt(pointer), this.world.gridStep(pointer.ctrl))
    if (!this.landing) return this.leave()
    const { point } = this.landing
    stage.ghost.show(this.solid.geometries, localMatrix(this.transform(this.landing), new Matrix4()), this.solid.bounds, point[1])
    stage.sceneChanged()
    this.say(pointer, this.landing)
  }

  /** Turns the ghost by whole turn steps. */
  turn(steps: number): void {
    this.heading = (this.heading + steps * this.world.turnStep() + 360) % 360
    if (this.pointer) this.hover(this.pointer)
  }

  /** Puts one down where the ghost is. False if there is nothing under the pointer. */
  put(pointer: PointerAt): boolean {
    this.hover(pointer)
    if (!this.landing) return false
    const document = this.world.document()
    const placement = createPlacement({
      id: v7(),
      name: freeName(document, this.part.name),
      kind: 'part',
      partId: this.part.id,
      order: lastOrder(document, null),
      ...this.transform(this.landing),
    })
    const { id, ...fields } = placement
    const done = this.world.change(`Place ${placement.name}`.slice(0, 200), [{ do: 'put', id, fields }])
    if (done) this.world.pick([id])
    return done
  }

  /** The pointer has left the stage. */
  leave(): void {
    this.landing = null
    this.world.stage.ghost.hide()
    this.world.stage.requestDraw()
    this.world.say(null)
  }

  stop(): void {
    this.leave()
  }

  private transform({ point, normal }: Landing): Pick<Placement, 'translation' | 'rotation' | 'scale' | 'pivot'> {
    return { translation: point, rotation: standingRotation(normal, this.heading, this.world.isLeaning()), scale: [1, 1, 1], pivot: [0, 0, 0] }
  }

  private say(at: PointerAt, { point: [x, y, z], surfaceId }: Landing): void {
    const { printLength } = this.world
    const surface = surfaceId === null ? 'the ground plane' : this.world.document().need(surfaceId).name
    this.world.say({
      at,
      title: `Place ${this.part.name}`,
      value: `height ${printLength(y)}`,
      notes: [`on ${surface}`, `x ${printLength(x)}  z ${printLength(z)}`, `turned ${this.heading}° (wheel)`],
    })
  }
}
