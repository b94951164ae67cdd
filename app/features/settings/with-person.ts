import { useDebounceFn, useDocumentVisibility } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'
import type { KeptSettings } from '~~/core/api/person-settings'
import type { Json } from '~~/core/units/json-bounds'
import { z } from 'zod'
import { api, ApiFailure, ServerAway, whatFailed } from '~/api/client'
import { useAuth } from '~/editor/auth'
import { useKeptHere } from '~/editor/kept-here'
import { useSettings } from '~/editor/settings'
import type { Settings } from '~/editor/settings-schema'
import { readSettings } from '~/editor/settings-schema'
import { PORTABLE } from './sections'
import { settingsFrom, VERSION } from './settings-file'

/** What goes along with a person: all that is on the page of settings, and what was kept of forms and steps. */
const ALONG = [...PORTABLE, 'presets', 'recipes'] as const satisfies readonly (keyof Settings)[]
type Along = (typeof ALONG)[number]

/** Milliseconds after which what was set is sent, and after which it is tried again. */
const [SOON, AGAIN] = [1500, 20_000]

const awaySchema = z.object({ person: z.string().nullable(), waiting: z.array(z.enum(ALONG)) })

/** Whose settings these are, and which were set here and not sent yet. */
const useAway = () =>
  useKeptHere(
    'settings-with',
    kept => awaySchema.safeParse(kept).data ?? { person: null as string | null, waiting: [] as Along[] },
  )

/** Takes along how somebody works who came in by name: to the server, and from there to wherever they come in next. */
export const useWithPerson = defineStore('with-person', () => {
  const auth = useAuth()
  const settings = useSettings()
  const away = useAway()
  /** Why it is not so, in words. */
  const failed = ref('')
  const person = computed(() => auth.session.person)
  /** Which are taken along; none before it is known what there is already, or where a newer program has kept them. */
  const isOn = ref(false)

  const textOf = (key: Along) => JSON.stringify(settings.kept[key])
  /** Each as it was when it was looked at last, as text. */
  const known = new Map(ALONG.map(key => [key, textOf(key)]))

  const wait = (keys: readonly Along[]) => (away.value.waiting = [...new Set([...away.value.waiting, ...keys])])

  /** Notes at once that one was set, so that it is not lost where the page is left now. */
  function note(key: Along): void {
    const text = textOf(key)
    if (text === known.get(key)) return
    known.set(key, text)
    wait([key])
    void soon()
  }

  /** Takes what is kept with the person, but for what was set here meanwhile. */
  async function fetchKept(): Promise<void> {
    const of = person.value
    if (!of) return
    try {
      const { kept } = await api.personSettings()
      if (person.value?.id !== of.id) return
      if (away.value.person !== of.id) begunBy(of.id)
      failed.value = take(kept)
      isOn.value = failed.value === '' || kept === null || kept.version <= VERSION
    } catch (error) {
      failed.value = whatFailed(error)
      if (error instanceof ServerAway) setTimeout(() => void fetchKept(), AGAIN)
      return
    }
    await send()
  }

  /** Somebody else than before is here: what one has set is not the next one's, but a guest brings it along. */
  function begunBy(id: string): void {
    if (away.value.person !== null) put(firstOf(readSettings(null)))
    away.value = { person: id, waiting: [] }
  }

  /** Sets what is not to be sent back. */
  function put(some: Partial<Pick<Settings, Along>>): void {
    for (const key of Object.keys(some) as Along[]) known.set(key, JSON.stringify(some[key]))
    Object.assign(settings.kept, some)
  }

  /** @returns what is wrong with it, in words */
  function take(kept: KeptSettings | null): string {
    if (kept === null) {
      // Whoever comes with their own ways brings them.
      const first = readSettings(null)
      wait(ALONG.filter(key => key !== 'author' && textOf(key) !== JSON.stringify(first[key])))
      return ''
    }
    if (kept.version > VERSION)
      return 'A newer version of this program has kept your settings; here they are as on this device.'
    const { settings: given, wrong } = settingsFrom(kept.version, kept.settings, ALONG)
    for (const key of away.value.waiting) delete given[key]
    put(given)
    if (kept.version < VERSION) wait(ALONG)
    return wrong.length > 0 ? `Of what is kept with you, this was left out: ${wrong[0]!.why}` : ''
  }

  /** Sends some at once; where that is refused each by itself, so that one that is too large costs no other. */
  async function sendSome(keys: readonly Along[]): Promise<void> {
    const sent = new Map(keys.map(key => [key, textOf(key)]))
    const settled = () => {
      away.value.waiting = away.value.waiting.filter(key => sent.get(key) !== textOf(key))
    }
    try {
      const plain = Object.fromEntries([...sent].map(([key, text]) => [key, JSON.parse(text) as Json]))
      await api.keepSettings({ version: VERSION, settings: plain })
      settled()
    } catch (error) {
      if (!(error instanceof ApiFailure) || error.code === 'newer') throw error
      if (keys.length > 1) for (const key of keys) await sendSome([key])
      else {
        // It waits no longer, until it is another.
        settled()
        failed.value = `“${keys[0]!}” could not be kept with you: ${whatFailed(error)}`
      }
    }
  }

  let sending = false
  async function send(): Promise<void> {
    const { waiting, person: of } = away.value
    if (!isOn.value || sending || waiting.length === 0 || of === null || of !== person.value?.id) return
    sending = true
    failed.value = ''
    try {
      await sendSome(waiting)
    } catch (error) {
      failed.value = `They could not be kept with you: ${whatFailed(error)}`
      if (error instanceof ServerAway) setTimeout(() => void send(), AGAIN)
    } finally {
      sending = false
    }
    if (failed.value === '' && away.value.waiting.length > 0) await send()
  }
  const soon = useDebounceFn(send, SOON)

  /** Begins to take along, for as long as the page is open. */
  function begin(): void {
    watch(
      () => person.value?.id,
      () => {
        isOn.value = false
        failed.value = ''
        void fetchKept()
      },
      { immediate: true },
    )
    for (const key of ALONG)
      watch(
        () => settings.kept[key],
        () => note(key),
        { deep: true, flush: 'sync' },
      )
    // What was set on another device meanwhile is there when one comes back.
    watch(useDocumentVisibility(), seen => seen === 'visible' && isOn.value && void fetchKept())
  }

  /** With whom they are kept, in words; nothing for who is not known by name. */
  const says = computed(() =>
    person.value ? failed.value || `Kept with ${person.value.name}, wherever you come in.` : 'Kept in this browser.',
  )

  return { begin, says, failed, send, fetchKept }
})

const firstOf = (settings: Settings): Pick<Settings, Along> =>
  Object.fromEntries(ALONG.map(key => [key, settings[key]])) as Pick<Settings, Along>
