import { useEventListener } from '@vueuse/core'
import { defineStore } from 'pinia'
import { ref } from 'vue'

/** Milliseconds without pointer or keys after which a hand is at rest. */
const REST = 350

/** Whether somebody is at work with pointer or keys right now: work in the background gives way meanwhile. */
export const useHand = defineStore('hand', () => {
  const atWork = ref(false)
  let timer: ReturnType<typeof setTimeout> | undefined

  useEventListener(
    ['pointerdown', 'pointermove', 'pointerup', 'wheel', 'keydown'],
    () => {
      atWork.value = true
      clearTimeout(timer)
      timer = setTimeout(() => (atWork.value = false), REST)
    },
    { capture: true, passive: true },
  )

  /** Resolves as soon as the hand rests. */
  async function rest(): Promise<void> {
    while (atWork.value) await new Promise(resolve => setTimeout(resolve, REST / 3))
  }

  return { atWork, rest }
})
