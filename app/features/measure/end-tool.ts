import type { Vector3 } from 'three'
import type { PointOn } from '~~/core/level/fields'
import { endAt } from '~~/core/measure/definition'
import type { Gesture, PointerAt, StageMode } from '~/editor/tools/gesture'
import type { ToolWorld } from '~/editor/tools/tool-world'
import { findPoint } from './find-point'

/** What the tool needs of whoever keeps the measure. */
export type EndHooks = {
  /** Shows the measure with the end there, and says what it comes to; null ends that. */
  show: (end: PointOn | null) => string[]
  keep: (end: PointOn) => void
  /** Gives the stage back. */
  done: () => void
}

/** Moves an end of a measure: by a drag, or after a click to where the next one is. */
export class EndTool implements StageMode {
  readonly id = { tool: 'measure-end' } as const

  /** @param from the end before it, for right angles on edges */
  constructor(
    private readonly world: ToolWorld,
    readonly title: string,
    private readonly from: Vector3 | null,
    private readonly hooks: EndHooks,
  ) {}

  hover(pointer: PointerAt): void {
    const found = findPoint(this.world, pointer, { snaps: true, from: this.from })
    this.world.stage.handles.place(null)
    this.world.stage.setHovered(null)
    this.world.stage.hint(found && { target: found.at })
    const [value, ...more] = this.hooks.show(found && endAt(this.world.level(), found.on, found.at))
    this.world.say({
      at: pointer,
      title: this.title,
      value: value ?? 'nothing here',
      notes: [...more, ...(found ? [found.says] : []), 'Ctrl takes the very spot'],
    })
  }

  press(pointer: PointerAt): null {
    this.put(pointer)
    this.hooks.done()
    return null
  }

  /** The same from a press to its release. */
  drag(): Gesture {
    return {
      move: pointer => this.hover(pointer),
      end: pointer => {
        this.stop()
        this.put(pointer)
        this.hooks.done()
      },
      cancel: () => {
        this.stop()
        this.hooks.done()
      },
    }
  }

  leave(): void {
    this.world.stage.hint(null)
    this.world.say(null)
  }

  stop(): void {
    this.hooks.show(null)
    this.leave()
  }

  private put(pointer: PointerAt): void {
    const found = findPoint(this.world, pointer, { snaps: true, from: this.from })
    if (found) this.hooks.keep(endAt(this.world.level(), found.on, found.at))
  }
}
