import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import type { FieldPath } from '~~/core/units/field'
import { readTextFile } from '~/editor/json-file'
import { useSettings } from '~/editor/settings'
import { readSettings } from '~/editor/settings-schema'
import type { Section } from './sections'
import { findSections, PORTABLE } from './sections'
import type { Portable } from './settings-file'
import { LARGEST_SETTINGS, portableOf, readSettingsFile, writeSettings } from './settings-file'

/** Looking for what can be set, and taking all of it along. */
export const useSetting = defineStore('setting', () => {
  const settings = useSettings()
  const { kept } = settings
  const isOpen = ref(false)
  const text = ref('')
  const told = ref('')
  const failed = ref('')
  const sections = computed(() => findSections(text.value))

  function open(): void {
    text.value = ''
    told.value = ''
    failed.value = ''
    isOpen.value = true
  }

  /** What has the values: panels as they are in a window as wide as this. */
  const values = computed(() => ({ ...kept, panels: settings.panels }))

  /** Sets one of them, by the way to it. */
  function set([key, panel]: FieldPath, value: unknown): void {
    if (key === 'panels') Object.assign(settings.panels, { [panel!]: value })
    else Object.assign(kept, { [key!]: value, ...(key === 'author' && { isNamed: true }) })
  }

  const take = (some: Portable) => Object.assign(kept, structuredClone(some))

  /** Puts some back to how they were at first; all of them for no section. */
  function back(section?: Section): void {
    const first = readSettings(null)
    const keys = section?.keys ?? PORTABLE
    take(Object.fromEntries(keys.map(key => [key, first[key]])) as Portable)
    told.value = `${section ? `“${section.name}” is` : 'All is'} as it was at first.`
    failed.value = ''
  }

  /** All that goes along as a file's text. */
  const asFile = () => writeSettings(portableOf(kept))

  /** Takes settings from a file; what is wrong with it is said, and then nothing is taken. */
  async function takeFile(file: Blob): Promise<void> {
    told.value = ''
    failed.value = ''
    const given = await readTextFile(file, LARGEST_SETTINGS, 'a file of settings')
    const read = given.ok ? readSettingsFile(given.text) : given
    if (read.ok) {
      take(read.settings)
      told.value = `${Object.keys(read.settings).length} settings are as the file says.`
    } else failed.value = `This file was not taken, and nothing was changed. ${read.error}`
  }

  return { isOpen, values, text, told, failed, sections, open, set, back, asFile, takeFile }
})
