import { z } from 'zod'
import { changeSchema } from '~~/core/level/schema'
import { DeviceStore } from './device-store'

// Changes that the server does not take, with what they were: they wait here, out of the way of all others, until
// somebody decides.

const setApartSchema = z.strictObject({
  change: changeSchema,
  /** In words. */
  reason: z.string(),
  at: z.iso.datetime(),
})
const store = new DeviceStore('handy-grid-apart', 'changes', setApartSchema)

export type SetApart = z.infer<typeof setApartSchema>

const keyOf = (levelId: string, { change }: SetApart) => `${levelId}/${change.id}`

export async function listApart(levelId: string): Promise<SetApart[]> {
  return (await store.beginning(`${levelId}/`)).map(({ value }) => value).sort((a, b) => (a.at < b.at ? -1 : 1))
}

export function keepApart(levelId: string, apart: SetApart): Promise<void> {
  return store.put(keyOf(levelId, apart), apart)
}

export function dropApart(levelId: string, apart: SetApart): Promise<void> {
  return store.remove(keyOf(levelId, apart))
}
