import type { Claim } from '~/stage/slot'
import type { ShownMark } from '~/stage/mark-shapes'
import type { ToolWorld } from './tool-world'

/** A tool that shows a mark where it would come to be; what its kinds have in common. */
export abstract class DraftTool {
  protected readonly showDraft: Claim<ShownMark[]>

  constructor(protected readonly world: ToolWorld) {
    this.showDraft = world.stage.shown.marks.shapes.claimDraft()
    world.stage.handles.place(null)
    world.stage.handles.setGrips([])
  }

  leave(): void {
    const { stage } = this.world
    stage.hint(null)
    this.showDraft(null)
    stage.requestDraw()
    this.world.say(null)
  }

  stop(): void {
    this.leave()
  }
}
