import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'

/** Windows of one person on one level: they are not somebody else to each other. */
export const useOwnWindows = defineStore('own-windows', () => {
  /** By which id the server knows this window among the people of the level; null before it has said so. */
  const self = ref<string | null>(null)
  /** The others of the same person. */
  const others = shallowRef<ReadonlySet<string>>(new Set())
  const add = (id: string) => {
    if (!others.value.has(id)) others.value = new Set(others.value).add(id)
  }
  return { self, others, add }
})
