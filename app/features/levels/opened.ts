import { useLocalStorage } from '@vueuse/core'

/** Levels of which it is known when they were opened here. */
const MOST = 200

/** When levels were opened on this device last, in milliseconds, by their ids. */
export const useOpened = () => useLocalStorage<Record<string, number>>('handy-grid.opened', {})

/** Remembers that one is opened. */
export function rememberOpened(id: string): void {
  const opened = useOpened()
  const last = Object.entries({ ...opened.value, [id]: Date.now() }).sort(([, a], [, b]) => b - a)
  opened.value = Object.fromEntries(last.slice(0, MOST))
}
