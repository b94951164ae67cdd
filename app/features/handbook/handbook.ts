import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import type { Beginning } from '~~/core/api/starting-points'
import { reportError } from '~/errors/page-errors'

/** What is loaded when it is first opened. */
const loadContent = () => import('./content')
type Content = Awaited<ReturnType<typeof loadContent>>

/** Of a page the level that shows what it is about. */
export const EXAMPLES: Readonly<Record<string, Beginning>> = {
  'first-steps': 'boathouse-yard',
  'snapping': 'bridge-square',
  'lining-up': 'warehouse-passage',
  'repeating': 'warehouse-passage',
  'scattering': 'reed-bank',
  'checking': 'demo',
  'keeping': 'demo',
  'lantern-quay': 'demo',
}

/** The handbook: which page is open, and what was read before. */
export const useHandbook = defineStore('handbook', () => {
  const isOpen = ref(false)
  /** Over a dialog, which stays as it is; else beside the page. */
  const isOver = ref(false)
  const content = shallowRef<Content | null>(null)
  const page = ref('README')
  const anchor = ref('')
  const before = shallowRef<readonly { page: string; anchor: string }[]>([])

  /** Loads it, if that was not done yet. */
  async function load(): Promise<void> {
    try {
      content.value ??= await loadContent()
    } catch (error) {
      reportError(error, 'promise')
    }
  }

  /** Opens a page, at a heading of it. */
  function open(wanted = page.value, at = ''): void {
    void load()
    if (isOpen.value && (wanted !== page.value || at !== anchor.value))
      before.value = [...before.value, { page: page.value, anchor: anchor.value }]
    page.value = wanted
    anchor.value = at
    if (!isOpen.value) isOver.value = document.querySelector('.v-dialog.v-overlay--active [data-page]') !== null
    isOpen.value = true
  }

  function back(): void {
    const last = before.value.at(-1)
    if (!last) return
    before.value = before.value.slice(0, -1)
    page.value = last.page
    anchor.value = last.anchor
  }

  function close(): void {
    isOpen.value = false
    before.value = []
  }

  return { isOpen, isOver, content, page, anchor, before, load, open, back, close }
})
