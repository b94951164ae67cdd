import { defineStore } from 'pinia'
import { ref } from 'vue'

/** Which of the editor's passing panels are open. */
export const usePanels = defineStore('panels', () => {
  const findOpen = ref(false)
  const similarOpen = ref(false)
  const renameManyOpen = ref(false)
  /** Asks the roster to rename the last picked in place. */
  const renaming = ref(false)

  /** One thing is renamed in its row, several in a form. */
  function rename(count: number): void {
    if (count > 1) renameManyOpen.value = true
    else renaming.value = true
  }

  return { findOpen, similarOpen, renameManyOpen, renaming, rename }
})
