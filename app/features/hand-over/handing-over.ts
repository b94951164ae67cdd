import { defineStore } from 'pinia'
import { computed, reactive, ref, shallowRef } from 'vue'
import { z } from 'zod'
import type { FormatName, HandOverReport } from '~~/core/formats/formats'
import { FORMATS } from '~~/core/formats/formats'
import { MOST_NAMED } from '~~/core/formats/out/scope'
import { CONVENTION_OF } from '~~/core/formats/table/convention'
import { topmost } from '~~/core/level/tree'
import { copyOf } from '~~/core/scene/copy-id'
import { api, whatFailed } from '~/api/client'
import { saveFile } from '~/editor/saving/save-file'
import { useLevel } from '~/editor/level'
import { useProgress } from '~/editor/progress'
import { useSettings } from '~/editor/settings'

/** What of a level is handed over. */
export type What = 'all' | 'picked' | 'layer'

/** Handing a level over: in which format and how, while a file is made, and what became of it. */
export const useHandingOver = defineStore('handing-over', () => {
  const level = useLevel()
  const settings = useSettings()
  const isOpen = ref(false)
  const what = ref<What>('all')
  const layer = ref<string | null>(null)
  const failed = ref('')
  /** Of the file that was made last in this window. */
  const done = shallowRef<{ format: FormatName; report: HandOverReport } | null>(null)
  /** Of the file that is being made. */
  const progress = useProgress()
  let gone: AbortController | null = null

  const format = computed(() => settings.kept.handOver.format)
  const kept = computed(() => settings.kept.handOver.options[format.value] ?? {})
  /** What stands where nothing was chosen: the numbers of tables as they are written here. */
  const usual = computed(
    (): Record<string, string> => (format.value === 'table' ? CONVENTION_OF[settings.kept.height] : {}),
  )
  const options = computed(() => ({ ...usual.value, ...kept.value }))
  const picked = computed(() =>
    topmost(level.view, new Set([...level.selection.ids].map(id => copyOf(id)?.arrangementId ?? id))),
  )

  /** What is asked for, as an address has it. */
  const query = computed(
    (): Record<string, string> => ({
      ...options.value,
      ...(format.value === 'level' || what.value === 'all'
        ? {}
        : what.value === 'picked'
          ? { only: picked.value.join(',') }
          : layer.value
            ? { layer: layer.value }
            : {}),
    }),
  )

  /** Why it cannot be asked for as it is; null if it can. */
  const wrong = computed(() => {
    if (format.value === 'level' || what.value === 'all') return null
    if (what.value === 'layer') return layer.value === null ? 'Choose a layer.' : null
    return picked.value.length === 0
      ? 'Nothing is picked.'
      : picked.value.length > MOST_NAMED
        ? `At most ${MOST_NAMED} things can be named; group them, or put them on a layer.`
        : null
  })

  function choose(chosen: FormatName): void {
    settings.kept.handOver.format = chosen
    failed.value = ''
    done.value = null
  }

  /** Sets a choice of the format, or lets go of it: it is as usual then. */
  function set(key: string, value: string | null): void {
    const { [key]: _before, ...rest } = kept.value
    settings.kept.handOver.options = {
      ...settings.kept.handOver.options,
      [format.value]: value === null ? rest : { ...rest, [key]: value },
    }
  }

  const optionsSchema = z.record(z.string().max(60), z.string().max(2000))

  /** What is wrong with choices that were kept; null if they can be made. */
  const checkOptions = (given: object) =>
    optionsSchema.safeParse(given).success ? null : 'something in it is no choice of this format.'

  /** Makes choices of the format that were kept. */
  function setAll(given: object): void {
    settings.kept.handOver.options = {
      ...settings.kept.handOver.options,
      [format.value]: optionsSchema.parse(given),
    }
  }

  /** The file is made by the server, so what waits here is sent first. */
  async function make(): Promise<void> {
    if (progress.isGoing.value || wrong.value) return
    failed.value = ''
    done.value = null
    const [ticket, of] = [progress.begin(), format.value]
    gone = new AbortController()
    try {
      await level.settled()
      if (level.saving.kind === 'away')
        failed.value = `${level.saving.reason} Your changes are kept; hand over when they are saved.`
      else if (level.summary) {
        const { file, report } = await api.handOver(level.summary.id, of, { ...query.value, ticket }, gone.signal)
        const name = `${level.summary.name}.${of === 'table' && query.value.separator === 'tab' ? 'tsv' : FORMATS[of].ending}`
        saveFile(file, name)
        done.value = { format: of, report }
        settings.kept.handOver.files = [
          { name, format: of, at: Date.now(), report },
          ...settings.kept.handOver.files,
        ].slice(0, 10)
      }
    } catch (error) {
      failed.value = gone.signal.aborted ? 'Cancelled.' : whatFailed(error)
    }
    progress.end()
  }

  function cancel(): void {
    gone?.abort()
  }

  /** A plan sheet as it would be, to be looked at. @throws ApiFailure, ServerAway */
  async function preview(signal: AbortSignal): Promise<Blob | null> {
    await level.settled()
    if (!level.summary) return null
    const { bill: _bill, ...rest } = query.value
    return (await api.handOver(level.summary.id, 'svg', rest, signal)).file
  }

  return {
    isOpen,
    what,
    layer,
    failed,
    done,
    progress: reactive(progress),
    format,
    options,
    usual,
    picked,
    query,
    wrong,
    choose,
    set,
    checkOptions,
    setAll,
    make,
    cancel,
    preview,
  }
})
