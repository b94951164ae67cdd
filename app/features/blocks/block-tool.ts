import { Matrix4, Vector3 } from 'three'
import { v7 } from 'uuid'
import type { BlockShape } from '~~/core/mesh/block'
import { blockSize, isRound } from '~~/core/mesh/block'
import { shapeKey } from '~~/core/mesh/block-key'
import type { Drawn } from '~~/core/edit/draw-block'
import { BlockDrawing } from '~~/core/edit/draw-block'
import { riserAndTread, stairWarnings } from '~~/core/mesh/stairs'
import { createPlacement, freeName, lastOrder } from '~~/core/level/create'
import type { Operation } from '~~/core/level/schema'
import { localMatrix } from '~~/core/math/transform'
import type { LevelAxis } from '~~/core/units/height'
import { findLanding } from '~~/core/edit/snap/landing'
import { findSnapPoint } from '~~/core/edit/snap/vertex'
import { cornersOf } from '~~/core/scene/shown'
import type { Gesture, KeyPress, ModeWork, PointerAt, StageMode } from '~/editor/tools/gesture'
import type { ToolWorld } from '~/editor/tools/tool-world'
import { CLICK_SLACK } from '~/editor/tools/pick-tool'

export type BlockToDraw = { shape: BlockShape; color: string }

const NAMES: Record<BlockShape['type'], string> = {
  box: 'Box',
  slab: 'Slab',
  cylinder: 'Cylinder',
  cone: 'Cone',
  ball: 'Ball',
  ring: 'Ring',
  wedge: 'Wedge',
  steps: 'Steps',
  tube: 'Tube',
}

/**
 * Draws blocks on the stage: a drag draws the base, then the pointer pulls up the height, and a click sets it. A click
 * without a drag puts one down with the numbers of the bench. `=` types the numbers.
 */
export class BlockTool implements StageMode {
  readonly id = { tool: 'block' } as const
  readonly title: string
  private drawing: BlockDrawing | null = null
  private stage: 'base' | 'height' = 'base'
  private latest: PointerAt | null = null
  private typing = false

  constructor(
    private readonly world: ToolWorld,
    private readonly block: () => BlockToDraw,
  ) {
    this.title = `Drawing a ${NAMES[block().shape.type].toLowerCase()}`
    world.stage.handles.place(null)
  }

  hover(pointer: PointerAt): void {
    this.latest = pointer
    if (this.typing) return
    if (this.drawing) {
      this.pull(pointer)
      return
    }
    const landing = this.land(pointer)
    this.world.stage.hint(landing ? { target: new Vector3(...landing.point) } : null)
    this.world.say(
      landing && {
        at: pointer,
        title: this.title,
        value: landing.point.map(value => this.world.printLength(value)).join('  '),
        notes: ['drag the base, then pull up the height', 'a click puts one down with the numbers of the bench'],
      },
    )
  }

  press(pointer: PointerAt): Gesture | null {
    if (this.typing) return null
    if (this.drawing) {
      this.pull(pointer)
      this.finish()
      return null
    }
    const landing = this.land(pointer)
    if (!landing) return null
    const drawing = new BlockDrawing(this.block().shape, new Vector3(...landing.point), new Vector3(...landing.normal))
    let wandered = false
    return {
      move: to => {
        this.latest = to
        wandered ||= Math.hypot(to.x - pointer.x, to.y - pointer.y) > CLICK_SLACK
        if (!wandered || this.typing) return
        this.drawing = drawing
        this.world.stage.workIn(drawing.base)
        drawing.drawBase(this.ray(to), this.gridStep(to))
        this.show(to)
      },
      end: to => {
        if (!wandered) this.putAsTyped(landing.point, drawing)
        else if (!drawing.hasBase) this.cancelDrawing()
        else this.afterBase(to)
      },
      cancel: () => this.cancelDrawing(),
      goesOn: () => this.typing,
      key: press => this.key(press),
    }
  }

  key({ is, down }: KeyPress): boolean {
    if (down && is('finish') && this.drawing?.hasBase && !this.typing) {
      this.finish()
      return true
    }
    if (!down || !is('type') || !this.drawing || this.typing) return false
    this.type()
    return true
  }

  work(): ModeWork | null {
    const { drawing, stage, latest } = this
    if (!drawing || !latest) return null
    return {
      what: `the ${NAMES[this.block().shape.type].toLowerCase()} that was drawn`,
      keep: drawing.hasBase ? () => this.finish() : null,
      drop: () => this.cancelDrawing(),
      resume: () => {
        ;[this.drawing, this.stage] = [drawing, stage]
        this.world.stage.workIn(drawing.base)
        this.show(latest)
      },
    }
  }

  leave(): void {
    if (this.drawing) return
    this.world.stage.hint(null)
    this.world.say(null)
  }

  stop(): void {
    this.cancelDrawing()
    this.leave()
  }

  private cancelDrawing(): void {
    this.drawing = null
    this.stage = 'base'
    this.typing = false
    this.world.ask(null)
    this.world.stage.ghost.hide()
    this.world.stage.hint(null)
    this.world.stage.workIn(null)
    this.world.stage.sceneChanged()
    this.world.say(null)
  }

  private afterBase(pointer: PointerAt): void {
    const { drawing } = this
    if (!drawing) return
    if (!drawing.hasHeight) {
      this.finish()
      return
    }
    this.stage = 'height'
    drawing.startHeight(this.ray(pointer), this.world.stage.view.directions())
    this.show(pointer)
  }

  /** Pulls up the height; over a corner of something, with vertex snap, as high as that. */
  private pull(pointer: PointerAt): void {
    const { drawing, world } = this
    if (!drawing) return
    const kinds = world.moveSnaps(pointer.ctrl).vertex
    const caught =
      kinds && findSnapPoint(world.level(), world.finder(), world.stage.view.aim(pointer), kinds, () => true)
    if (caught) drawing.reachTo(caught.point)
    else drawing.drawHeight(this.ray(pointer), this.gridStep(pointer))
    world.stage.hint(caught ? { target: caught.point } : null)
    this.show(pointer, caught ? [`as high as ${world.nameOf(caught.id)}`] : [])
  }

  private type(): void {
    const drawing = this.drawing!
    this.typing = true
    this.world.say(null)
    const [width, height, depth] = blockSize(drawing.drawn.block)
    const fields = [
      ...(this.stage === 'base'
        ? [
            { ...amount('Width', 0), value: width },
            { ...amount('Depth', 2), value: depth },
          ]
        : []),
      ...(drawing.hasHeight ? [{ ...amount('Height', 1), value: height }] : []),
    ]
    const isBase = this.stage === 'base'
    const round = isRound(drawing.drawn.block)
    const apply = (values: number[]) => {
      if (isBase) drawing.setBase(values[0]! * (round ? 0.5 : 1), round ? 0 : values[1]!)
      const tall = isBase ? values[2] : values[0]
      if (tall !== undefined) drawing.setHeight(tall)
      this.show(this.latest!)
    }
    this.world.ask({
      at: this.latest!,
      title: this.title,
      fields,
      change: apply,
      commit: () => {
        this.world.gestureDone()
        this.finish()
      },
      cancel: () => {
        this.world.gestureDone()
        this.cancelDrawing()
      },
    })
  }

  private show(pointer: PointerAt, notes: string[] = []): void {
    const { world } = this
    const { block, translation, rotation } = this.drawing!.drawn
    const solid = world.solid(shapeKey({ shape: block, color: this.block().color }))!
    const matrix = localMatrix({ translation, rotation, scale: [1, 1, 1], pivot: [0, 0, 0] }, new Matrix4())
    world.stage.ghost.show(solid.geometries, matrix, solid.bounds, translation[1])
    world.stage.moves()
    world.stage.sceneChanged()
    if (this.typing) return
    const size = blockSize(block).map(value => world.printLength(value))
    world.say({
      at: pointer,
      avoid: world.stage.view.keptClear(cornersOf({ solid, matrix })),
      title:
        this.stage === 'base'
          ? `${this.title}: base`
          : `${this.title}: ${block.type === 'slab' ? 'thickness' : 'height'}`,
      value: this.stage === 'base' ? `${size[0]} × ${size[2]}` : size[1]!,
      notes: [
        ...notes,
        ...(block.type === 'steps' ? stairWarnings(riserAndTread(block)) : []),
        '{Type numbers instead} types numbers',
      ],
    })
  }

  private finish(): void {
    const drawn = this.drawing!.drawn
    this.cancelDrawing()
    this.put(drawn)
  }

  private putAsTyped(point: readonly [number, number, number], drawing: BlockDrawing): void {
    this.put({ block: this.block().shape, translation: [...point], rotation: drawing.drawn.rotation })
  }

  private put({ block, translation, rotation }: Drawn): void {
    const level = this.world.level()
    const blockId = v7()
    const name = freeName(level, NAMES[block.type])
    const { id, ...fields } = createPlacement({
      id: v7(),
      name,
      kind: 'block',
      blockId,
      order: lastOrder(level, null),
      translation,
      rotation,
    })
    const operations: Operation[] = [
      { do: 'put-block', id: blockId, fields: { shape: block, color: this.block().color } },
      { do: 'put', id, fields },
    ]
    if (this.world.change(`Draw ${name}`, operations)) this.world.pick([id])
  }

  private land(pointer: PointerAt) {
    return findLanding(this.world.finder(), this.ray(pointer), this.gridStep(pointer))
  }

  private ray(pointer: PointerAt) {
    return this.world.stage.viewAt(pointer).rayAt(pointer)
  }

  private gridStep({ ctrl }: PointerAt): number {
    return this.world.step('grid', ctrl).size
  }
}

/** How much there is along an axis, whichever way. */
const amount = (label: string, axis: LevelAxis) => ({ label, quantity: 'length', axis, isAmount: true }) as const
