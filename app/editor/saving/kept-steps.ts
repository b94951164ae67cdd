import { z } from 'zod'
import { operationSchema } from '~~/core/level/schema'
import { DeviceStore } from './device-store'
import { holdWindow } from './window-name'
import { notKept } from '~/errors/or-nothing'

// What can be undone and redone in a window, kept in the browser's database so that it lasts through a reload: a record
// for each step, and one for their order.

const stepSchema = z.object({
  id: z.string(),
  label: z.string(),
  operations: z.array(operationSchema),
  /** What it takes back: how that left things; not kept by earlier versions. */
  left: z.array(operationSchema).optional(),
  joins: z.string().optional(),
})
const orderSchema = z.strictObject({ undo: z.array(z.string()), redo: z.array(z.string()), at: z.number() })
const steps = new DeviceStore('handy-grid-steps', 'steps', stepSchema)
const orders = new DeviceStore('handy-grid-orders', 'orders', orderSchema)

/** What takes a change back, or does it again. */
export type UndoStep = z.infer<typeof stepSchema>
export type UndoSteps = { undo: readonly UndoStep[]; redo: readonly UndoStep[] }

/** UndoSteps that are kept for later; all of them can be undone as long as the page is open. */
const MOST = 1000

/** Keeps the steps of one level and window up to date on the device, writing only what is new. */
export class StepKeeper {
  private known = new Map<string, UndoStep>()
  private writing: Promise<void> = Promise.resolve()

  constructor(
    private readonly levelId: string,
    private readonly window: string,
  ) {}

  /** The steps this window had before a reload, or else those of the window closed last. */
  async load(): Promise<UndoSteps> {
    const all = (await orders.beginning(`${this.levelId}/`)).sort((a, b) => b.value.at - a.value.at)
    const own = all.find(({ key }) => key === this.key)
    let found = own
    for (const other of own ? [] : all) {
      if (found || !(await holdWindow(other.key.slice(this.levelId.length + 1)))) continue
      found = other
    }
    if (!found) return { undo: [], redo: [] }
    const read = async (ids: readonly string[]) =>
      (await Promise.all(ids.map(id => steps.get(`${found.key}/${id}`)))).filter(step => step !== undefined)
    const loaded = { undo: await read(found.value.undo), redo: await read(found.value.redo) }
    if (found === own) {
      for (const step of [...loaded.undo, ...loaded.redo]) this.known.set(step.id, step)
      return loaded
    }
    this.keep(loaded)
    await orders.remove(found.key)
    for (const id of [...found.value.undo, ...found.value.redo]) await steps.remove(`${found.key}/${id}`)
    return loaded
  }

  /**
   * Writes what has changed since the last time, one after the other. A device that keeps nothing is no reason to stop.
   */
  keep({ undo, redo }: UndoSteps): void {
    const kept = new Map([...undo.slice(-MOST), ...redo.slice(-MOST)].map(step => [step.id, step]))
    const added = [...kept.values()].filter(step => this.known.get(step.id) !== step)
    const gone = [...this.known.keys()].filter(id => !kept.has(id))
    this.known = kept
    const order = {
      undo: undo.slice(-MOST).map(({ id }) => id),
      redo: redo.slice(-MOST).map(({ id }) => id),
      at: Date.now(),
    }
    this.writing = this.writing
      .then(async () => {
        for (const step of added) await steps.put(`${this.key}/${step.id}`, step)
        await orders.put(this.key, order)
        for (const id of gone) await steps.remove(`${this.key}/${id}`)
      })
      .catch(notKept)
  }

  private get key(): string {
    return `${this.levelId}/${this.window}`
  }
}
