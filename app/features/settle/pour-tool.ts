import { Matrix4, Vector3 } from 'three'
import { findLanding } from '~~/core/edit/snap/landing'
import { markerOwn } from '~~/core/level/create'
import type { Gesture, PointerAt, StageMode } from '~/editor/tools/gesture'
import { DraftTool } from '~/editor/tools/draft-tool'
import type { ToolWorld } from '~/editor/tools/tool-world'

/** The least circle that can be poured into, in metres. */
const LEAST = 0.1

/** Asks for a circle on a surface: a press is its middle, a drag how wide it is. */
export class PourTool extends DraftTool implements StageMode {
  readonly id = { tool: 'pour' } as const
  readonly title = 'Pour: drag a circle'

  constructor(
    world: ToolWorld,
    private readonly first: number,
    private readonly done: (middle: Vector3, radius: number) => void,
  ) {
    super(world)
  }

  hover(pointer: PointerAt): void {
    const middle = this.find(pointer)
    this.show(pointer, middle, this.first)
  }

  press(pointer: PointerAt): Gesture | null {
    const middle = this.find(pointer)
    if (!middle) return null
    let radius = this.first
    return {
      move: at => {
        const to = this.find(at)
        const away = to ? Math.hypot(to.x - middle.x, to.z - middle.z) : 0
        if (away > LEAST) radius = Math.round(away * 100) / 100
        this.show(at, middle, radius)
      },
      end: () => {
        this.leave()
        this.done(middle, radius)
      },
      cancel: () => this.leave(),
    }
  }

  private find(pointer: PointerAt): Vector3 | null {
    const landing = findLanding(this.world.index(), this.world.stage.viewAt(pointer).rayAt(pointer), 0)
    return landing && new Vector3(...landing.point)
  }

  private show(at: PointerAt, middle: Vector3 | null, radius: number): void {
    const { stage, printLength } = this.world
    if (!middle) return this.leave()
    const matrix = new Matrix4()
      .makeTranslation(middle.x, middle.y, middle.z)
      .scale(new Vector3(2 * radius, 0.6, 2 * radius))
    this.showDraft([{ own: markerOwn('volume', { shape: 'cylinder' }), matrix }])
    stage.hint({ target: middle })
    stage.moves()
    this.world.say({
      at,
      title: 'Pour',
      value: `${printLength(2 * radius)} across`,
      notes: ['drag how wide, let go to pour'],
    })
  }
}
