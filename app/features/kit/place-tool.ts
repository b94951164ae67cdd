import { Box3, Matrix4 } from 'three'
import { cornersOf } from '~~/core/scene/shown'
import { v7 } from 'uuid'
import type { Solid } from '~~/core/mesh/solid'
import { createPlacement, freeName, lastOrder } from '~~/core/level/create'
import type { Operation, Placement } from '~~/core/level/schema'
import type { Vec3 } from '~~/core/math/vectors'
import type { Join } from '~~/core/edit/snap/sockets'
import { freeSocketsIn, joiningMatrix, nearestJoin, reachAt, socketsAt } from '~~/core/edit/snap/sockets'
import { joinName } from '~/editor/tools/drags/move'
import { decompose, localMatrix } from '~~/core/math/transform'
import type { Landing } from '~~/core/edit/snap/landing'
import { findLanding, standingRotation } from '~~/core/edit/snap/landing'
import type { Beside } from '~~/core/edit/snap/beside'
import { beside, isSteep } from '~~/core/edit/snap/beside'
import type { Gesture, PointerAt, StageMode } from '~/editor/tools/gesture'
import type { ToolNamed } from '~/editor/tools/tool-id'
import type { ToolWorld } from '~/editor/tools/tool-world'

/** What is put down: its mesh, and the fields and further operations of a new placement of it. */
export type ThingToPlace = {
  name: string
  solid: Solid
  pivot: Vec3
  make: () => { fields: Pick<Placement, 'kind'> & Partial<Placement>; before: Operation[] }
}

/** Puts a thing onto the surface under the pointer, as often as wanted. */
export class PlaceTool implements StageMode {
  private heading = 0
  private landing: Landing | null = null
  /** Where it comes to stand that is put onto a side. */
  private side: Beside | null = null
  private join: Join | null = null
  private pointer: PointerAt | null = null

  private thing: ThingToPlace

  /** @param next what is put down, the first time and after each time */
  constructor(
    private readonly world: ToolWorld,
    readonly id: ToolNamed<'place'>,
    readonly title: string,
    private readonly next: () => ThingToPlace,
  ) {
    this.thing = next()
    world.stage.handles.place(null)
  }

  /** The ghost goes to the surface under the pointer. */
  hover(pointer: PointerAt): void {
    this.pointer = pointer
    const { stage } = this.world
    this.landing = findLanding(
      this.world.finder(),
      stage.viewAt(pointer).rayAt(pointer),
      this.world.step('grid', pointer.ctrl).size,
    )
    if (!this.landing) return this.leave()
    const { solid, pivot } = this.thing
    const { isLeaning, steepSide, finder } = this.world
    this.side =
      isLeaning() || !isSteep(this.landing)
        ? null
        : beside(
            finder(),
            this.landing,
            solid,
            pivot,
            standingRotation(this.landing.normal, this.heading, false),
            steepSide(),
          )
    this.join = this.findJoin(pointer, this.landing)
    stage.ghost.show(
      solid.geometries,
      localMatrix(this.transform(this.landing), new Matrix4()),
      solid.bounds,
      (this.side?.point ?? this.landing.point)[1],
    )
    stage.hint(this.join && { target: this.join.other.point })
    stage.moves()
    stage.sceneChanged()
    this.say(pointer, this.landing)
  }

  /** Turns the ghost by a turn step. */
  wheel(delta: number): void {
    this.heading = (this.heading + Math.sign(delta) * (this.world.step('turn', false).size || 1) + 360) % 360
    if (this.pointer) this.hover(this.pointer)
  }

  press(pointer: PointerAt): Gesture | null {
    this.letGo(pointer)
    return null
  }

  /** Puts one down where the ghost is, if anything is under the pointer. */
  letGo(pointer: PointerAt): void {
    this.hover(pointer)
    if (!this.landing) return
    const level = this.world.level()
    const { fields: given, before } = this.thing.make()
    const placement = createPlacement({
      id: v7(),
      name: freeName(level, this.thing.name),
      order: lastOrder(level, null),
      ...given,
      ...this.transform(this.landing),
    })
    const { id, ...fields } = placement
    const joins = this.world.keepsPlaced() ? v7() : undefined
    const done = this.world.change(`Place ${placement.name}`, [...before, { do: 'put', id, fields }], joins)
    if (!done) return
    const { surfaceId } = this.landing
    if (joins !== undefined) this.world.keep({ ids: [id], by: [{ by: 'hug', id: surfaceId }], joins })
    this.world.pick([id])
    this.thing = this.next()
  }

  /** The pointer has left the stage. */
  leave(): void {
    this.landing = null
    this.join = null
    this.world.stage.hint(null)
    this.world.stage.ghost.hide()
    this.world.stage.requestDraw()
    this.world.say(null)
  }

  stop(): void {
    this.leave()
  }

  /** The ends that would click together. */
  private findJoin(pointer: PointerAt, landing: Landing): Join | null {
    const socketsOf = this.world.sockets(pointer.ctrl)
    const sockets = socketsOf?.(this.thing.solid) ?? []
    if (!socketsOf || sockets.length === 0) return null
    const own = socketsAt('', sockets, localMatrix(this.standing(landing), new Matrix4()))
    const aim = this.world.stage.viewAt(pointer).aim(pointer)
    const box = new Box3()
    for (const { point } of own) box.union(new Box3(point, point).clone().expandByScalar(reachAt(aim, point)))
    return nearestJoin(
      own,
      freeSocketsIn(this.world.finder(), box, socketsOf, () => true),
      aim,
    )
  }

  private transform(landing: Landing): Pick<Placement, 'translation' | 'rotation' | 'scale' | 'pivot'> {
    const standing = this.standing(landing)
    if (!this.join) return standing
    return {
      ...standing,
      ...decompose(joiningMatrix(this.join).multiply(localMatrix(standing, new Matrix4())), standing.pivot),
    }
  }

  private standing({ point, normal }: Landing): Pick<Placement, 'translation' | 'rotation' | 'scale' | 'pivot'> {
    return {
      translation: this.side?.point ?? point,
      rotation: standingRotation(normal, this.heading, this.world.isLeaning()),
      scale: [1, 1, 1],
      pivot: this.thing.pivot,
    }
  }

  private say(at: PointerAt, { point, normal, surfaceId }: Landing): void {
    const { printLength } = this.world
    const [x, y, z] = this.side?.point ?? point
    const nameOf = (id: string | null) => (id === null ? 'the ground plane' : this.world.nameOf(id))
    const where = !this.side
      ? `on ${nameOf(surfaceId)}`
      : this.side.standsOn === undefined
        ? `hangs on ${nameOf(surfaceId)}`
        : `stands on ${nameOf(this.side.standsOn)}, against ${nameOf(surfaceId)}`
    const matrix = localMatrix(this.transform({ point, normal, surfaceId }), new Matrix4())
    this.world.say({
      at,
      avoid: this.world.stage.viewAt(at).keptClear(cornersOf({ solid: this.thing.solid, matrix })),
      title: `Place ${this.thing.name}`,
      value: `height ${printLength(y)}`,
      notes: [
        this.join ? joinName(this.join, this.world.nameOf) : where,
        `x ${printLength(x)}  z ${printLength(z)}`,
        `turned ${this.heading}° (wheel)`,
      ],
    })
  }
}
