import type { UseStore } from 'idb-keyval'
import { createStore, del, entries, get, set } from 'idb-keyval'
import type { z } from 'zod'

/** Records of one kind in the browser's database, each read back only if it still makes sense. */
export class DeviceStore<S extends z.ZodType> {
  private opened: UseStore | undefined

  /** @param name of the database, which holds these alone */
  constructor(
    private readonly name: string,
    private readonly table: string,
    private readonly schema: S,
  ) {}

  async get(key: string): Promise<z.output<S> | undefined> {
    return this.schema.safeParse(await get(key, this.open())).data
  }

  put(key: string, value: z.input<S>): Promise<void> {
    return set(key, value, this.open())
  }

  remove(key: string): Promise<void> {
    return del(key, this.open())
  }

  /** Those whose keys begin so, in the order of their keys. */
  async beginning(prefix: string): Promise<{ key: string; value: z.output<S> }[]> {
    const all = await entries<string, unknown>(this.open())
    return all
      .filter(([key]) => key.startsWith(prefix))
      .flatMap(([key, value]) => {
        const parsed = this.schema.safeParse(value)
        return parsed.success ? [{ key, value: parsed.data }] : []
      })
  }

  private open(): UseStore {
    return (this.opened ??= createStore(this.name, this.table))
  }
}
