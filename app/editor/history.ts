import type { UndoStep, UndoSteps } from './saving/kept-steps'

/** What can be undone and redone in one open level, in order. Every state of it is told, to be shown and kept. */
export class History {
  constructor(
    private steps: UndoSteps,
    private readonly onSteps: (steps: UndoSteps) => void,
  ) {}

  get lastUndo(): UndoStep | undefined {
    return this.steps.undo.at(-1)
  }

  get lastRedo(): UndoStep | undefined {
    return this.steps.redo.at(-1)
  }

  /**
   * Takes up a step; what was undone before cannot be redone any more. One that joins the last is undone together with
   * it.
   */
  add(step: UndoStep): void {
    const { undo } = this.steps
    const last = undo.at(-1)
    if (last && step.joins !== undefined && last.joins === step.joins) {
      const both = {
        ...step,
        operations: [...step.operations, ...last.operations],
        left: [...(last.left ?? []), ...(step.left ?? [])],
      }
      this.set([...undo.slice(0, -1), both], [])
    } else this.set([...undo, step], [])
  }

  /** The next step joins no earlier one. */
  endJoining(): void {
    const { undo, redo } = this.steps
    const last = undo.at(-1)
    if (last?.joins !== undefined) this.set([...undo.slice(0, -1), { ...last, joins: undefined }], redo)
  }

  /** The last step was undone. @param back what does it again; null if it could not be undone, and is gone */
  undone(back: UndoStep | null): void {
    this.set(this.steps.undo.slice(0, -1), back ? [...this.steps.redo, back] : this.steps.redo)
  }

  /** What was undone last was done again. @param back what undoes it; null if it could not be done, and is gone */
  redone(back: UndoStep | null): void {
    this.set(back ? [...this.steps.undo, back] : this.steps.undo, this.steps.redo.slice(0, -1))
  }

  /** Without the steps of changes that are gone. */
  without(ids: ReadonlySet<string>): void {
    const left = (steps: readonly UndoStep[]) => steps.filter(({ id }) => !ids.has(id))
    this.set(left(this.steps.undo), left(this.steps.redo))
  }

  private set(undo: readonly UndoStep[], redo: readonly UndoStep[]): void {
    this.steps = { undo, redo }
    this.onSteps(this.steps)
  }
}
