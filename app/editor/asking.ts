import { defineStore } from 'pinia'
import { shallowRef } from 'vue'

/** What somebody asks about by a question mark of the page. */
export const useAsking = defineStore('asking', () => {
  const about = shallowRef<Element | null>(null)

  /** @param mark that was pressed; the panel that it is in is what is meant */
  function ask(mark: Element | null): void {
    about.value = mark
  }

  return { about, ask }
})
