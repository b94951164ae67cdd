import type { Remote } from 'comlink'
import { defineStore } from 'pinia'
import { usePlacing } from '../placing'
import { computed, ref, shallowRef } from 'vue'
import { v7 } from 'uuid'
import { MEGABYTE } from '~~/core/api/routes'
import type { CheckedFile } from '~~/core/api/schema'
import type { ImportChoice } from '~~/core/formats/import/choice'
import type { Part } from '~~/core/level/part'
import { OWN_KIT } from '~~/core/level/part'
import { asName } from '~~/core/units/text'
import { Latest } from '~/editor/latest'
import { api, ServerAway, UNREACHABLE, whatFailed } from '~/api/client'
import type { ImportFacts, ImportResult, ImportWork } from './import-work'
import { useKit } from '~/editor/kit'
import { useAuth } from '~/editor/auth'
import { useLevel } from '~/editor/level'
import { WorkerHost, WorkerTooLong } from '~/workers/host'

/** Seconds after which reading a file is ended. */
const LONGEST = 60
const CHOICE: ImportChoice = { unit: 'm', up: 'y', pivot: [0, -1, 0], whole: true, triangles: null, pixels: null }

/** What is being brought in: files that are looked at, chosen from, and stored. */
export const usePartImport = defineStore('part-import', () => {
  const kit = useKit()
  const auth = useAuth()
  const level = useLevel()
  const placing = usePlacing()
  /** What is looked at, as one binary glTF file. */
  const packed = shallowRef<Blob | null>(null)
  const isOpen = ref(false)
  const fileName = ref('')
  /** Why nothing can be brought in of it. */
  const refused = ref<string | null>(null)
  const facts = shallowRef<ImportFacts | null>(null)
  const checked = shallowRef<CheckedFile | null>(null)
  const choice = shallowRef<ImportChoice>(CHOICE)
  const result = shallowRef<ImportResult | null>(null)
  /** Of the pictures as they are in the file. */
  const textureBytes = ref(0)
  const isWorking = ref(false)
  /** How many parts are stored, of those that are being stored. */
  const storing = ref<{ done: number; of: number } | null>(null)
  /** Placed once it is there: it was dropped on the stage. */
  let placesIt = false
  const worker = new WorkerHost<ImportWork>(
    () => new Worker(new URL('./import-worker.ts', import.meta.url), { type: 'module' }),
    LONGEST,
  )
  const runs = new Latest()

  /** Whether nothing more is waited for and nothing is against it. */
  const canStore = computed(
    () =>
      refused.value === null
      && checked.value !== null
      && checked.value.errorCount === 0
      && result.value !== null
      && !isWorking.value
      && storing.value === null,
  )

  function close(): void {
    runs.callOff()
    worker.end()
    isOpen.value = false
    result.value = null
    storing.value = null
  }

  /** Looks at files that were chosen, or dropped on the stage. */
  async function look(files: readonly File[], onStage: boolean): Promise<void> {
    if (files.length === 0) return
    const isLatest = runs.next()
    placesIt = onStage
    fileName.value = (files.find(({ name }) => /\.(glb|gltf)$/i.test(name)) ?? files[0]!).name
    choice.value = CHOICE
    for (const each of [refused, facts, checked, result, storing, packed]) each.value = null
    isOpen.value = true
    isWorking.value = true
    const bytes = files.reduce((sum, { size }) => sum + size, 0)
    if (bytes > auth.largestFile)
      return refuse(`it is larger than the ${auth.largestFile / MEGABYTE} MB that are taken in here`)
    worker.end()
    const given = await Promise.all(
      files.map(async file => ({
        name: file.webkitRelativePath || file.name,
        bytes: new Uint8Array(await file.arrayBuffer()),
      })),
    )
    const glb = await inTime(async remote => remote.pack(given))
    if (!glb || !isLatest()) return
    if ('refused' in glb) return refuse(glb.refused)
    packed.value = new Blob([glb as Uint8Array<ArrayBuffer>])
    const opened = await inTime(async remote => remote.open(glb))
    if (!opened || !isLatest()) return
    if ('refused' in opened) refuse(opened.refused)
    else {
      facts.value = opened
      await choose({ unit: opened.unit })
    }
    // Also of what cannot be read: it may say where in the file.
    await check(isLatest, glb)
  }

  /** Looks at a file that ships with the application. */
  async function lookAt(address: string): Promise<void> {
    await kit.online(async () => {
      const bytes = await fetch(address)
        .then(answer => answer.blob())
        .catch(() => {
          throw new ServerAway(UNREACHABLE)
        })
      await look([new File([bytes], address.split('/').at(-1)!)], false)
    }, level.notify)
  }

  async function check(isLatest: () => boolean, glb: Uint8Array): Promise<void> {
    try {
      const told = await api.checkFile(glb)
      if (isLatest()) checked.value = told
    } catch (error) {
      if (isLatest() && refused.value === null) refuse(`it could not be checked: ${whatFailed(error)}`)
    }
  }

  function refuse(why: string): void {
    refused.value = `${why.charAt(0).toUpperCase()}${why.slice(1)}.`
    isWorking.value = false
  }

  /** What it would be by another choice; the newest wins. */
  async function choose(changed: Partial<ImportChoice>): Promise<void> {
    choice.value = { ...choice.value, ...changed }
    if (!worker.isRunning || !facts.value) return
    const asked = choice.value
    isWorking.value = true
    const made = await inTime(async remote => remote.choose(asked))
    if (!made || asked !== choice.value) return
    if ('refused' in made) return refuse(made.refused)
    result.value = made
    if (asked.pixels === null) textureBytes.value = made.pictures.reduce((sum, { facts: { bytes } }) => sum + bytes, 0)
    isWorking.value = false
  }

  /** @returns null if something else is looked at by now */
  async function inTime<T>(work: (remote: Remote<ImportWork>) => Promise<T>): Promise<T | { refused: string } | null> {
    try {
      return await worker.ask(work)
    } catch (error) {
      if (!(error instanceof WorkerTooLong)) throw error
      return { refused: 'reading it takes too long, and was ended' }
    }
  }

  /**
   * Stores the parts as chosen, one after the other; each wholly or not at all.
   *
   * @param given what is said of them; the name if it is one alone
   * @returns what went wrong; null if all are there
   */
  async function store(given: Pick<Part, 'name' | 'kind' | 'tags'>): Promise<string | null> {
    const parts = result.value?.parts ?? []
    if (!worker.isRunning || !canStore.value) return null
    storing.value = { done: 0, of: parts.length }
    const stored: Part[] = []
    for (const [i, { name, sockets, lamps }] of parts.entries()) {
      const called = asName(parts.length === 1 ? given.name : name)
      const glb = await inTime(async remote => remote.write(i, called))
      if (!glb) return null
      const unfit =
        'refused' in glb
          ? glb.refused
          : glb.length > auth.largestFile
            ? `as it is stored it has ${(glb.length / MEGABYTE).toFixed(0)} MB, which is more than ${auth.largestFile / MEGABYTE} MB: take fewer triangles or smaller textures`
            : null
      const wrong =
        unfit
        ?? (await kit.attempt(async () =>
          stored.push(
            await kit.bring(
              { ...given, id: v7(), name: called, inKit: true, kit: kit.shownKit ?? OWN_KIT, sockets, lamps },
              glb as Uint8Array,
            ),
          ),
        ))
      if (wrong !== null) {
        storing.value = null
        return stored.length > 0
          ? `${stored.length} of ${parts.length} are in the kit; ${called} is not: ${wrong}`
          : `${called}: ${wrong}`
      }
      storing.value = { done: i + 1, of: parts.length }
    }
    const places = placesIt
    close()
    if (places && stored.length === 1) placing.start(stored[0]!.id)
    else
      level.notify(
        stored.length === 1 ? `${stored[0]!.name} is in the kit` : `${stored.length} parts are in the kit`,
        [],
      )
    return null
  }

  return {
    packed,
    isOpen,
    fileName,
    refused,
    facts,
    checked,
    choice,
    result,
    textureBytes,
    isWorking,
    storing,
    canStore,
    look,
    lookAt,
    choose,
    store,
    close,
  }
})
