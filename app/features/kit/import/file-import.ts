import { defineStore } from 'pinia'
import { computed, reactive, ref, shallowRef } from 'vue'
import { MEGABYTE } from '~~/core/api/routes'
import type { ImportAnswer } from '~~/core/api/schema'
import { FormatError } from '~~/core/formats/format-error'
import { CONVENTION_OF } from '~~/core/formats/table/convention'
import type { Table, TableMapping } from '~~/core/formats/table/read-table'
import { readCells } from '~~/core/formats/table/read-table'
import { asName } from '~~/core/units/text'
import { api, whatFailed } from '~/api/client'
import { Latest } from '~/editor/latest'
import { usePartImport } from './part-import'
import { useKit } from '~/editor/kit'
import { useAuth } from '~/editor/auth'
import { useLevel } from '~/editor/level'
import { useProgress } from '~/editor/progress'
import { useSettings } from '~/editor/settings'

/** Whether a level becomes a new one, or goes into the one that is open. */
export type Whereto = 'new' | 'here'

/** Characters of a table that are looked at for its first rows. */
const FIRST = 60_000

/** What was dropped or chosen that is more than a part: a level, or a table of placements. */
export const useFileImport = defineStore('file-import', () => {
  const settings = useSettings()
  const auth = useAuth()
  const level = useLevel()
  const kit = useKit()
  const partImport = usePartImport()
  const file = shallowRef<File | null>(null)
  const where = ref<Whereto>('new')
  /** What would happen; null until it is known. */
  const dry = shallowRef<ImportAnswer | null>(null)
  const failed = ref<string | null>(null)
  const isWorking = ref(false)
  /** Of what is looked at or brought in. */
  const progress = useProgress()
  /** The first rows of a table. */
  const table = shallowRef<Table | null>(null)
  const mapping = shallowRef<TableMapping | null>(null)
  const runs = new Latest()

  const isOpen = computed(() => file.value !== null)
  /** Whether there is a level to put something into. */
  const hasLevel = computed(() => level.summary !== null && !auth.mayOnlyRead)
  const canBring = computed(() => dry.value !== null && dry.value.errorCount === 0 && !isWorking.value)

  /** Tells by a file's name what looks at it; false if that is nothing here. */
  const isMine = (name: string) => /\.(handygrid|csv|tsv)$/i.test(name)

  /** Looks at whatever was dropped or chosen, by what it is. */
  async function take(files: readonly File[], onStage: boolean): Promise<void> {
    const mine = files.find(({ name }) => isMine(name))
    if (mine) await look(mine)
    else if (level.summary) await partImport.look(files, onStage)
    else if (files[0]) await look(files[0])
  }

  async function look(given: File): Promise<void> {
    close()
    file.value = given
    where.value = hasLevel.value && /\.(csv|tsv)$/i.test(given.name) ? 'here' : 'new'
    if (given.size > auth.largestFile) {
      failed.value = `It is larger than the ${auth.largestFile / MEGABYTE} MB that are taken in here.`
      return
    }
    if (/\.(csv|tsv)$/i.test(given.name) && !(await readHead(given))) return
    await tryOut()
  }

  /** The first rows of a table, and what its columns may mean. False, with what is wrong, if it is none. */
  async function readHead(given: File): Promise<boolean> {
    try {
      const text = await given.slice(0, FIRST).text()
      const head = given.size > FIRST ? text.slice(0, text.lastIndexOf('\n') + 1) : text
      table.value = readCells(head, CONVENTION_OF[settings.kept.height])
      mapping.value = table.value.guess
      return true
    } catch (error) {
      if (!(error instanceof FormatError)) throw error
      failed.value = `This cannot be read as a table: ${error.message}.`
      return false
    }
  }

  function query(): Record<string, string> {
    // Others than tables say themselves what they are called.
    return {
      ...(table.value ? { name: asName(file.value!.name.replace(/\.[^.]*$/, '')) } : {}),
      ...(where.value === 'here' && level.summary ? { into: level.summary.id } : {}),
      ...(mapping.value ? { mapping: JSON.stringify(mapping.value) } : {}),
    }
  }

  /** What would happen as things stand; the newest wins. */
  async function tryOut(): Promise<void> {
    if (!file.value) return
    const isLatest = runs.next()
    failed.value = null
    isWorking.value = true
    try {
      await level.settled()
      const said = await api.importFile(file.value, { ...query(), dry: 'true', ticket: progress.begin() })
      if (isLatest()) dry.value = said
    } catch (error) {
      if (isLatest()) {
        dry.value = null
        failed.value = whatFailed(error)
      }
    }
    if (isLatest()) {
      progress.end()
      isWorking.value = false
    }
  }

  function choose(to: Whereto): void {
    where.value = to
    void tryOut()
  }

  function map(changed: Partial<TableMapping>): void {
    if (!mapping.value) return
    mapping.value = { ...mapping.value, ...changed }
    void tryOut()
  }

  /** Brings it in. @returns the id of the level to open, if it became a new one */
  async function bring(): Promise<string | null> {
    if (!file.value || !canBring.value) return null
    isWorking.value = true
    failed.value = null
    try {
      await level.settled()
      const isHere = where.value === 'here'
      const asked = { ...query(), ticket: progress.begin(), ...(isHere ? { apply: 'false' } : {}) }
      const done = await api.importFile(file.value, asked)
      // Parts are known before things that show them are there.
      if (done.format !== 'table') await kit.load()
      const isDone = !isHere || level.change(`Bring in ${done.name}`, done.operations ?? [])
      if (isDone) close()
      return isHere ? null : done.levelId
    } catch (error) {
      failed.value = whatFailed(error)
      isWorking.value = false
      return null
    } finally {
      progress.end()
    }
  }

  function close(): void {
    runs.callOff()
    for (const each of [file, dry, failed, table, mapping]) each.value = null
    progress.end()
    isWorking.value = false
  }

  return {
    file,
    isOpen,
    where,
    hasLevel,
    dry,
    failed,
    isWorking,
    progress: reactive(progress),
    table,
    mapping,
    canBring,
    take,
    look,
    choose,
    map,
    bring,
    close,
  }
})
