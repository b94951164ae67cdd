import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'

/**
 * Orders a list by dragging: what is held goes where the pointer is, as it goes.
 *
 * @param rowAt what lies under a point of the page; null beside all rows
 * @param move puts what has one name where the other is
 */
export function useReorder(rowAt: (x: number, y: number) => string | null, move: (name: string, to: string) => void) {
  const held = ref<string | null>(null)
  const whileHeld = () => (held.value === null ? null : window)

  useEventListener(whileHeld, 'pointermove', (event: PointerEvent) => {
    const to = rowAt(event.clientX, event.clientY)
    if (held.value !== null && to !== null && to !== held.value) move(held.value, to)
  })
  useEventListener(whileHeld, ['pointerup', 'pointercancel'], () => (held.value = null))

  return { held }
}
