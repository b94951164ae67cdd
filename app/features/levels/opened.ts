import { z } from 'zod'
import { useKeptHere } from '~/editor/kept-here'

/** Levels of which it is known when they were opened here. */
const MOST = 200

const openedSchema = z.record(z.string(), z.number()).catch({})
export const readOpened = (kept: unknown) => openedSchema.parse(kept)

/** When levels were opened on this device last, in milliseconds, by their ids. */
export const useOpened = () => useKeptHere('opened', readOpened)

/** Remembers that one is opened. */
export function rememberOpened(id: string): void {
  const opened = useOpened()
  const last = Object.entries({ ...opened.value, [id]: Date.now() }).sort(([, a], [, b]) => b - a)
  opened.value = Object.fromEntries(last.slice(0, MOST))
}
